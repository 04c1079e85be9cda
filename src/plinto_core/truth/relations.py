"""Whether a line of stations keeps the order of things along ramps: lightness, black, total ink and neutrality."""

from dataclasses import dataclass
from itertools import product

import numpy as np
from numpy.typing import NDArray

from plinto_core.chain.compiled import Chain
from plinto_core.colorimetry.difference import delta_e_2000

Array = NDArray[np.float64]


def backwards(values: Array) -> float:
    """The most that values (n,), which should only fall, rise again above the lowest before: 0 where none does."""
    return float(np.max(values - np.minimum.accumulate(values)))


def gray_ramp(steps: int = 256) -> Array:
    """RGB (steps, 3) from white to black."""
    return np.linspace(1, 0, steps)[:, None].repeat(3, axis=1)


def ramps_to_black_and_white(steps: int = 128) -> Array:
    """RGB (2 · 12, steps, 3): from saturated colors around the circle to black, and to them from white; L* falls."""
    corners = np.array(list(product((0.0, 0.5, 1.0), repeat=3)))
    saturated = corners[(corners.min(axis=1) == 0) & (corners.max(axis=1) == 1)]
    t = np.linspace(0, 1, steps)[:, None]
    down = [color * (1 - t) for color in saturated]
    up = [1 - t * (1 - color) for color in saturated]
    return np.stack(down + up)


@dataclass(frozen=True)
class GrayRelations:
    """Along gray, from white to black: how far L* and K turn around, total ink in percent falls again from its largest
    before black, and the largest C* printed."""

    lightness_back: float
    black_back_percent: float
    total_back_percent: float
    chroma: float


def gray_relations(inks: Array, lab: Array, black: int | None) -> GrayRelations:
    """Figures of printed gray: inks (n, inks) 0…1 and Lab (n, 3), white to black; `black` is K's index."""
    k = -inks[:, black] if black is not None else np.zeros(len(inks))
    return GrayRelations(
        backwards(lab[:, 0]),
        100 * backwards(k),
        100 * backwards(-inks.sum(axis=1)),
        float(np.hypot(lab[:, 1], lab[:, 2]).max()),
    )


#: Steps to both sides that an ink's speed is compared with, and what counts as standing still (fraction a step).
_BESIDE, _STILL = 4, 0.0025


def fastest_step(inks: Array) -> float:
    """How many times the mean of its neighbors the fastest step of any ink along inks (n, inks) 0…1 is."""
    steps = np.abs(np.diff(inks, axis=0))
    worst = 0.0
    for at in range(len(steps)):
        first, last = max(at - _BESIDE, 0), min(at + _BESIDE + 1, len(steps))
        beside = np.delete(steps[first:last], at - first, axis=0).mean(axis=0)
        worst = max(worst, float((steps[at] / np.maximum(beside, _STILL)).max()))
    return worst


def jumps(line: Chain, device: Array, seed: int = 3) -> Array:
    """By how much, ΔE00 (n,), print changes more than is wanted where RGB (n, 3) changes by one 8-bit code, any way."""
    way = np.random.default_rng(seed).normal(size=device.shape)
    beside = np.clip(device + way / np.linalg.norm(way, axis=1, keepdims=True) / 255, 0, 1)
    print_lab = line.condition.model.lab
    printed = delta_e_2000(print_lab(line.inks(device)), print_lab(line.inks(beside)))
    return np.asarray(printed - delta_e_2000(line.wanted_lab(device), line.wanted_lab(beside)))
