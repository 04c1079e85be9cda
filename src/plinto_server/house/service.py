"""House rules switched, exported and imported; profiles found again; named adjustments. Every change has an author."""

import json
from dataclasses import asdict
from pathlib import Path
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction

from plinto_core.errors import RecipeError
from plinto_core.house_rules import HouseRules, house_profile, read_rules, rules_from_file, rules_to_file
from plinto_core.icc.profile import CLASSES, Profile, parse
from plinto_core.icc.standard import RGB_SPACES, rgb_profile
from plinto_core.recipe.adjustment import Adjustment
from plinto_core.sandbox.client import check_file
from plinto_server.errors import ConflictError, MissingError
from plinto_server.files import store
from plinto_server.files.models import Hold
from plinto_server.files.space import even_when_full
from plinto_server.files.store import Part
from plinto_server.house.models import RuleSet, SavedAdjustment, StoredProfile
from plinto_server.records import history
from plinto_server.removals import bin as removals
from plinto_server.warm import shelves

#: What a house starts from.
STARTING = HouseRules("As it comes", differing="keep", untagged="ask")
RULES, ADJUSTMENT = "house rules", "adjustment"
Plain = dict[str, Any]


@transaction.atomic
def keep_profile(profile: Profile) -> StoredProfile:
    """Enter a profile; the same bytes twice are one."""
    store.keep_bytes(profile.raw)
    found, _ = StoredProfile.objects.get_or_create(
        sha256=profile.digest,
        defaults={
            "name": profile.name[:255],
            "space": profile.header.space.strip(),
            "profile_class": CLASSES[profile.header.profile_class],
        },
    )
    return found


def keep_profile_part(part: Part) -> StoredProfile:
    """Enter a profile that lies in a file already."""
    return keep_profile(parse(part.path.read_bytes()))


def take_in_profile(part: Part, name: str) -> StoredProfile:
    """A profile from outside, read in the sandbox first. Raises `IccError`; nothing is kept then."""
    check_file("profile", part.path, name)
    return keep_profile(parse(part.path.read_bytes()))


def is_stored(sha256: str) -> bool:
    """Whether somebody here holds a file with this digest."""
    return Hold.objects.filter(blob_id=sha256).exists()


def profile_by_choice(choice: str) -> Profile:
    """The profile behind a space's name or the digest of one that anybody here holds. Raises `MissingError`."""
    if choice in RGB_SPACES:
        return rgb_profile(choice)
    if not is_stored(choice) or not store.is_here(choice):
        raise MissingError("This profile is not here any more. Choose another one.")
    return shelves.profile(choice)


def stored_profiles(choices: set[str]) -> dict[str, Profile]:
    """Those of the choices that are digests at hand."""
    found = {}
    for choice in choices - set(RGB_SPACES) - {"", "embedded"}:
        try:
            found[choice] = profile_by_choice(choice)
        except MissingError:
            continue
    return found


def in_use() -> HouseRules:
    """The rules that hold for everyone."""
    found = RuleSet.objects.filter(in_use=True).first()
    return rules_of(found) if found else STARTING


def rules_of(found: RuleSet) -> HouseRules:
    """The set's rules."""
    return read_rules(found.rules)


def set_by_id(set_id: int) -> RuleSet:
    """Raises `MissingError`."""
    found = RuleSet.objects.filter(id=set_id).first()
    if found is None:
        raise MissingError("These house rules are not here any more. Choose another set.")
    return found


def _plain(found: RuleSet) -> Plain:
    return {"rules": found.rules, "in_use": found.in_use}


def _check(rules: HouseRules) -> None:
    stored = stored_profiles({rules.rgb, rules.cmyk, rules.display})
    for space, wanted in ((rules.rgb, "RGB"), (rules.cmyk, "CMYK"), (rules.display, "RGB")):
        found = house_profile(space, stored)
        if found is not None and found.header.space.strip() != wanted:
            raise RecipeError(
                f"'{found.name}' describes {found.header.space.strip()}; the house needs {wanted} in its place."
            )


@transaction.atomic
def make(rules: HouseRules, author: User | None, set_id: int | None = None) -> RuleSet:
    """Make a set. Raises `ConflictError` for a name that another set has."""
    _check(rules)
    _check_name(rules, set_id or 0)
    found = RuleSet(id=set_id, in_use=not RuleSet.objects.filter(in_use=True).exists())
    _write(found, rules)
    history.write(RULES, str(found.id), found.name, None, _plain(found), author)
    return found


