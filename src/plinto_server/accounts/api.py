"""Session: who is signed in, signing in, signing out. People: who there is and what they may change."""

from django.conf import settings
from django.contrib.auth import login, logout, update_session_auth_hash
from django.contrib.auth.models import User
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Field, Router, Schema, Status
from ninja.errors import HttpError
from ninja.utils import check_csrf

from plinto_server.accounts import people
from plinto_server.accounts.models import Role
from plinto_server.accounts.roles import Area, areas_of, may, person_of, role_of
from plinto_server.accounts.signing_in import check_password
from plinto_server.records import history

router = Router(tags=["session"])
people_router = Router(tags=["people"])

DEMO_USER, DEMO_PASSWORD = "quillmere", "velderwyn-garden"


class DemoAccount(Schema):
    """Offered on the demo's sign-in page, nowhere else."""

    user: str
    password: str


class SessionOut(Schema):
    """Who is signed in, if anybody, as what, and what they may change."""

    user: str | None
    role: Role | None
    may: list[Area]
    demo: DemoAccount | None


class SignIn(Schema):
    """A name and a password."""

    user: str = Field(max_length=150)
    password: str = Field(max_length=1000)


class PasswordIn(Schema):
    """One's own password, as it is and as it is to be."""

    present: str = Field(max_length=1000)
    new: str = Field(max_length=1000)


class PersonOut(Schema):
    """An account of the house."""

    id: int
    name: str
    role: Role
    active: bool
    demo: bool
    version: int


class PersonIn(Schema):
    """A new account."""

    name: str = Field(max_length=150)
    password: str = Field(max_length=1000)
    role: Role


class PersonChange(Schema):
    """What an account may do; an empty password leaves it as it is."""

    role: Role
    active: bool
    password: str = Field("", max_length=1000)
    version: int = Field(ge=0, le=2**31)


def _session(request: HttpRequest) -> SessionOut:
    if isinstance(request.user, User):
        role = role_of(request.user)
        return SessionOut(user=request.user.get_username(), role=role, may=areas_of(role), demo=None)
    demo = DemoAccount(user=DEMO_USER, password=DEMO_PASSWORD) if settings.DEMO else None
    return SessionOut(user=None, role=None, may=[], demo=demo)


def _from_our_page(request: HttpRequest) -> bool:
    """Signing in takes JSON with the page's token: a form of another site can send neither."""
    if request.content_type != "application/json":
        raise HttpError(415, "Signing in takes JSON.")
    if check_csrf(request) is not None:
        raise HttpError(403, "The page is out of date, or this did not come from it. Load it again.")
    return True


@router.get("", response=SessionOut, auth=None)
def who(request: HttpRequest) -> SessionOut:
    """Who is signed in; sets the token that changes need."""
    get_token(request)
    return _session(request)


@router.post("", response=SessionOut, auth=_from_our_page)
def sign_in(request: HttpRequest, given: SignIn) -> SessionOut:
    """Sign in with name and password; 401 when they do not fit, 429 after too many wrong ones."""
    login(request, check_password(request, given.user, given.password))
    return _session(request)


@router.delete("", response=SessionOut)
def sign_out(request: HttpRequest) -> SessionOut:
    """End the session."""
    logout(request)
    return _session(request)


@router.put("/password", response={204: None})
def change_password(request: HttpRequest, given: PasswordIn) -> Status[None]:
    """One's own password; other sessions of the account end."""
    user = person_of(request)
    people.set_own_password(user, given.present, given.new)
    update_session_auth_hash(request, user)
    return Status(204, None)


def _out(users: list[User]) -> list[PersonOut]:
    versions = history.versions_of(people.KIND, [str(user.pk) for user in users])
    return [
        PersonOut(
            id=user.pk, name=user.get_username(), role=role_of(user), active=user.is_active,
            demo=bool(getattr(getattr(user, "person", None), "demo", False)), version=versions.get(str(user.pk), 0),
        )
        for user in users
    ]  # fmt: skip


@people_router.get("", response=list[PersonOut], auth=may("people"))
def list_people(request: HttpRequest) -> list[PersonOut]:
    """All accounts, by name."""
    return _out(list(User.objects.select_related("person").order_by("username")))


@people_router.post("", response={201: PersonOut}, auth=may("people"))
def add_person(request: HttpRequest, given: PersonIn) -> Status[PersonOut]:
    """Take somebody in."""
    return Status(201, _out([people.add(given.name, given.password, given.role, person_of(request))])[0])


@people_router.put("/{user_id}", response=PersonOut, auth=may("people"))
def change_person(request: HttpRequest, user_id: int, given: PersonChange) -> PersonOut:
    """Role, whether the account may come in, a new password."""
    user = people.by_id(user_id)
    people.change(user, given.role, given.active, given.password, given.version, person_of(request))
    return _out([people.by_id(user_id)])[0]
