"""Where a profile's settings start from: by process, and what the house has saved for itself, each with a history."""

import json
from dataclasses import asdict, dataclass
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction
from pydantic import TypeAdapter

from plinto_core.errors import RecipeError
from plinto_core.profiling.presets import PRESETS
from plinto_core.recipe.black import BlackPolicy
from plinto_server.conditions.models import OwnPreset
from plinto_server.errors import MissingError
from plinto_server.files.space import even_when_full
from plinto_server.records import history
from plinto_server.removals import bin as removals

KIND = "preset"
Plain = dict[str, Any]


@dataclass(frozen=True)
class ListedPreset:
    """A preset: total ink in percent of one ink, the black that goes with it, and why. Own ones have a version."""

    key: str
    name: str
    total_percent: float
    black: BlackPolicy
    why: str
    own: bool = False
    version: int = 0


def listed() -> list[ListedPreset]:
    """Those by process, then the house's own by name."""
    own = list(OwnPreset.objects.all())
    versions = history.versions_of(KIND, [each.name for each in own])
    given = [ListedPreset(each.key, each.name, each.total_percent, each.black, each.why) for each in PRESETS]
    return [*given, *(_listed(each, versions.get(each.name, 0)) for each in own)]


def _listed(found: OwnPreset, version: int) -> ListedPreset:
    black = TypeAdapter(BlackPolicy).validate_python(found.black)
    return ListedPreset(f"own {found.name}", found.name, found.total_percent, black, found.why, True, version)


def _plain(found: OwnPreset) -> Plain:
    return {"total_percent": found.total_percent, "black": found.black, "why": found.why}


@transaction.atomic
def save(
    name: str, total_percent: float, black: BlackPolicy, why: str, version: int, author: User | None
) -> ListedPreset:  # fmt: skip
    """Keep settings under a name; the same name again replaces them. Raises `RecipeError`, `ConflictError`."""
    name = name.strip()
    if not 1 <= len(name) <= 80 or name in {each.name for each in PRESETS}:
        raise RecipeError("A preset needs a name of its own, of 1 to 80 letters.")
    if not 50 <= total_percent <= 800:
        raise RecipeError("Total ink is 50 to 800 %.")
    history.check_version(KIND, name, version)
    found = _write(name, {"total_percent": total_percent, "black": asdict(black), "why": why.strip()[:200]}, author)
    return _listed(found, history.version_of(KIND, name))


def _write(name: str, plain: Plain, author: User | None) -> OwnPreset:
    before = OwnPreset.objects.filter(name=name).first()
    was = _plain(before) if before else None
    found, _ = OwnPreset.objects.update_or_create(name=name, defaults=json.loads(json.dumps(plain)))
    history.write(KIND, name, name, was, _plain(found), author)
    return found


@even_when_full
@transaction.atomic
def remove(name: str, author: User | None) -> None:
    """Raises `MissingError`. Profiles built from it keep what they have."""
    found = OwnPreset.objects.filter(name=name).first()
    if found is None:
        raise MissingError("This preset is not here any more.")
    history.write(KIND, name, name, _plain(found), None, author)
    removals.remove([found], found.name, author, "conditions", (KIND, name))


@transaction.atomic
def restore(key: str, plain: Plain, author: User) -> None:
    """A preset as it was."""
    _write(key, plain, author)
