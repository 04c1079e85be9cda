"""Session: who is signed in, signing in, signing out."""

from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router, Schema
from ninja.errors import HttpError

router = Router(tags=["session"])

DEMO_USER, DEMO_PASSWORD = "quillmere", "velderwyn-garden"


class DemoAccount(Schema):
    """Offered on the demo's sign-in page, nowhere else."""

    user: str
    password: str


class SessionOut(Schema):
    """Who is signed in, if anybody."""

    user: str | None
    demo: DemoAccount | None


class SignIn(Schema):
    """A name and a password."""

    user: str
    password: str


def _session(request: HttpRequest) -> SessionOut:
    user = request.user.get_username() if request.user.is_authenticated else None
    demo = DemoAccount(user=DEMO_USER, password=DEMO_PASSWORD) if settings.DEMO and not user else None
    return SessionOut(user=user, demo=demo)


@router.get("", response=SessionOut, auth=None)
def who(request: HttpRequest) -> SessionOut:
    """Who is signed in; sets the token that changes need."""
    get_token(request)
    return _session(request)


@router.post("", response=SessionOut, auth=None)
def sign_in(request: HttpRequest, given: SignIn) -> SessionOut:
    """Sign in with name and password; 401 when they do not fit."""
    user = authenticate(request, username=given.user, password=given.password)
    if user is None:
        raise HttpError(401, "This name and password do not belong together. Check both and try again.")
    login(request, user)
    return _session(request)


@router.delete("", response=SessionOut)
def sign_out(request: HttpRequest) -> SessionOut:
    """End the session."""
    logout(request)
    return _session(request)
