"""A measured control strip against what the condition is aimed at."""

from dataclasses import dataclass, replace

import numpy as np

from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.colorimetry.lab import xyz_to_lab
from plinto_core.errors import CharacterizationError
from plinto_core.measurement.measurements import Measurements
from plinto_core.press.model import ForwardModel


@dataclass(frozen=True)
class Tolerances:
    """ΔE00 that a condition may be off: paper, solids, every patch on average, any patch (ISO 12647-2 practice)."""

    paper: float = 3.0
    solids: float = 3.5
    mean: float = 2.5
    worst: float = 6.0


@dataclass(frozen=True)
class Drift:
    """ΔE00 of a strip; `within` says whether every tolerance holds, `broken` which do not, in words."""

    patches: int
    paper: float
    solids: dict[str, float]
    mean: float
    worst: float
    worst_patch: int
    within: bool
    broken: tuple[str, ...]


def measure_drift(strip: Measurements, aim: ForwardModel, tolerances: Tolerances = Tolerances()) -> Drift:
    """Compare ICC-absolute colors patch by patch. Raises `CharacterizationError` for another ink set."""
    if strip.device.shape[1] != len(aim.inks):
        raise CharacterizationError(
            f"'{strip.title}' has {strip.device.shape[1]} inks, and the condition has {len(aim.inks)}."
        )
    errors = delta_e_2000(aim.to_absolute(aim.lab(strip.device)), xyz_to_lab(strip.xyz))
    bare = strip.device.max(axis=1) < 1e-6
    paper = float(errors[bare].mean()) if bare.any() else 0.0
    solids = {}
    for index, ink in enumerate(aim.inks):
        alone = np.delete(strip.device, index, axis=1).max(axis=1, initial=0) < 1e-6
        solid = alone & (strip.device[:, index] > 0.995)
        if solid.any():
            solids[ink] = float(errors[solid].mean())
    found = Drift(
        len(errors), paper, solids, float(errors.mean()), float(errors.max()), int(errors.argmax()) + 1, True, ()
    )
    return within(found, tolerances)


def within(found: Drift, tolerances: Tolerances) -> Drift:
    """The same figures held against tolerances."""
    broken = []
    if found.paper > tolerances.paper:
        broken.append(f"paper is off by {found.paper:.1f} (allowed {tolerances.paper:g})")
    broken += [
        f"solid {k} is off by {v:.1f} (allowed {tolerances.solids:g})"
        for k, v in found.solids.items()
        if v > tolerances.solids
    ]
    if found.mean > tolerances.mean:
        broken.append(f"the mean is {found.mean:.1f} (allowed {tolerances.mean:g})")
    if found.worst > tolerances.worst:
        broken.append(f"patch {found.worst_patch} is off by {found.worst:.1f} (allowed {tolerances.worst:g})")
    return replace(found, within=not broken, broken=tuple(broken))
