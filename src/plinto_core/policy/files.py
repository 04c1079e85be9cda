"""Policies as files: their profiles inside, or beside them."""

import base64
import binascii
import json
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

from plinto_core.errors import IccError, PolicyError
from plinto_core.house_rules import HouseRules
from plinto_core.icc.profile import Profile, parse
from plinto_core.icc.standard import RGB_SPACES
from plinto_core.policy.kinds import Catches
from plinto_core.policy.policy import Convert, Leave, Policy, Refuse, Row, policy_from_json

_WORDS = ("", "gray", "destination", *RGB_SPACES)


def policy_to_file(policy: Policy, stored: dict[str, Profile]) -> dict[str, Any]:
    """The policy as one JSON object, the profiles that it names inside."""
    named = {name for name in (policy.gray, policy.rgb, policy.cmyk) if name not in _WORDS}
    profiles = {digest: base64.b64encode(stored[digest].raw).decode() for digest in sorted(named) if digest in stored}
    return {"policy": policy.to_json(), "profiles": profiles}


def policy_from_file(plain: object, beside: Path | None = None) -> tuple[Policy, dict[str, Profile]]:
    """The policy and its profiles by digest. In a file beside profiles, their file names may stand for them.

    Raises `PolicyError`.
    """
    if not isinstance(plain, dict):
        raise PolicyError("This is no policy. Export one from Plinto, or start from a ready-made one.")
    inner = plain.get("policy", plain)
    try:
        given = [parse(base64.b64decode(text, validate=True)) for text in dict(plain.get("profiles") or {}).values()]
        stored = {profile.digest: profile for profile in given}
        if beside is not None and isinstance(inner, dict):
            inner = {key: _named(key, value, beside, stored) for key, value in inner.items()}
    except (binascii.Error, TypeError, ValueError, OSError, IccError) as error:
        raise PolicyError(f"A profile of the policy cannot be read: {error}") from error
    policy = policy_from_json(inner)
    for name in (policy.gray, policy.rgb, policy.cmyk):
        if name not in _WORDS and name not in stored:
            raise PolicyError(f"The policy assumes '{name[:40]}', and no profile with this digest comes with it.")
    return policy, stored


def _named(key: str, value: Any, beside: Path, stored: dict[str, Profile]) -> Any:
    if (
        key not in ("gray", "rgb", "cmyk")
        or not isinstance(value, str)
        or not value.lower().endswith((".icc", ".icm"))
    ):
        return value
    profile = parse((beside / value).read_bytes())
    stored[profile.digest] = profile
    return profile.digest


def read_policy(path: Path) -> tuple[Policy, dict[str, Profile]]:
    """A policy's file. Raises `PolicyError`."""
    try:
        plain = json.loads(path.read_bytes())
    except (ValueError, RecursionError) as error:
        raise PolicyError(f"'{path.name}' is no JSON, so no policy ({error}).") from error
    return policy_from_file(plain, path.parent)


def from_house_rules(rules: HouseRules) -> Policy:
    """The policy that does to documents what a house's rules do to pictures."""
    differing: Callable[[], Convert | Leave] = Convert if rules.differing == "convert" else Leave
    rows = []
    if rules.untagged == "ask":
        asked = Refuse("No profile was embedded. Ask the sender what the numbers mean.")
        rows.append(Row(Catches(spaces=("RGB", "CMYK"), tagged=False), asked))
    rows.append(Row(Catches(spaces=("RGB",), tagged=True), differing()))
    rows.append(Row(Catches(), Leave()))
    base = Policy(
        f"{rules.name}, for documents"[:120], tuple(rows), into=rules.rgb if rules.rgb in RGB_SPACES else "sRGB"
    )
    assume = rules.untagged == "assume"
    return replace(base, rgb=rules.rgb if assume else "", cmyk=rules.cmyk if assume else "")
