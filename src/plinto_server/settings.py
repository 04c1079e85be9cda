"""Settings; whatever differs between houses comes from the environment."""

import os
import secrets
from datetime import timedelta
from pathlib import Path

from plinto_server import machines

ROOT = Path(__file__).resolve().parents[2]
DATA_DIR = Path(os.environ.get("PLINTO_DATA", ROOT / "var"))
#: What can be computed again, by digest: safe to share and to throw away.
CACHE_DIR = Path(os.environ.get("PLINTO_CACHE") or DATA_DIR / "cache")
#: Where presses, printers and instruments are found: a dotted name of a tuple of `plinto_server.devices.Device`.
DEVICES = os.environ.get(
    "PLINTO_DEVICES", "plinto_demo.devices.DEVICES" if os.environ.get("PLINTO_DEMO") == "1" else ""
)
#: The demo shows its account on the sign-in page.
DEMO = os.environ.get("PLINTO_DEMO") == "1"
DEBUG = False


# What is written here is nobody else's: not the database, not the results, not the key.
os.umask(0o077)


def _secret_key() -> str:
    """From the environment, else one made on first use and kept beside the data; a torn one is made anew."""
    if key := os.environ.get("PLINTO_SECRET_KEY"):
        return key
    path = DATA_DIR / "secret-key"
    if path.exists() and len(kept := path.read_text().strip()) >= 40:
        return kept
    DATA_DIR.mkdir(parents=True, exist_ok=True)
    part = path.with_suffix(f".{os.getpid()}.part")
    with part.open("w") as file:
        file.write(secrets.token_urlsafe(48))
        file.flush()
        os.fsync(file.fileno())
    part.replace(path)
    return path.read_text()


SECRET_KEY = _secret_key()
ALLOWED_HOSTS = os.environ.get("PLINTO_HOSTS", "localhost,127.0.0.1,[::1],testserver").split(",")
INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "ninja",
    "django_tasks",
    *(("django_rq", "django_tasks_rq") if os.environ.get("PLINTO_QUEUE") else ("django_tasks_db",)),
    "axes",
    "plinto_server.files",
    "plinto_server.records",
    "plinto_server.accounts",
    "plinto_server.removals",
    "plinto_server.jobs",
    "plinto_server.artworks",
    "plinto_server.conditions",
    "plinto_server.characterizations",
    "plinto_server.house",
    "plinto_server.policies",
    "plinto_server.colors",
    "plinto_server.bench",
    "plinto_server.batches",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    # Before anything that reads a body.
    "plinto_server.files.uploads.upload_gate",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "csp.middleware.CSPMiddleware",
    "plinto_server.warm.turns.know_asker",
]
ROOT_URLCONF = "plinto_server.urls"
WSGI_APPLICATION = "plinto_server.wsgi.application"
TEMPLATES = [
    {"BACKEND": "django.template.backends.django.DjangoTemplates", "DIRS": [Path(__file__).parent / "templates"]}
]
#: For a house on several machines, see `machines.py`.
QUEUE_ON_REDIS = bool(os.environ.get("PLINTO_QUEUE"))
#: Larger pictures are made in pieces of about so many megapixels by all workers; 0: each by one. One machine's worker uses
#: all its cores for a picture already.
PIECE_MEGAPIXELS = float(os.environ.get("PLINTO_PIECE_MEGAPIXELS") or (25 if QUEUE_ON_REDIS else 0))
DATABASES = {"default": machines.database(os.environ.get("PLINTO_DATABASE", ""), DATA_DIR)}
_tasks, RQ_QUEUES = machines.queue(os.environ.get("PLINTO_QUEUE", ""))
TASKS = {"default": _tasks}
_blobs = machines.blobs(os.environ.get("PLINTO_STORE", ""))
#: Whether files lie in a store that is not the data folder, which then keeps copies of them.
STORE_ELSEWHERE = _blobs is not None
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
    **({"blobs": _blobs} if _blobs else {}),
}
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "plinto_server.accounts.signing_in.HouseBackend"]
PASSWORD_HASHERS = [
    "plinto_server.accounts.signing_in.QuickArgon2",
    "django.contrib.auth.hashers.PBKDF2PasswordHasher",
]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
]
# Five wrong passwords for a name from an address, then five minutes of nothing.
AXES_FAILURE_LIMIT = 5
AXES_COOLOFF_TIME = timedelta(minutes=5)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_RESET_ON_SUCCESS = True
AXES_DISABLE_ACCESS_LOG = True
AXES_VERBOSE = False
# Its middleware would only answer in its own words; ours are in accounts/signing_in.py.
SILENCED_SYSTEM_CHECKS = ["axes.W002"]
SESSION_COOKIE_AGE = 60 * 60 * 24 * 14
USE_TZ = True
TIME_ZONE = "UTC"
#: Watched folders lie here, each under its own name; on a disk that others can write to.
WATCHED_DIR = Path(os.environ.get("PLINTO_WATCHED") or DATA_DIR / "watched")
STATIC_URL = "/static/"
WHITENOISE_ROOT = ROOT / "web" / "dist"
WHITENOISE_MAX_AGE = 3600
#: A built asset carries a digest of its content in its name: what it is called never changes what it is.
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/assets/.+-[\w-]{8}\.(js|css)$"

#: One setting for a server behind TLS: its proxy says so by X-Forwarded-Proto and names the sender last.
HTTPS = os.environ.get("PLINTO_HTTPS") == "1"
if HTTPS:
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    SECURE_SSL_REDIRECT = SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = True
    SECURE_HSTS_SECONDS = 60 * 60 * 24 * 365
    CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS]
    AXES_CLIENT_IP_CALLABLE = "plinto_server.accounts.signing_in.sender_behind_proxy"
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
#: Everything comes from here. Styles are also set on elements, pictures are also made in the page.
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": ["'self'"],
        "img-src": ["'self'", "blob:", "data:"],
        "style-src": ["'self'", "'unsafe-inline'"],
        "object-src": ["'none'"],
        "base-uri": ["'none'"],
        "form-action": ["'self'"],
        "frame-ancestors": ["'none'"],
    }
}

MAX_UPLOAD_BYTES = int(os.environ.get("PLINTO_MAX_UPLOAD_MB", "2048")) << 20
MAX_MEGAPIXELS = int(os.environ.get("PLINTO_MAX_MEGAPIXELS", "450"))
#: Profiles, measurements, sets of rules.
MAX_DATA_FILE_BYTES = 64 << 20
#: Bytes of artwork that one person may have here; 0 for no limit.
QUOTA_BYTES = int(os.environ.get("PLINTO_QUOTA_MB", "0")) << 20
#: Always free on the disk, so that saving and removing go on.
LEAST_FREE_BYTES = int(os.environ.get("PLINTO_LEAST_FREE_MB", "200")) << 20
#: Pictures in sizes, which can be made again, take no more than this.
DERIVED_BYTES = int(os.environ.get("PLINTO_DERIVED_MB", "40000")) << 20
#: Copies of files whose store is elsewhere take no more than this here.
FETCHED_BYTES = int(os.environ.get("PLINTO_FETCHED_MB", "40000")) << 20
# Files go to disk while they arrive; the rest of a request is small.
FILE_UPLOAD_HANDLERS = ["plinto_server.files.uploads.HashingUploadHandler"]
DATA_UPLOAD_MAX_MEMORY_SIZE = 4 << 20

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {"plinto": {"level": "INFO"}},
}
