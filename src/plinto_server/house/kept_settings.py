"""Settings of a station, and whole recipes, kept under names: shared by the house, with a history, as files for others."""

import json
from pathlib import Path
from typing import Any, Literal, get_args

from django.contrib.auth.models import User
from django.db import transaction

from plinto_core.errors import RecipeError
from plinto_core.recipe import Recipe, recipe_from_json
from plinto_server.errors import MissingError
from plinto_server.files.space import even_when_full
from plinto_server.house.models import KeptSettings
from plinto_server.records import history
from plinto_server.removals import bin as removals

KIND = "settings"
Station = Literal["ink", "plate", "deliver", "recipe"]
Plain = dict[str, Any]
_FILE_VERSION, _MOST_BYTES, _MOST_INKS = 1, 1 << 20, 8


def key_of(station: str, name: str) -> str:
    """What the history calls kept settings."""
    return f"{station} {name}"


def recipe_of(station: str, settings: Plain) -> Recipe:
    """A recipe with stored settings in it; of one station, the others are as usual. Raises `RecipeError`."""
    if station not in get_args(Station):
        raise RecipeError(f"'{station}' is no station that keeps settings; {', '.join(get_args(Station))} are.")
    return recipe_from_json(settings if station == "recipe" else {station: settings})


def _part(station: str, recipe: Recipe) -> Plain:
    """What is kept of a recipe."""
    whole = recipe.to_json()
    if station == "recipe":
        # Regions were drawn on one artwork, and its profile is its own affair.
        plain = Recipe().to_json()
        return {**whole, "source": plain["source"], "adjust": {**whole["adjust"], "regions": []}}
    return dict(whole[station])


@transaction.atomic
def save(
    station: Station, name: str, inks: list[str], recipe: Recipe, version: int, author: User | None
) -> KeptSettings:  # fmt: skip
    """Keep a station's part of a recipe, or all of it, under a name; the same name again replaces them.

    Raises `RecipeError`, `ConflictError`.
    """
    name = name.strip()
    if not 1 <= len(name) <= 80:
        raise RecipeError("Kept settings need a name, of 1 to 80 letters.")
    if len(inks) > _MOST_INKS or any(len(ink) > 100 for ink in inks):
        raise RecipeError("Settings are for one to eight inks.")
    plain, key = _part(station, recipe), key_of(station, name)
    history.check_version(KIND, key, version)
    before = KeptSettings.objects.filter(station=station, name=name).first()
    found, _ = KeptSettings.objects.update_or_create(
        station=station, name=name, defaults={"inks": inks, "settings": plain}
    )
    history.write(KIND, key, name, _plain(before) if before else None, _plain(found), author)
    return found


def _plain(found: KeptSettings) -> Plain:
    return {"station": found.station, "name": found.name, "inks": found.inks, "settings": found.settings}


def by_id(settings_id: int) -> KeptSettings:
    """Raises `MissingError`."""
    found = KeptSettings.objects.filter(id=settings_id).first()
    if found is None:
        raise MissingError("These settings are not here any more.")
    return found


@even_when_full
@transaction.atomic
def remove(found: KeptSettings, author: User | None) -> None:
    """Recipes that took them over keep what they have."""
    history.write(KIND, key_of(found.station, found.name), found.name, _plain(found), None, author)
    removals.remove([found], found.name, author, "artwork", (KIND, key_of(found.station, found.name)))


def restore(key: str, plain: Plain, author: User) -> None:
    """Settings as one of their revisions had them."""
    version = history.version_of(KIND, key)
    recipe = recipe_of(plain["station"], plain["settings"])
    save(plain["station"], plain["name"], plain["inks"], recipe, version, author)


def to_file(found: KeptSettings) -> Plain:
    """The settings as a file for other houses."""
    return {"plinto_settings": _FILE_VERSION, **_plain(found)}


def from_file(path: Path, name: str, author: User | None) -> KeptSettings:
    """Settings of an exported file; those of the same name are replaced. Raises `RecipeError`."""
    if path.stat().st_size > _MOST_BYTES:
        raise RecipeError(f"'{name}' has {path.stat().st_size >> 10} KB; settings have a few.")
    try:
        plain = json.loads(path.read_bytes())
        if plain["plinto_settings"] != _FILE_VERSION:
            raise RecipeError(
                f"'{name}' is of version {plain['plinto_settings']}; this Plinto reads {_FILE_VERSION}."
            )
        station, called, inks, settings = (plain[part] for part in ("station", "name", "inks", "settings"))
    except (ValueError, KeyError, TypeError, RecursionError) as error:
        raise RecipeError(
            f"'{name}' holds no settings ({error!r}). Export them from Plinto, and import that."
        ) from error
    if not (isinstance(called, str) and isinstance(inks, list) and all(isinstance(ink, str) for ink in inks)):
        raise RecipeError(f"'{name}' holds no settings: its name or its inks are no text.")
    version = history.version_of(KIND, key_of(str(station), called.strip()))
    return save(station, called, inks, recipe_of(str(station), settings), version, author)
