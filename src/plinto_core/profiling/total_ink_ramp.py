"""Total ink: a staircase of more and more ink on one spot, and the step from which it gets no darker."""

from dataclasses import dataclass

import numpy as np

from plinto_core.colorimetry.lab import xyz_to_lab
from plinto_core.errors import CharacterizationError
from plinto_core.measurement.measurements import Array, Measurements

#: L* that a step must still gain for its ink to be worth it.
_WORTH = 0.5
_STEP_PERCENT = 20.0


@dataclass(frozen=True)
class TotalInkRamp:
    """Steps in percent of total ink with the L* and C* measured, relative to the substrate; `enough_percent` is the
    lowest total from which it gets no darker by more than half an L*."""

    steps: tuple[tuple[float, float, float], ...]
    enough_percent: float


def total_ink_ramp_chart(inks: tuple[str, ...], most_percent: float | None = None) -> Array:
    """Ink values (steps, inks) 0…1 from bare substrate upwards: black fills first, then all others alike.

    Without black all inks rise alike. Steps are 20 % apart, up to all the ink there is (400 % at most).
    """
    most = min(most_percent or 100.0 * len(inks), 400.0)
    totals = np.arange(0.0, most + 1, _STEP_PERCENT) / 100
    rows = np.zeros((len(totals), len(inks)))
    others = [at for at, ink in enumerate(inks) if ink != "K"]
    process = [at for at, ink in enumerate(inks) if ink in "CMY"] or others
    for row, total in zip(rows, totals, strict=True):
        black = min(total, 1.0) if "K" in inks else 0.0
        if black:
            row[inks.index("K")] = black
        left = total - black
        share = process if left <= len(process) else others
        row[share] = min(left / max(len(share), 1), 1.0)
    return np.unique(rows.round(4), axis=0)


def read_total_ink_ramp(data: Measurements) -> TotalInkRamp:
    """The step to stop at. Raises `CharacterizationError` for data that is no staircase."""
    order = np.argsort(data.device.sum(axis=1), kind="stable")
    totals = data.device[order].sum(axis=1) * 100
    if len(totals) < 5:
        raise CharacterizationError(f"'{data.title}' has {len(totals)} steps; a staircase has at least five.")
    lab = xyz_to_lab(data.xyz[order] / data.substrate_xyz * np.array([0.9642, 1.0, 0.8249]))
    dark = lab[:, 0] <= lab[:, 0].min() + _WORTH
    enough = float(totals[dark][0])
    chroma = np.hypot(lab[:, 1], lab[:, 2])
    steps = tuple(
        (round(float(t), 1), round(float(L), 2), round(float(c), 2))
        for t, L, c in zip(totals, lab[:, 0], chroma, strict=True)
    )
    return TotalInkRamp(steps, enough)
