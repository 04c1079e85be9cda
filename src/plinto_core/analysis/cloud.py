"""An artwork as a cloud of its colors, for looking at its gamut."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from plinto_core.chain.compiled import Chain
from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.icc import cmm
from plinto_core.icc.standard import rgb_profile
from plinto_core.raster.pyramid import Pyramid

_PIXELS, _ARROWS = 400_000, 160


@dataclass(frozen=True)
class Cloud:
    """Wanted Lab of distinct colors with an sRGB code each, and arrows (wanted, printed) for those furthest off."""

    lab: list[list[float]]
    rgb: list[int]
    arrows: list[list[float]]
    outside_share: float


def screen_codes(lab: ArrayLike) -> list[int]:
    """Lab (n, 3) as sRGB codes 0xrrggbb, for a screen."""
    shown = np.rint(np.clip(cmm.from_lab(rgb_profile("sRGB"), lab), 0, 1) * 255).astype(int)
    codes: list[int] = (shown @ [65536, 256, 1]).tolist()
    return codes


def color_cloud(pyramid: Pyramid, chain: Chain, most: int = 20_000, tolerance: float = 3.0) -> Cloud:
    """At most `most` colors of the artwork, one a cell of Lab as fine as that allows."""
    pixels, places, _step = pyramid.sample(_PIXELS)
    lab = chain.wanted(pixels, places).reshape(-1, 3)
    printed = chain.printed(pixels, places).reshape(-1, 3)
    off = delta_e_2000(lab, printed)
    outside = float((off > tolerance).mean())
    for cell in (1.0, 1.5, 2.0, 3.0, 4.0):
        _, first = np.unique(np.floor(lab / cell).astype(np.int32), axis=0, return_index=True)
        if len(first) <= most:
            break
    first = first[:: max(1, -(-len(first) // most))]
    furthest = first[np.argsort(-off[first])[: 8 * _ARROWS]]
    furthest = furthest[off[furthest] > tolerance][::8]
    arrows = np.hstack([lab[furthest], printed[furthest]])
    return Cloud(lab[first].round(1).tolist(), screen_codes(lab[first]), arrows.round(1).tolist(), outside)
