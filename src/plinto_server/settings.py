"""Settings; whatever differs between houses comes from the environment."""

import os
import secrets
from pathlib import Path

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


def _secret_key() -> str:
    """From the environment, else one made on first use and kept beside the data."""
    if key := os.environ.get("PLINTO_SECRET_KEY"):
        return key
    path = DATA_DIR / "secret-key"
    if not path.exists():
        DATA_DIR.mkdir(parents=True, exist_ok=True)
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(48))
    return path.read_text()


SECRET_KEY = _secret_key()
ALLOWED_HOSTS = os.environ.get("PLINTO_HOSTS", "localhost,127.0.0.1,[::1],testserver").split(",")
INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "ninja",
    "django_tasks",
    "django_tasks_db",
    "plinto_server.artworks",
    "plinto_server.conditions",
    "plinto_server.characterizations",
    "plinto_server.house",
    "plinto_server.bench",
    "plinto_server.runs",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
]
ROOT_URLCONF = "plinto_server.urls"
WSGI_APPLICATION = "plinto_server.wsgi.application"
TEMPLATES = [
    {"BACKEND": "django.template.backends.django.DjangoTemplates", "DIRS": [Path(__file__).parent / "templates"]}
]
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": DATA_DIR / "plinto.sqlite3",
        "OPTIONS": {
            "timeout": 20,
            "transaction_mode": "IMMEDIATE",
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL;",
        },
        "TEST": {"NAME": DATA_DIR / "test.sqlite3"},
    }
}
TASKS = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend", "QUEUES": ["default"]}}
AUTH_PASSWORD_VALIDATORS = [{"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"}]
SESSION_COOKIE_AGE = 60 * 60 * 24 * 14
USE_TZ = True
TIME_ZONE = "UTC"
STATIC_URL = "/static/"
WHITENOISE_ROOT = ROOT / "web" / "dist"
WHITENOISE_MAX_AGE = 3600

MAX_UPLOAD_BYTES = int(os.environ.get("PLINTO_MAX_UPLOAD_MB", "2048")) << 20
MAX_MEGAPIXELS = int(os.environ.get("PLINTO_MAX_MEGAPIXELS", "450"))
# Files go to disk while they arrive; the rest of a request is small.
FILE_UPLOAD_MAX_MEMORY_SIZE = 1 << 20
DATA_UPLOAD_MAX_MEMORY_SIZE = 4 << 20
FILE_UPLOAD_TEMP_DIR = DATA_DIR / "incoming"
FILE_UPLOAD_TEMP_DIR.mkdir(parents=True, exist_ok=True)

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {"plinto": {"level": "INFO"}},
}
