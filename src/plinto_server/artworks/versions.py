"""Versions of artwork: house rules carried out, profiles assigned and removed; what reworking makes is in `reworking`."""

import copy
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth.models import User
from django.db import transaction

from plinto_core.errors import RecipeError
from plinto_core.house_rules import decide, house_profile
from plinto_core.icc.profile import Profile
from plinto_core.raster.decoded import DecodedArtwork
from plinto_core.raster.versions import write_converted
from plinto_core.sandbox.client import sandbox
from plinto_server.artworks import levels
from plinto_server.artworks.models import VERSION_FIELDS, Artwork, ArtworkVersion
from plinto_server.errors import MissingError
from plinto_server.files import store
from plinto_server.files.store import Part
from plinto_server.house import service as house

#: What a version has of its own.
FIELDS = VERSION_FIELDS


def current_profile(artwork: Artwork, opened: DecodedArtwork | None = None) -> Profile | None:
    """The profile that gives the numbers of the version in force their meaning; `opened` where it is at hand."""
    if artwork.profile_sha256 == "embedded":
        return (opened or levels.opened(artwork)).profile
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


@dataclass(frozen=True)
class Plan:
    """What the house rules do with fresh artwork: a version with these `facts`, or a question, or nothing."""

    action: str
    note: str
    facts: dict[str, Any]
    asks: tuple[str, ...] = ()
    asks_space: str = ""
    part: Part | None = None
    profile: Part | None = None
    levels: Path | None = None


def plan_house_rules(artwork: Artwork, opened: DecodedArtwork, folder: Path) -> Plan:
    """What the rules in use say about fresh artwork that is not saved yet; what is to be converted is, in `folder`.

    Raises `PlintoError`.
    """
    rules = house.in_use()
    space = rules.space_for(artwork.stored_as)
    profile = house_profile(space, house.stored_profiles({space}))
    decision = decide(rules, artwork.stored_as, current_profile(artwork, opened), profile)
    facts = {field: getattr(artwork, field) for field in VERSION_FIELDS}
    if decision.action == "keep" or profile is None:
        return Plan("keep", decision.log, facts)
    if decision.action == "ask":
        return Plan("ask", decision.log, facts, tuple(decision.asks), space)
    if decision.action == "assume":
        _must_describe(artwork, profile)
        # In the attempt's own folder, which goes with it whatever happens.
        path = folder / "assumed.icc"
        path.write_bytes(profile.raw)
        part = store.part_of(path)
        changes = {"profile_sha256": part.sha256, "profile_name": profile.name[:255]}
        return Plan("assigned", decision.log, facts | changes, profile=part)
    part, converted, built = converted_to(artwork, opened, profile, "relative", True, folder)
    return Plan("converted", decision.log, facts | converted, part=part, levels=built)


def begin(artwork: Artwork, user: User | None, plan: Plan | None, problem: str) -> Artwork:
    """The first versions of saved artwork; call it in the transaction that saved it."""
    add_version(artwork, "taken in", "As it came.", {}, user)
    if plan is None:
        artwork.log = [*artwork.log, problem]
    elif plan.action in ("keep", "ask"):
        artwork.log = [*artwork.log, plan.note]
        artwork.asks, artwork.asks_space = list(plan.asks), plan.asks_space
    if plan is None or plan.action in ("keep", "ask"):
        artwork.save(update_fields=["log", "asks", "asks_space"])
        if plan is None or plan.action == "keep":
            artwork.versions.filter(number=0).update(facts={f: getattr(artwork, f) for f in VERSION_FIELDS})
        return artwork
    if plan.part is not None:
        store.keep(plan.part)
    if plan.profile is not None:
        house.keep_profile_part(plan.profile)
    return add_version(artwork, plan.action, plan.note, plan.facts | {"log": artwork.log}, user)


def keep(artwork: Artwork, user: User | None) -> Artwork:
    """Answer an open question by leaving the artwork as it is."""
    what = artwork.profile_name or "no profile"
    return add_version(artwork, "kept", f"Kept as it came, with {what}.", {}, user)


def _must_describe(artwork: Artwork, profile: Profile) -> None:
    if profile.header.space.strip() != artwork.space:
        raise RecipeError(
            f"'{profile.name}' describes {profile.header.space.strip()}, and '{artwork.name}' is {artwork.space}."
        )


@transaction.atomic
def assign(artwork: Artwork, choice: str, user: User | None, note: str = "") -> Artwork:
    """Another profile for the same numbers. Raises `RecipeError` where it does not fit."""
    profile = house.profile_by_choice(choice)
    _must_describe(artwork, profile)
    kept = house.keep_profile(profile)
    said = note or f"Read by {profile.name}; the numbers stayed as they were."
    changes = {"profile_sha256": kept.sha256, "profile_name": profile.name[:255]}
    return add_version(artwork, "assigned", said, changes, user)


def remove_profile(artwork: Artwork, user: User | None) -> Artwork:
    """The same numbers with no meaning of their own."""
    changes = {"profile_sha256": "", "profile_name": ""}
    return add_version(artwork, "removed", f"{artwork.profile_name or 'No profile'} was removed.", changes, user)


def converted_to(
    artwork: Artwork, opened: DecodedArtwork, target: Profile, intent: str, bpc: bool, folder: Path,
    progress: Callable[[float], None] = lambda share: None,
) -> tuple[Part, dict[str, Any], Path]:  # fmt: skip
    """The same colors in another space's numbers, written in `folder`: the file, a version's facts, its levels."""
    source = current_profile(artwork, opened)
    if source is None:
        raise RecipeError(f"'{artwork.name}' has no profile, so there are no colors to convert. Assign one first.")
    path, built = folder / "converted.tif", folder / "converted-levels"
    write_converted(opened, source, target, path, intent, bpc=bpc, progress=lambda share: progress(0.7 * share))
    part = store.part_of(path)
    most = round(settings.MAX_MEGAPIXELS * 1_000_000)
    facts = sandbox.run("picture", {"path": str(path), "name": artwork.name, "max_pixels": most}, artwork.name)
    levels.decode(path, artwork.name, facts, built, lambda share: progress(0.7 + 0.3 * share))
    return part, facts | {"pixels_sha256": part.sha256, "log": artwork.log, "page": 0, "ground": []}, built


def flattened(artwork: Artwork, page: int, ground: tuple[float, float, float]) -> dict[str, Any]:
    """A version's facts where the original is read with another page, or another color under its transparency."""
    given = {
        "path": str(store.path_of(artwork.sha256)), "name": artwork.name, "page": page, "ground": list(ground),
        "max_pixels": round(settings.MAX_MEGAPIXELS * 1_000_000),
    }  # fmt: skip
    return sandbox.run("picture", given, artwork.name) | {"pixels_sha256": artwork.sha256}
