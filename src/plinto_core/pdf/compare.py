"""Two policies on one document, object by object."""

from collections import Counter
from pathlib import Path
from typing import Any

import numpy as np

from plinto_core.chain.library import Condition
from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.icc.profile import Profile
from plinto_core.pdf.apply import Applied, apply
from plinto_core.pdf.report import found_in_words
from plinto_core.pdf.rewrite import Outcome
from plinto_core.policy.conversion import Destination, destination_of
from plinto_core.policy.policy import Policy
from plinto_core.policy.rule import DeliveryRule


def compare_policies(
    path: Path, one: Policy, other: Policy, rule: DeliveryRule, condition: Condition | None, *, limit: float | None = None,
    profiles: dict[str, Profile] | None = None, password: str = "",
) -> dict[str, Any]:  # fmt: skip
    """What differs (each kind of color once, with how often), how many are alike, and both counts.

    ΔE00 is between the two prints, where both are known. Raises `DocumentError` and `PolicyError`.
    """
    done: list[Applied] = []
    for policy in (one, other):
        done.append(
            apply(path, None, policy, rule, condition, limit=limit, profiles=profiles, password=password, boxes=True)
        )
    ends = [destination_of(policy.into, condition, limit) for policy in (one, other)]
    differing: dict[Any, dict[str, Any]] = {}
    same = 0
    for first, second in zip(done[0].outcomes, done[1].outcomes, strict=True):
        apart = _apart(first, second, ends)
        told = _told(first, ends[0]), _told(second, ends[1])
        if told[0] == told[1] and not apart:
            same += 1
            continue
        key = first.use.page, first.use.object, first.use.space, first.use.values, told
        entry = differing.setdefault(
            key,
            {
                "page": first.use.page, "object": first.use.object, "found": found_in_words(first.use),
                "first": told[0], "second": told[1], "times": 0, "delta_e": apart,
            },
        )  # fmt: skip
        entry["times"] += 1
    counts: list[Counter[str]] = [each.counts for each in done]
    return {
        "document": path.name, "policies": [one.name, other.name], "same": same,
        "differing": sorted(differing.values(), key=lambda each: -(each["delta_e"] or 0.0)),
        "counts": [dict(each) for each in counts], "refused": [each.refused for each in done],
    }  # fmt: skip


def _told(outcome: Outcome, end: Destination) -> str:
    inks = " ".join(
        f"{letter} {100 * value:.1f}" for letter, value in zip(end.letters, outcome.written, strict=False)
    )
    return f"{outcome.decision.does} {inks}".strip()


def _apart(first: Outcome, second: Outcome, ends: list[Destination]) -> float | None:
    if not first.written or not second.written:
        return None
    labs = [end.lab(np.array([each.written])) for each, end in zip((first, second), ends, strict=True)]
    return round(float(delta_e_2000(*labs)[0]), 2)
