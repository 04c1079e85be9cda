"""People of the house: taken in, given a role, let go. Accounts stay, since what they did stays theirs."""

from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import transaction

from plinto_core.errors import RecipeError
from plinto_server.accounts.models import Person, Role
from plinto_server.accounts.roles import role_of
from plinto_server.errors import ConflictError, MissingError
from plinto_server.records import history

KIND = "person"


def by_id(user_id: int) -> User:
    """Raises `MissingError`."""
    found = User.objects.filter(id=user_id).first()
    if found is None:
        raise MissingError("This account is not here any more.")
    return found


def _plain(user: User) -> dict[str, object]:
    return {"name": user.get_username(), "role": role_of(user).value, "active": user.is_active}


def _check_password(password: str, user: User | None = None) -> None:
    try:
        validate_password(password, user)
    except ValidationError as error:
        raise RecipeError(" ".join(error.messages)) from error


@transaction.atomic
def add(name: str, password: str, role: Role, author: User | None, *, demo: bool = False) -> User:
    """A new account. Raises `RecipeError`, `ConflictError`."""
    name = name.strip()
    if not 1 <= len(name) <= 150 or not name.isprintable():
        raise RecipeError("An account needs a name of 1 to 150 letters.")
    _check_password(password)
    if User.objects.filter(username__iexact=name).exists():
        raise ConflictError(f"There is an account '{name}' already. Give this one another name.")
    user = User.objects.create_user(name, password=password)
    user.person = Person.objects.create(user=user, role=role, demo=demo)
    history.write(KIND, str(user.pk), name, None, _plain(user), author)
    return user


@transaction.atomic
def change(user: User, role: Role, active: bool, password: str, version: int, author: User) -> User:
    """Role, whether the account may come in, and a new password where one is given. Raises `ConflictError`."""
    history.check_version(KIND, str(user.pk), version)
    before = _plain(user)
    if password:
        _check_password(password, user)
        user.set_password(password)
    user.is_active = active
    user.save()
    person, _ = Person.objects.update_or_create(user=user, defaults={"role": role})
    user.person = person
    others = [each for each in User.objects.filter(is_active=True) if role_of(each) == Role.ADMINISTRATOR]
    if not others:
        raise ConflictError("Somebody has to be administrator: give the role to another person first.")
    after = _plain(user) | ({"password": "set anew"} if password else {})
    history.write(KIND, str(user.pk), user.get_username(), before, after, author)
    return user


def restore(key: str, plain: dict[str, object], author: User) -> None:
    """Role and state as they were; passwords are not kept."""
    user = by_id(int(key))
    change(user, Role(str(plain["role"])), bool(plain["active"]), "", history.version_of(KIND, key), author)


def set_own_password(user: User, old: str, new: str) -> None:
    """Raises `RecipeError` where the old one is wrong or the new one too weak."""
    if not user.check_password(old):
        raise RecipeError("The present password is another one. Type it again.")
    _check_password(new, user)
    user.set_password(new)
    user.save(update_fields=["password"])
