"""Checking passwords: few at once, slowed where somebody guesses, and never for the demo's account outside the demo."""

import threading
from typing import Any

from django.conf import settings
from django.contrib.auth import authenticate
from django.contrib.auth.backends import ModelBackend
from django.contrib.auth.hashers import Argon2PasswordHasher
from django.contrib.auth.models import User
from django.http import HttpRequest
from ninja.errors import HttpError

from plinto_core.errors import BusyError
from plinto_server.accounts.models import Person

#: Two hashes at once, a few in line, the others come again: whoever guesses keeps nobody from working.
_AT_ONCE = threading.BoundedSemaphore(2)
_IN_LINE = threading.BoundedSemaphore(12)


class QuickArgon2(Argon2PasswordHasher):
    """Argon2id by OWASP's smallest setting: 19 MB, two passes, one thread. A safe hash that takes a fiftieth of a second
    of one core leaves the others to the pictures that people wait for."""

    time_cost, memory_cost, parallelism = 2, 19_456, 1


class HouseBackend(ModelBackend):
    """Django's own, without the demo's account where this is not the demo; sessions of it end too."""

    def user_can_authenticate(self, user: Any) -> bool:
        """Whether the account may come in."""
        if not super().user_can_authenticate(user):
            return False
        return settings.DEMO or not is_demo_account(user)

    def get_user(self, user_id: int) -> User | None:
        """The account of a session, with its role by the same query."""
        user = User.objects.select_related("person").filter(pk=user_id).first()
        return user if user is not None and self.user_can_authenticate(user) else None


def is_demo_account(user: User) -> bool:
    """Whether this is the account that the demo shows everybody."""
    try:
        return user.person.demo
    except Person.DoesNotExist:
        return False


def check_password(request: HttpRequest, name: str, password: str) -> User:
    """The account behind a name and a password. Raises HttpError 401 or 429, `BusyError` where too many try at once."""
    if not _IN_LINE.acquire(blocking=False):
        raise BusyError("Many people sign in right now. Try again in a few seconds.")
    try:
        with _AT_ONCE:
            user = authenticate(request, username=name, password=password)
    finally:
        _IN_LINE.release()
    if getattr(request, "axes_locked_out", False):
        raise HttpError(
            429, "Too many wrong passwords for this name from here. Wait five minutes, or ask the administrator."
        )
    if not isinstance(user, User):
        raise HttpError(401, "This name and password do not belong together. Check both and try again.")
    return user


def sender_behind_proxy(request: HttpRequest) -> str:
    """The address that our own proxy saw: it is the last one of X-Forwarded-For, the others anybody can write."""
    return str(request.headers.get("X-Forwarded-For", "")).rpartition(",")[2].strip() or request.META["REMOTE_ADDR"]
