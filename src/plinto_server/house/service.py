"""House rules switched, exported and imported; profiles found again."""

from typing import Any

from django.db import transaction

from plinto_core.errors import RecipeError
from plinto_core.house_rules import HouseRules, house_profile, rules_from_file, rules_to_file
from plinto_core.icc.profile import CLASSES, Profile, parse
from plinto_core.icc.standard import RGB_SPACES, rgb_profile
from plinto_server import store
from plinto_server.conditions.models import Condition
from plinto_server.errors import ConflictError, MissingError
from plinto_server.house.models import RuleSet, StoredProfile

#: What a house starts from.
STARTING = HouseRules("As it comes", differing="keep", untagged="ask")


def keep_profile(profile: Profile) -> StoredProfile:
    """Enter a profile; the same bytes twice are one."""
    store.keep_chunks([profile.raw])
    found, _ = StoredProfile.objects.get_or_create(
        sha256=profile.digest,
        defaults={
            "name": profile.name[:255],
            "space": profile.header.space.strip(),
            "profile_class": CLASSES[profile.header.profile_class],
        },
    )
    return found


def profile_by_choice(choice: str) -> Profile:
    """The profile behind a space's name or a digest of the house's or a condition's. Raises `MissingError`."""
    if choice in RGB_SPACES:
        return rgb_profile(choice)
    known = StoredProfile.objects.filter(sha256=choice).exists() or Condition.objects.filter(profile_sha256=choice)
    if not known:
        raise MissingError("This profile is not here any more. Choose another one.")
    return parse(store.path_of(choice).read_bytes())


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
    return HouseRules(**_tuples(found.rules)) if found else STARTING


def _tuples(plain: dict[str, Any]) -> dict[str, Any]:
    return {**plain, "mark_color": tuple(plain["mark_color"])}


def rules_of(found: RuleSet) -> HouseRules:
    """The set's rules."""
    return HouseRules(**_tuples(found.rules))


def set_by_id(set_id: int) -> RuleSet:
    """Raises `MissingError`."""
    found = RuleSet.objects.filter(id=set_id).first()
    if found is None:
        raise MissingError("These house rules are not here any more. Choose another set.")
    return found


def _plain(rules: HouseRules) -> dict[str, Any]:
    return {**rules.__dict__, "mark_color": list(rules.mark_color)}


def _check(rules: HouseRules) -> None:
    stored = stored_profiles({rules.rgb, rules.cmyk, rules.display})
    for space, wanted in ((rules.rgb, "RGB"), (rules.cmyk, "CMYK"), (rules.display, "RGB")):
        found = house_profile(space, stored)
        if found is not None and found.header.space.strip() != wanted:
            raise RecipeError(
                f"'{found.name}' describes {found.header.space.strip()}; the house needs {wanted} in its place."
            )


@transaction.atomic
def save(rules: HouseRules, set_id: int | None = None) -> RuleSet:
    """Make a set, or change one. Raises `ConflictError` for a name that another set has."""
    _check(rules)
    if RuleSet.objects.filter(name=rules.name).exclude(id=set_id or 0).exists():
        raise ConflictError(f"There is a set '{rules.name}' already. Give this one another name.")
    found = set_by_id(set_id) if set_id else RuleSet(in_use=not RuleSet.objects.exists())
    found.name, found.rules = rules.name, _plain(rules)
    found.save()
    return found


@transaction.atomic
def use(found: RuleSet) -> RuleSet:
    """Let this set hold for everyone."""
    RuleSet.objects.filter(in_use=True).exclude(id=found.id).update(in_use=False)
    found.in_use = True
    found.save(update_fields=["in_use", "changed_at"])
    return found


def remove(found: RuleSet) -> None:
    """Raises `ConflictError` for the set in use."""
    if found.in_use:
        raise ConflictError(f"'{found.name}' is in use. Switch to another set first.")
    found.delete()


def export(found: RuleSet) -> dict[str, Any]:
    """The set as one file, its profiles inside."""
    rules = rules_of(found)
    return rules_to_file(rules, stored_profiles(set(rules.digests)))


def import_file(plain: object) -> RuleSet:
    """Take in an exported set with its profiles; a set of that name is replaced."""
    rules, profiles = rules_from_file(plain)
    for profile in profiles.values():
        keep_profile(profile)
    same = RuleSet.objects.filter(name=rules.name).first()
    return save(rules, same.id if same else None)
