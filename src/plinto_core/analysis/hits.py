"""Which colors of an artwork take the biggest hit: families of wanted colors that the print misses."""

from dataclasses import dataclass

import numpy as np
from scipy.cluster.vq import kmeans2

from plinto_core.chain.compiled import Chain
from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.raster.pyramid import Pyramid

_PIXELS = 120_000
_SEED = 11


@dataclass(frozen=True)
class ColorCluster:
    """Mean wanted and printed Lab of a family, its ΔE00, the share of the artwork (0…1), and its radius (ΔE*ab)."""

    wanted_lab: tuple[float, float, float]
    printed_lab: tuple[float, float, float]
    delta_e_mean: float
    delta_e_worst: float
    share: float
    radius: float


def worst_color_clusters(pyramid: Pyramid, chain: Chain, tolerance: float, most: int = 8) -> list[ColorCluster]:
    """At most `most` families of colors further than `tolerance` ΔE00 off, the worst first.

    k-means over wanted Lab of an even sample, seeded: the same picture and settings give the same families.
    """
    pixels, places, _step = pyramid.sample(_PIXELS)
    wanted = chain.wanted(pixels, places).reshape(-1, 3)
    printed = chain.printed(pixels, places).reshape(-1, 3)
    found = delta_e_2000(wanted, printed)
    hit = found > tolerance
    if not hit.any():
        return []
    colors, prints, errors = (values[hit].astype(np.float64) for values in (wanted, printed, found))
    count = min(most, len(np.unique(colors.round(1), axis=0)))
    centers, member = kmeans2(colors, count, minit="++", seed=np.random.default_rng(_SEED), iter=12)
    families = []
    for index in range(count):
        mine = member == index
        if not mine.any():
            continue
        away = np.linalg.norm(colors[mine] - centers[index], axis=1)
        families.append(
            ColorCluster(
                _lab(colors[mine].mean(axis=0)),
                _lab(prints[mine].mean(axis=0)),
                float(errors[mine].mean()),
                float(errors[mine].max()),
                float(mine.sum() / len(found)),
                max(float(np.percentile(away, 90)), 2.0),
            )
        )
    return sorted(families, key=lambda family: -family.delta_e_mean)


def _lab(values: np.ndarray) -> tuple[float, float, float]:
    lightness, a, b = (round(float(value), 2) for value in values)
    return lightness, a, b
