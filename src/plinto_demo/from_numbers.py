"""What a supplier would say of a simulated press, and how far a condition made of no more than that is off."""

from dataclasses import dataclass
from itertools import product

import numpy as np

from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.colorimetry.lab import xyz_to_lab
from plinto_core.inks.names import letters_of
from plinto_core.measurement.chart import correction_chart
from plinto_core.press.corrected import corrected
from plinto_core.press.from_inks import InkNumbers, model_from_inks
from plinto_core.press.model import ForwardModel
from plinto_demo.press import Array
from plinto_demo.shop import CONDITIONS, measure

#: Conditions of the shop that are told of by numbers, to measure with.
PRESSES = ("halden-silk-150", "tern-news-45", "cotton-54t", "brack-pouch-film", "sateen-reactive")
_COLORS = 2000


@dataclass(frozen=True)
class OffByNumbers:
    """Mean ΔE00 over fresh colors of the press: as `told` by numbers, and `moved` by so many `patches`; mean ΔE00 of the
    patches themselves `before` and `after`; Lab of bare `paper`."""

    told: float
    moved: float
    patches: int
    before: float
    after: float
    paper: list[float]


def off_by_numbers(slug: str) -> OffByNumbers:
    """Paper, solids and the gain at half tone of a condition of the shop (a slug of `PRESSES`) as numbers, made into a
    condition, and corrected by a small chart; both beside the press within its total ink."""
    shop = next(each for each in CONDITIONS if each.slug == slug)
    count, random = len(shop.inks), np.random.default_rng(1)
    corners = np.array(list(product((0.0, 1.0), repeat=count)))
    fresh = random.random((_COLORS, count)) * np.sqrt(random.random((_COLORS, 1)))
    fresh = fresh[fresh.sum(axis=1) <= shop.total_ink_percent / 100]
    told = measure(shop, np.vstack([corners, np.eye(count) * 0.5, fresh]), seed=5)
    letters, lab = letters_of(told.inks), xyz_to_lab(told.xyz)
    solids: dict[str, tuple[float, float, float]] = {}
    gains = {}
    for at, ink in enumerate(letters):
        alone = int(np.flatnonzero((corners == np.eye(count)[at]).all(axis=1))[0])
        solids[ink] = _triple(lab[alone])
        paper, solid, half = told.xyz[0], told.xyz[alone], told.xyz[len(corners) + at]
        part = (paper - solid).argmax()
        gains[ink] = float(((paper - half) / (paper - solid))[part] * 100 - 50)
    numbers = InkNumbers(slug, _triple(lab[0]), solids, {}, gains)
    model = model_from_inks(numbers)
    inks = fresh[:, [letters.index(ink) for ink in model.inks]]
    wanted = lab[len(corners) + count :]
    patches = correction_chart(letters)
    moved = corrected(numbers, measure(shop, patches, seed=9))
    return OffByNumbers(
        _off(model, inks, wanted), _off(moved.model, inks, wanted), len(patches), moved.before, moved.after,
        moved.model.nodes[0].tolist(),
    )  # fmt: skip


def _triple(lab: Array) -> tuple[float, float, float]:
    return float(lab[0]), float(lab[1]), float(lab[2])


def _off(model: ForwardModel, inks: Array, wanted: Array) -> float:
    return float(delta_e_2000(wanted, model.to_absolute(model.lab(inks))).mean())
