"""Who may change what."""

from typing import Any, Literal

from django.contrib.auth.models import User
from django.http import HttpRequest
from ninja.errors import HttpError
from ninja.security import SessionAuth

from plinto_server.accounts.models import Person, Role
from plinto_server.errors import ForbiddenError

Area = Literal["artwork", "conditions", "house", "people"]

_EVERYBODY = frozenset(Role)
MAY: dict[Area, frozenset[Role]] = {
    "artwork": _EVERYBODY,
    "conditions": frozenset({Role.COLOR_LEAD, Role.ADMINISTRATOR}),
    "house": frozenset({Role.PREPRESS_LEAD, Role.ADMINISTRATOR}),
    "people": frozenset({Role.ADMINISTRATOR}),
}
_WHAT: dict[Area, str] = {
    "artwork": "artwork and recipes",
    "conditions": "conditions, media, tolerances and characterizations",
    "house": "house rules and profiles",
    "people": "people and their roles",
}


def role_of(user: User) -> Role:
    """An account's role; whoever was made on the command line as superuser is an administrator."""
    try:
        return Role(user.person.role)
    except Person.DoesNotExist:
        return Role.ADMINISTRATOR if user.is_superuser else Role.OPERATOR


def areas_of(role: Role) -> list[Area]:
    """What a role may change."""
    return [area for area, roles in MAY.items() if role in roles]


def check_may(user: User, area: Area) -> None:
    """Raises `ForbiddenError` where the account's role may not change this."""
    role = role_of(user)
    if role not in MAY[area]:
        allowed = " or ".join(sorted(each.value for each in MAY[area]))
        raise ForbiddenError(f"As {role.value} you may look at {_WHAT[area]} and not change them. Ask the {allowed}.")


def person_of(request: HttpRequest) -> User:
    """Who asks; every route but signing in has somebody."""
    if not isinstance(request.user, User):
        raise HttpError(401, "Sign in first.")
    return request.user


class may(SessionAuth):  # noqa: N801 - it reads as a word where routes are declared
    """Authentication of a route that changes something of an area."""

    def __init__(self, area: Area) -> None:
        super().__init__()
        self.area = area

    def authenticate(self, request: HttpRequest, key: str | None) -> Any | None:
        """The account, if its role allows it."""
        if not isinstance(request.user, User):
            return None
        check_may(request.user, self.area)
        return request.user
