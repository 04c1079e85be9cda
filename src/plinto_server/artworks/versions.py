"""Versions of artwork: house rules carried out, profiles assigned, removed, converted, flattened another way."""

import copy
import tempfile
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth.models import User
from django.db import transaction

from plinto_core.artwork.opened import Artwork as OpenedArtwork
from plinto_core.artwork.opened import Flattening, open_artwork
from plinto_core.artwork.versions import write_converted
from plinto_core.deliver.separate import file_digest
from plinto_core.errors import RecipeError
from plinto_core.house_rules import decide, house_profile
from plinto_core.icc.profile import Profile
from plinto_server import store
from plinto_server.artworks.models import VERSION_FIELDS, Artwork, ArtworkVersion
from plinto_server.errors import MissingError
from plinto_server.house import service as house


def opened(artwork: Artwork) -> OpenedArtwork:
    """The version in force, looked at."""
    flattening = Flattening(artwork.page, _ground(artwork.ground))
    return open_artwork(store.path_of(artwork.pixels_sha256), artwork.name, flattening=flattening)


def _ground(values: list[float]) -> tuple[float, float, float]:
    red, green, blue = values or (1.0, 1.0, 1.0)
    return red, green, blue


def facts_of(opened_: OpenedArtwork, pixels_sha256: str) -> dict[str, Any]:
    """What a version that reads this file as it is has to know."""
    return {
        "format": opened_.format,
        "stored_as": opened_.stored_as,
        "space": opened_.space,
        "width": opened_.width,
        "height": opened_.height,
        "depth": opened_.depth,
        "pages": opened_.layout.pages,
        "has_alpha": opened_.has_alpha,
        "resolution_ppi": opened_.resolution_ppi,
        "profile_name": opened_.profile.name[:255] if opened_.profile else "",
        "log": list(opened_.notes),
        "pixels_sha256": pixels_sha256,
        "profile_sha256": "embedded" if opened_.profile else "",
        "page": opened_.flattening.page,
        "ground": list(opened_.flattening.ground),
    }


def current_profile(artwork: Artwork) -> Profile | None:
    """The profile that gives the numbers of the version in force their meaning."""
    if artwork.profile_sha256 == "embedded":
        return opened(artwork).profile
    return house.profile_by_choice(artwork.profile_sha256) if artwork.profile_sha256 else None


@transaction.atomic
def add_version(
    artwork: Artwork, action: str, note: str, changes: dict[str, Any], user: User | None, asks: tuple[str, ...] = ()
) -> Artwork:
    """Make a version of the one in force and put it in force; its note becomes a line of the log."""
    facts = {field: getattr(artwork, field) for field in VERSION_FIELDS} | changes
    facts["log"] = [*facts["log"], note] if action != "taken in" else facts["log"]
    last = artwork.versions.order_by("-number").values_list("number", flat=True).first()
    number = 0 if last is None else last + 1
    ArtworkVersion.objects.create(artwork=artwork, number=number, action=action, note=note, facts=facts, made_by=user)
    return _put_in_force(artwork, number, facts, asks)


def _put_in_force(artwork: Artwork, number: int, facts: dict[str, Any], asks: tuple[str, ...] = ()) -> Artwork:
    for field, value in facts.items():
        setattr(artwork, field, value)
    artwork.version, artwork.asks = number, list(asks)
    artwork.save()
    return artwork


def go_to(artwork: Artwork, number: int) -> Artwork:
    """Put an earlier or later version in force. Raises `MissingError`."""
    found = artwork.versions.filter(number=number).first()
    if found is None:
        raise MissingError(f"'{artwork.name}' has no version {number}.")
    return _put_in_force(artwork, number, found.facts)


def at_version(artwork: Artwork, number: int) -> Artwork:
    """The artwork as it was in that version, not to be saved; as it is where the version is unknown."""
    found = artwork.versions.filter(number=number).first()
    if found is None or number == artwork.version:
        return artwork
    other = copy.copy(artwork)
    for field, value in found.facts.items():
        setattr(other, field, value)
    return other


