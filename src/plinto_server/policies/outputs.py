"""Outputs kept with a history, and made ready to decide with."""

import json
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction

from plinto_core.errors import PolicyError
from plinto_core.icc.profile import Profile
from plinto_core.icc.standard import RGB_SPACES
from plinto_core.pdf.side import Side
from plinto_core.policy.files import policy_from_file, policy_to_file
from plinto_core.policy.policy import Policy, policy_from_json
from plinto_core.policy.rule import DeliveryRule, rule_from_json
from plinto_core.policy.ticket import ticket_from_json
from plinto_core.recipe import canonical_digest
from plinto_core.sandbox.client import check_file
from plinto_server.conditions.models import Condition
from plinto_server.errors import MissingError
from plinto_server.files import store
from plinto_server.house import service as house
from plinto_server.policies.models import Output
from plinto_server.records import history
from plinto_server.removals import bin as removals
from plinto_server.warm import shelves

OUTPUT = "output"
Plain = dict[str, Any]


@dataclass(frozen=True)
class Prepared(Side):
    """An output as the core needs it; `key` names everything that its decisions depend on."""

    key: str = ""

    @property
    def plain(self) -> Plain:
        """As the sandbox is asked with, by the paths of its files (see `side_of_plain`)."""
        condition = self.condition
        return {
            "policy": self.policy.to_json(), "rule": self.rule.to_json(), "limit": self.limit,
            "condition": str(store.path_of(condition.profile.digest)) if condition else None,
            "profiles": {digest: str(store.path_of(digest)) for digest in self.profiles},
        }  # fmt: skip


def by_id(output_id: int) -> Output:
    """Raises `MissingError`."""
    found = Output.objects.select_related("condition").filter(id=output_id).first()
    if found is None:
        raise MissingError("This output is not here any more. Choose another one.")
    return found


def as_of(found: Output, number: int) -> Output:
    """The output as one of its revisions left it, not saved. Raises `MissingError`."""
    revision = history.revisions(OUTPUT, str(found.id)).filter(number=number).first()
    if revision is None or revision.after is None:
        raise MissingError(f"'{found.name}' has no version {number}.")
    plain = revision.after
    condition = Condition.objects.filter(slug=plain["condition"]).first() if plain["condition"] else None
    return Output(
        id=found.id, name=f"{plain['name']}, version {number}", condition=condition, policy=plain["policy"],
        rule=plain["rule"], ticket=plain.get("ticket", {}), notes=plain["notes"],
    )  # fmt: skip


def named_profiles(policy: Policy) -> dict[str, Profile]:
    """Profiles of the house that a policy assumes, by digest. Raises `MissingError`."""
    named = {policy.gray, policy.rgb, policy.cmyk} - {"", "gray", "destination", *RGB_SPACES}
    return {digest: house.profile_by_choice(digest) for digest in named}


def prepared(output: Output) -> Prepared:
    """Raises `PolicyError`, `MissingError`."""
    policy, rule = policy_from_json(output.policy), rule_from_json(output.rule)
    return ready(policy, rule, output.condition)


def ready(policy: Policy, rule: DeliveryRule, condition: Condition | None) -> Prepared:
    """Policy, rule and condition, with what they name."""
    if policy.into == "condition" and condition is None:
        raise PolicyError("This policy converts into a printing condition. Choose one for the output.")
    profiles = named_profiles(policy)
    core = shelves.condition(condition.profile_sha256) if condition else None
    limit = condition.total_ink_percent if condition else None
    digest = condition.profile_sha256 if condition else ""
    key = canonical_digest([policy.to_json(), rule.to_json(), digest, limit])
    return Prepared(policy, rule, core, limit, profiles, key=key)


def _plain(found: Output) -> Plain:
    condition = found.condition.slug if found.condition else ""
    return {
        "name": found.name, "condition": condition, "policy": found.policy, "rule": found.rule, "ticket": found.ticket,
        "notes": found.notes,
    }  # fmt: skip


def _fill(found: Output, given: Plain) -> None:
    policy, rule = policy_from_json(given["policy"]), rule_from_json(given["rule"])
    condition = None
    if given["condition"]:
        condition = Condition.objects.filter(slug=given["condition"]).first()
        if condition is None:
            raise MissingError("This printing condition is not here any more. Choose another one.")
    ready(policy, rule, condition)
    taken = Output.objects.filter(name=given["name"]).exclude(id=found.id).exists()
    if taken:
        raise PolicyError(f"There is an output '{given['name']}' already. Give this one another name.")
    found.name, found.condition, found.notes = given["name"], condition, given["notes"]
    found.policy, found.rule = policy.to_json(), rule.to_json()
    found.ticket = ticket_from_json(given.get("ticket", {})).to_json()
    found.seen = _present(condition)


def _present(condition: Condition | None) -> dict[str, Any]:
    if condition is None:
        return {}
    return {"profile": condition.profile_sha256, "limit": condition.total_ink_percent}


def to_look_at(found: Output) -> list[str]:
    """What has changed at the condition since somebody looked at this output, in sentences."""
    now, condition = _present(found.condition), found.condition
    if condition is None or not found.seen:
        return []
    told = []
    if now["profile"] != found.seen.get("profile"):
        told.append(f"'{condition.name}' has another profile since.")
    if now["limit"] != found.seen.get("limit"):
        told.append(f"Total ink of '{condition.name}' was {found.seen.get('limit'):g} % and is {now['limit']:g} %.")
    return told


def looked_at(output_id: int) -> Output:
    """The output as somebody has seen and accepts it now."""
    found = by_id(output_id)
    found.seen = _present(found.condition)
    found.save(update_fields=["seen"])
    return found


@transaction.atomic
def make(given: Plain, user: User | None) -> Output:
    """A new output. Raises `PolicyError`, `MissingError`."""
    found = Output(position=Output.objects.count())
    _fill(found, given)
    found.save()
    history.write(OUTPUT, str(found.id), found.name, None, _plain(found), user)
    return found


@transaction.atomic
def change(output_id: int, given: Plain, looked_at: int, user: User | None) -> Output:
    """Change an output. Raises `ConflictError` when somebody else did meanwhile."""
    found = by_id(output_id)
    history.check_version(OUTPUT, str(found.id), looked_at)
    before = _plain(found)
    _fill(found, given)
    found.save()
    history.write(OUTPUT, str(found.id), found.name, before, _plain(found), user)
    return found


@transaction.atomic
def remove(output_id: int, user: User | None) -> None:
    """Remove an output; its history stays."""
    found = by_id(output_id)
    history.write(OUTPUT, str(found.id), found.name, _plain(found), None, user)
    removals.remove([found], found.name, user, "house", (OUTPUT, str(found.id)))


def export(found: Output) -> Plain:
    """The output's policy as one file, its profiles inside."""
    policy = policy_from_json(found.policy)
    return policy_to_file(policy, named_profiles(policy))


def import_policy(output_id: int, path: Path, name: str, looked_at: int, user: User | None) -> Output:
    """Put the policy of an exported file in place of an output's. Raises `PolicyError`, `ConflictError`; the old one stays
    in the history."""
    check_file("policy", path, name)
    policy, profiles = policy_from_file(json.loads(path.read_bytes()))
    with transaction.atomic():
        for profile in profiles.values():
            house.keep_profile(profile)
        given = _plain(by_id(output_id)) | {"policy": policy.to_json()}
        return change(output_id, given, looked_at, user)


def restore(key: str, plain: Plain, user: User) -> None:
    """Put an output back as it was."""
    change(int(key), plain, history.version_of(OUTPUT, key), user)