@transaction.atomic
def change(set_id: int, rules: HouseRules, version: int, author: User | None) -> RuleSet:
    """Change a set as it was looked at. Raises `ConflictError` where somebody was faster, or for a taken name."""
    history.check_version(RULES, str(set_id), version)
    found = set_by_id(set_id)
    _check(rules)
    _check_name(rules, set_id)
    before = _plain(found)
    _write(found, rules)
    history.write(RULES, str(set_id), found.name, before, _plain(found), author)
    return found


def _check_name(rules: HouseRules, set_id: int) -> None:
    if RuleSet.objects.filter(name=rules.name).exclude(id=set_id).exists():
        raise ConflictError(f"There is a set '{rules.name}' already. Give this one another name.")


def _write(found: RuleSet, rules: HouseRules) -> None:
    found.name = rules.name
    found.rules = json.loads(json.dumps(asdict(rules)))
    found.save()


@transaction.atomic
def use(found: RuleSet, author: User | None) -> RuleSet:
    """Let this set hold for everyone."""
    for other in RuleSet.objects.filter(in_use=True).exclude(id=found.id):
        before = _plain(other)
        other.in_use = False
        other.save(update_fields=["in_use", "changed_at"])
        history.write(RULES, str(other.id), other.name, before, _plain(other), author)
    before = _plain(found)
    found.in_use = True
    found.save(update_fields=["in_use", "changed_at"])
    history.write(RULES, str(found.id), found.name, before, _plain(found), author)
    return found


@even_when_full
@transaction.atomic
def remove(found: RuleSet, author: User | None) -> None:
    """Raises `ConflictError` for the set in use."""
    if found.in_use:
        raise ConflictError(f"'{found.name}' is in use. Switch to another set first.")
    history.write(RULES, str(found.id), found.name, _plain(found), None, author)
    removals.remove([found], found.name, author, "house", (RULES, str(found.id)))


def restore_rules(key: str, plain: Plain, author: User) -> None:
    """A set as it was; whether it is in use is not part of that."""
    rules = read_rules(plain["rules"])
    if RuleSet.objects.filter(id=int(key)).exists():
        change(int(key), rules, history.version_of(RULES, key), author)
    else:
        make(rules, author, int(key))


def export(found: RuleSet) -> Plain:
    """The set as one file, its profiles inside."""
    rules = rules_of(found)
    return rules_to_file(rules, stored_profiles(set(rules.digests)))


def import_file(path: Path, name: str, author: User | None) -> RuleSet:
    """Import an exported set with its profiles; a set of that name is replaced. Raises `RecipeError`."""
    check_file("house_rules", path, name)
    rules, profiles = rules_from_file(json.loads(path.read_bytes()))
    with transaction.atomic():
        for profile in profiles.values():
            keep_profile(profile)
        same = RuleSet.objects.filter(name=rules.name).first()
        if same is None:
            return make(rules, author)
        return change(same.id, rules, history.version_of(RULES, str(same.id)), author)


@transaction.atomic
def save_adjustment(name: str, adjustment: Adjustment, version: int, author: User | None) -> SavedAdjustment:
    """Keep an adjustment under a name; the same name again replaces it. Raises `ConflictError`."""
    history.check_version(ADJUSTMENT, name, version)
    plain = json.loads(json.dumps(asdict(adjustment)))
    before = SavedAdjustment.objects.filter(name=name).first()
    found, _ = SavedAdjustment.objects.update_or_create(name=name, defaults={"adjustment": plain})
    history.write(ADJUSTMENT, name, name, before.adjustment if before else None, plain, author)
    return found


@even_when_full
@transaction.atomic
def remove_adjustment(adjustment_id: int, author: User | None) -> None:
    """Raises `MissingError`. Artwork that uses it keeps what it has."""
    found = SavedAdjustment.objects.filter(id=adjustment_id).first()
    if found is None:
        raise MissingError("This adjustment is not here any more.")
    history.write(ADJUSTMENT, found.name, found.name, found.adjustment, None, author)
    removals.remove([found], found.name, author, "artwork", (ADJUSTMENT, found.name))


@transaction.atomic
def restore_adjustment(key: str, plain: Plain, author: User) -> None:
    """A named adjustment as it was."""
    before = SavedAdjustment.objects.filter(name=key).first()
    SavedAdjustment.objects.update_or_create(name=key, defaults={"adjustment": plain})
    history.write(ADJUSTMENT, key, key, before.adjustment if before else None, plain, author)
