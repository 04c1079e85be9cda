"""Two policies, delivery rules or whole outputs on one document, object by object."""

from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.pdf.apply import Applied, apply
from plinto_core.pdf.report import found_in_words
from plinto_core.pdf.rewrite import Outcome
from plinto_core.pdf.side import Side
from plinto_core.policy.conversion import Destination


def compare_sides(
    path: Path, one: Side, other: Side, password: str = "", *, shown_as: str = "",
    progress: Callable[[float], None] = lambda share: None, stopped: Callable[[], bool] = lambda: False,
) -> dict[str, Any]:  # fmt: skip
    """What differs (each kind of color once, with how often and where), how many are alike, and both sides' sums.

    ΔE00 is between the two prints, each seen relative to its own stock. Raises `DocumentError`, `PolicyError`, `Cancelled`.
    """
    done: list[Applied] = []
    for at, side in enumerate((one, other)):

        def half(share: float, at: int = at) -> None:
            progress((at + share) / 2)

        done.append(
            apply(path, None, side.policy, side.rule, side.condition, name=shown_as, limit=side.limit,
                  profiles=side.profiles, password=password, boxes=True, progress=half, stopped=stopped)
        )  # fmt: skip
    ends = [one.destination, other.destination]
    differing: dict[Any, dict[str, Any]] = {}
    same = 0
    outcomes = list(zip(done[0].outcomes, done[1].outcomes, strict=True))
    for (first, second), apart in zip(outcomes, _apart(outcomes, ends), strict=True):
        told = _told(first, ends[0]), _told(second, ends[1])
        if told[0] == told[1] and not apart:
            same += 1
            continue
        key = first.use.page, first.use.object, first.use.space, first.use.values, told
        entry = differing.setdefault(
            key,
            {
                "page": first.use.page, "object": first.use.object, "found": found_in_words(first.use),
                "first": told[0], "second": told[1], "times": 0, "delta_e": apart, "boxes": [],
            },
        )  # fmt: skip
        entry["times"] += 1
        if first.use.box is not None and len(entry["boxes"]) < 200:
            entry["boxes"].append([round(each, 1) for each in first.use.box])
    counts: list[Counter[str]] = [each.counts for each in done]
    return {
        "document": path.name, "policies": [one.policy.name, other.policy.name], "same": same,
        "differing": sorted(differing.values(), key=lambda each: -(each["delta_e"] or 0.0)),
        "counts": [dict(each) for each in counts], "refused": [each.refused for each in done],
        "drift": [each.drift for each in done], "notes": [each.notes for each in done],
    }  # fmt: skip


def _told(outcome: Outcome, end: Destination) -> str:
    inks = " ".join(
        f"{letter} {100 * value:.1f}" for letter, value in zip(end.letters, outcome.written, strict=False)
    )
    said = "" if outcome.written else outcome.decision.said
    return " ".join(filter(None, (outcome.decision.does, inks, said)))


def _apart(outcomes: list[tuple[Outcome, Outcome]], ends: list[Destination]) -> list[float | None]:
    """ΔE00 between the prints of each pair; None where either writes nothing. What comes again is worked out once."""
    pairs = [
        (first.written, second.written) if first.written and second.written else None for first, second in outcomes
    ]
    known = list(dict.fromkeys(pair for pair in pairs if pair))
    if not known:
        return [None] * len(pairs)
    labs = [end.lab(np.array(written)) for written, end in zip(zip(*known, strict=True), ends, strict=True)]
    told = dict(zip(known, delta_e_2000(*labs).round(2).tolist(), strict=True))
    return [told[pair] if pair else None for pair in pairs]
