"""Screening: threshold tables for dot shapes, and how film dots look on a screen."""

from functools import cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plinto_core.deliver.halftone_kernels import TABLE, dots, dots_on_screen, mean_of_dots
from plinto_core.recipe.film import FilmSettings

Codes = NDArray[np.unsignedinteger[Any]]


@cache
def threshold_table(shape: str) -> NDArray[np.uint16]:
    """Thresholds (256, 256) over one screen cell, each level 0…65534 covering its even share of the cell.

    A dot grows where its spot function is highest; ranking the function makes the area equal the tone for every
    shape (the usual spot functions, equalized).
    """
    axis = (np.arange(TABLE) + 0.5) / TABLE * 2 - 1
    u, v = np.meshgrid(axis, axis, indexing="ij")
    spot = {
        "round": np.cos(np.pi * u) + np.cos(np.pi * v),
        "elliptical": np.cos(np.pi * u) + 0.62 * np.cos(np.pi * v),
        "line": np.cos(np.pi * v) + 1e-3 * np.cos(np.pi * u),
    }[shape]
    rank = np.empty(spot.size, np.int64)
    rank[np.argsort(-spot, axis=None, kind="stable")] = np.arange(spot.size)
    return (rank * 65535 // spot.size).astype(np.uint16).reshape(spot.shape)


def screen_vector(settings: FilmSettings, ink: str, index: int) -> tuple[float, float]:
    """Cosine and sine of the ink's angle, times screen cells a film pixel."""
    angle = np.radians(settings.angle(ink, index))
    cells = settings.ruling_lpi / settings.dpi
    return float(np.cos(angle) * cells), float(np.sin(angle) * cells)


def halftoned(
    tones: NDArray[np.uint16], left: int, top: int, settings: FilmSettings, ink: str, index: int
) -> NDArray[np.uint8]:
    """1 for opaque, 0 for clear, for film tones (h, w) 0…65535 whose corner lies at (left, top) of the film."""
    out = np.empty(tones.shape, np.uint8)
    dots(tones, left, top, *screen_vector(settings, ink, index), threshold_table(settings.shape), out)
    return out


def dots_seen(
    codes: Codes, xs: NDArray[np.floating[Any]], ys: NDArray[np.floating[Any]], film_scale: float, settings: FilmSettings,
    inks: tuple[str, ...], primaries: NDArray[np.float32],
) -> NDArray[np.float32]:  # fmt: skip
    """Colors (h, w, 3) of the dots of all `inks`; see `dots_on_screen`."""
    screens = np.array([screen_vector(settings, ink, index) for index, ink in enumerate(inks)])
    out = np.empty((*codes.shape[:2], 3), np.float32)
    top = int(np.iinfo(codes.dtype).max)
    table = threshold_table(settings.shape)
    dots_on_screen(np.ascontiguousarray(codes), top, xs, ys, film_scale, screens, table, primaries, out)
    return out


def mean_seen(codes: Codes, primaries: NDArray[np.float32]) -> NDArray[np.float32]:
    """What the dots of codes (h, w, inks) come to from afar, (h, w, 3); see `mean_of_dots`."""
    out = np.empty((*codes.shape[:2], 3), np.float32)
    mean_of_dots(np.ascontiguousarray(codes), int(np.iinfo(codes.dtype).max), primaries, out)
    return out
