"""How much chroma an intent keeps, and how much of the local contrast of colors outside the gamut."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinto_core.chain.compiled import Chain
from plinto_core.colorimetry.difference import delta_e_2000

Array = NDArray[np.float64]

#: RGB of blue, green, cyan, red, magenta, yellow.
PRIMARIES = np.array([[0, 0, 1], [0, 1, 0], [0, 1, 1], [1, 0, 0], [1, 0, 1], [1, 1, 0]], float)


def chroma(lab: Array) -> Array:
    """C* (...) of Lab (..., 3)."""
    return np.asarray(np.hypot(lab[..., 1], lab[..., 2]))


def primaries_kept(line: Chain, relative: Chain) -> Array:
    """Printed C* of the six `PRIMARIES`, of artwork in CMYK its solids and overprints, as a share of what the relative
    line prints."""
    strongest = PRIMARIES if line.channels == 3 else np.pad(1 - PRIMARIES, ((0, 0), (0, 1)))
    print_lab = line.condition.model.lab
    return chroma(print_lab(line.inks(strongest))) / chroma(print_lab(relative.inks(strongest)))


def in_gamut_kept(line: Chain, relative: Chain, count: int = 4000, seed: int = 7) -> float:
    """Mean share of their C* that colors keep which the relative line prints as they are (ΔE00 below 0.5)."""
    device = np.random.default_rng(seed).random((count, line.channels))
    wanted = relative.wanted_lab(device)
    print_lab = line.condition.model.lab
    inside = (delta_e_2000(wanted, print_lab(relative.inks(device))) < 0.5) & (chroma(wanted) > 3)
    return float((chroma(print_lab(line.inks(device[inside]))) / chroma(wanted[inside])).mean())


@dataclass(frozen=True)
class Contrast:
    """Of textures that lie outside the gamut altogether: printed against wanted standard deviation of L*, and of C*
    as a share of its mean; and how many textures these are means over."""

    lightness: float
    chroma: float
    textures: int


def texture_contrast(line: Chain, relative: Chain, count: int = 300, seed: int = 7) -> Contrast:
    """Patches of 24 colors that vary by 5 % around strong colors, as a weave or fur does."""
    random = np.random.default_rng(seed)
    base = random.random((count, 1, 3))
    base[np.arange(count), 0, random.integers(0, 3, count)] *= 0.15
    device = base * (1 + 0.05 * random.normal(size=(count, 24, 1))) + 0.025 * random.normal(size=(count, 24, 3))
    device = np.clip(device, 0, 1)
    print_lab = line.condition.model.lab
    wanted = relative.wanted_lab(device)
    outside = (delta_e_2000(wanted, print_lab(relative.inks(device))) > 2).mean(axis=1) > 0.95
    wanted, printed = wanted[outside], print_lab(line.inks(device[outside]))
    of_l = printed[..., 0].std(axis=1) / wanted[..., 0].std(axis=1)
    of_c = _variation(chroma(printed)) / _variation(chroma(wanted))
    return Contrast(float(of_l.mean()), float(of_c.mean()), int(outside.sum()))


def _variation(values: Array) -> Array:
    return np.asarray(values.std(axis=1) / values.mean(axis=1))