def apply_house_rules(artwork: Artwork, user: User | None) -> Artwork:
    """Do with fresh artwork what the rules in use say, as a version that can be gone back from."""
    rules = house.in_use()
    space = rules.space_for(artwork.stored_as)
    profile = house_profile(space, house.stored_profiles({space}))
    decision = decide(rules, artwork.stored_as, current_profile(artwork), profile)
    if decision.action == "keep" or profile is None:
        artwork.log = [*artwork.log, decision.log]
        artwork.save(update_fields=["log"])
        artwork.versions.filter(number=0).update(facts={f: getattr(artwork, f) for f in VERSION_FIELDS})
        return artwork
    if decision.action == "ask":
        artwork.asks, artwork.asks_space = list(decision.asks), space
        artwork.log = [*artwork.log, decision.log]
        artwork.save(update_fields=["asks", "asks_space", "log"])
        return artwork
    if decision.action == "assume":
        return assign(artwork, space, user, decision.log)
    return convert(artwork, space, "relative", True, user, decision.log)


def keep(artwork: Artwork, user: User | None) -> Artwork:
    """Answer an open question by leaving the artwork as it is."""
    what = artwork.profile_name or "no profile"
    return add_version(artwork, "kept", f"Kept as it came, with {what}.", {}, user)


def assign(artwork: Artwork, choice: str, user: User | None, note: str = "") -> Artwork:
    """Another profile for the same numbers. Raises `RecipeError` where it does not fit."""
    profile = house.profile_by_choice(choice)
    if profile.header.space.strip() != artwork.space:
        raise RecipeError(
            f"'{profile.name}' describes {profile.header.space.strip()}, and '{artwork.name}' is {artwork.space}."
        )
    kept = house.keep_profile(profile)
    said = note or f"Read by {profile.name}; the numbers stayed as they were."
    changes = {"profile_sha256": kept.sha256, "profile_name": profile.name[:255]}
    return add_version(artwork, "assigned", said, changes, user)


def remove_profile(artwork: Artwork, user: User | None) -> Artwork:
    """The same numbers with no meaning of their own."""
    changes = {"profile_sha256": "", "profile_name": ""}
    return add_version(artwork, "removed", f"{artwork.profile_name or 'No profile'} was removed.", changes, user)


def convert(artwork: Artwork, choice: str, intent: str, bpc: bool, user: User | None, note: str = "") -> Artwork:
    """The same colors in another space's numbers, written as a file of its own beside the original."""
    source, target = current_profile(artwork), house.profile_by_choice(choice)
    if source is None:
        raise RecipeError(f"'{artwork.name}' has no profile, so there are no colors to convert. Assign one first.")
    folder = Path(settings.DATA_DIR) / "making"
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=folder, prefix=".convert-") as part:
        path = Path(part) / "converted.tif"
        write_converted(opened(artwork), source, target, path, intent, bpc=bpc)
        sha256 = file_digest(path)
        store.keep_file(path, sha256)
    made = open_artwork(store.path_of(sha256), artwork.name)
    facts = facts_of(made, sha256) | {"log": artwork.log, "page": 0, "ground": []}
    how = f"{intent}, {'with' if bpc else 'without'} black point compensation"
    said = note or f"Converted from {source.name} to {target.name}, {how}; the colors stayed, as far as it reaches."
    return add_version(artwork, "converted", said, facts, user)


def flatten(artwork: Artwork, page: int, ground: tuple[float, float, float], user: User | None) -> Artwork:
    """Read the original again with another page, or another color under its transparency."""
    made = open_artwork(store.path_of(artwork.sha256), artwork.name, flattening=Flattening(page, ground))
    shade = "#" + "".join(f"{round(v * 255):02x}" for v in ground)
    said = f"Read again from the original: page {page + 1}, on {shade}."
    return add_version(artwork, "flattened", said, facts_of(made, artwork.sha256), user)
