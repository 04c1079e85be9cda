"""What a profile's settings would give, quickly: separation of the grays, black point, darkness, gamut, ink in color."""

from dataclasses import dataclass

import numpy as np

from plinto_core.gamut.volume import volume
from plinto_core.press.model import ForwardModel
from plinto_core.recipe.black import BlackPolicy
from plinto_core.recipe.limits import InkLimits
from plinto_core.separation.inverse import Inverse
from plinto_core.separation.tables import InverseTables

_STEPS = 33
#: Totals around the one chosen, at which darkness is shown.
_AROUND = np.array([-120.0, -90, -60, -40, -20, 0, 20, 40, 60, 90, 120])


@dataclass(frozen=True)
class BuildPreview:
    """Figures of one choice of limits and black; Lab is media-relative, D50.

    `gray_inks` (33 rows of L* and inks 0…1), white to black; `black_lab` the darkest neutral; `darkness` rows of total
    ink % and L* of the darkest neutral there; `gamut_volume` cubic ΔE*ab; `most_percent` ink that grays really take.
    """

    gray_inks: tuple[tuple[float, ...], ...]
    black_lab: tuple[float, float, float]
    black_inks: tuple[float, ...]
    darkness: tuple[tuple[float, float], ...]
    gamut_volume: float
    most_percent: float


def preview_build(model: ForwardModel, tables: InverseTables, black: BlackPolicy, limits: InkLimits) -> BuildPreview:
    """The figures; less than a tenth of a second for four inks, a fifth for six."""
    inverse = Inverse(model, tables, black, limits)
    darkest = inverse.black_point_lab
    axis = np.zeros((_STEPS, 3))
    axis[:, 0] = np.linspace(100, float(darkest[0]), _STEPS)
    inks = inverse.inks(axis)
    most = 100.0 * len(model.inks)
    totals = np.unique(np.clip(limits.total_percent + _AROUND, 60, min(most, 400.0)))
    darkness = [
        (float(total), Inverse(model, tables, black, _with_total(limits, total)).darkest_l) for total in totals
    ]
    return BuildPreview(
        tuple(
            (round(float(L), 2), *(round(float(v), 4) for v in row)) for L, row in zip(axis[:, 0], inks, strict=True)
        ),
        (round(float(darkest[0]), 2), round(float(darkest[1]), 2), round(float(darkest[2]), 2)),
        tuple(round(float(v), 4) for v in inverse.black_point_inks),
        tuple((total, round(L, 2)) for total, L in darkness),
        round(volume(inverse.boundary), 0),
        round(float(inks.sum(axis=1).max()) * 100, 1),
    )


def _with_total(limits: InkLimits, total: float) -> InkLimits:
    return InkLimits(max(float(total), 50.0), limits.per_ink_percent)
