"""The figures of one artwork under one recipe."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinto_core.adjust.regions import PixelGrid
from plinto_core.analysis.coverage_meter import CoverageMeter
from plinto_core.chain.compiled import Chain
from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.raster.opened import Codes
from plinto_core.raster.pyramid import Pyramid

_COVERAGE_PIXELS, _PROFILED_PIXELS, _DIFFERENCE_PIXELS = 4_000_000, 400_000, 150_000


@dataclass(frozen=True)
class Coverage:
    """Ink on the whole artwork; `wanted_*` is what it would take without a limit on total ink."""

    mean_percent: list[float]
    largest_percent: float
    largest_at: tuple[int, int]
    histogram: list[float]
    wanted_largest_percent: float
    wanted_largest_at: tuple[int, int]
    wanted_over_share: float
    wanted_histogram: list[float]
    sampled_every: int


@dataclass(frozen=True)
class Differences:
    """ΔE00 between wanted and printed color over the artwork's pixels, and the share out of gamut (0…1)."""

    out_of_gamut_share: float
    tolerance: float
    mean: float
    p95: float
    worst: float
    worst_at: tuple[int, int]


@dataclass(frozen=True)
class Loss:
    """ΔE00 between the print with all inks and the print without those left out; share over the tolerance (0…1)."""

    share: float
    mean: float
    p95: float
    worst: float


def coverage(pyramid: Pyramid, chain: Chain, unlimited: Chain) -> Coverage:
    """Ink totals of every pixel, or of an even sample in larger pictures (see `sampled_every`)."""
    sample = pyramid.sample(_COVERAGE_PIXELS if chain.rebuilt else _PROFILED_PIXELS)
    pixels, _places, step = sample
    limit = chain.recipe.ink.limits.total_percent
    limited = _metered(chain, *sample[:2], limit)
    wanted = limited if unlimited is chain else _metered(unlimited, *sample[:2], limit)
    return Coverage(
        limited.mean_percent,
        limited.largest_percent,
        _place(limited.largest_at, pyramid, step),
        limited.histogram,
        wanted.largest_percent,
        _place(wanted.largest_at, pyramid, step),
        wanted.over / (pixels.shape[0] * pixels.shape[1]),
        wanted.histogram,
        step,
    )


def _metered(chain: Chain, pixels: Codes, places: PixelGrid, limit_percent: float) -> CoverageMeter:
    """A meter that has seen the pixels' inks, against the limit."""
    meter = CoverageMeter(len(chain.condition.model.inks), 8, limit_percent)
    meter.add(chain.ink_codes(pixels, places, 8))
    return meter


def _place(index: int, pyramid: Pyramid, step: int) -> tuple[int, int]:
    """Picture coordinates (x, y) of the sample with this index."""
    across = len(range(step // 2, pyramid.width, step))
    return step // 2 + index % across * step, step // 2 + index // across * step


def pixel_differences(chain: Chain, pixels: Codes, places: PixelGrid) -> NDArray[np.float32]:
    """ΔE00 (h, w) between what is wanted and what the written inks print, for picture codes (h, w, channels)."""
    return np.asarray(delta_e_2000(chain.wanted(pixels, places), chain.printed(pixels, places)), np.float32)


def pixel_loss(chain: Chain, complete: Chain, pixels: Codes, places: PixelGrid) -> NDArray[np.float32]:
    """ΔE00 (h, w) between the print of `chain` and that of the `complete` one with all inks."""
    return np.asarray(delta_e_2000(chain.printed(pixels, places), complete.printed(pixels, places)), np.float32)


def differences(pyramid: Pyramid, chain: Chain, reach: Chain, tolerance: float) -> Differences:
    """Differences over an even sample; `reach` is the colorimetric chain that tells what lies outside."""
    pixels, places, step = pyramid.sample(_DIFFERENCE_PIXELS)
    found = pixel_differences(chain, pixels, places)
    outside = found if reach is chain else pixel_differences(reach, pixels, places)
    return Differences(
        float((outside > tolerance).mean()),
        tolerance,
        float(found.mean()),
        float(np.percentile(found, 95)),
        float(found.max()),
        _place(int(found.argmax()), pyramid, step),
    )


def loss(pyramid: Pyramid, chain: Chain, complete: Chain, tolerance: float) -> Loss:
    """What leaving inks out costs, over an even sample."""
    pixels, places, _step = pyramid.sample(_DIFFERENCE_PIXELS)
    found = pixel_loss(chain, complete, pixels, places)
    return Loss(
        float((found > tolerance).mean()), float(found.mean()), float(np.percentile(found, 95)), float(found.max())
    )
