"""Colors of artwork as a list: a rectangle as a grid of samples, single places."""

from collections.abc import Sequence

import numpy as np

from plinto_core.errors import PipelineError
from plinto_core.raster.opened import Artwork
from plinto_core.route.color_list import MOST_COLORS, ColorList

_CHANNELS = {3: ("R", "G", "B"), 4: ("C", "M", "Y", "K")}


def sampled(
    artwork: Artwork, rectangle: tuple[int, int, int, int], across: int, down: int
) -> tuple[ColorList, list[tuple[int, int]]]:
    """Means of `across` × `down` fields of a rectangle (left, top, width, height in pixels), and the middle of each.

    The mean is of the codes as they lie in the file. Raises `PipelineError` where the rectangle is not on the artwork.
    """
    left, top, width, height = rectangle
    if not (left >= 0 and top >= 0 and left + width <= artwork.width and top + height <= artwork.height):
        raise PipelineError(
            f"The rectangle {left},{top},{width},{height} is not on '{artwork.name}', which has {artwork.width} × "
            f"{artwork.height} pixels."
        )
    if not (1 <= across <= width and 1 <= down <= height) or across * down > MOST_COLORS:
        raise PipelineError(
            f"{across} × {down} fields do not fit {width} × {height} pixels, or are more than {MOST_COLORS:,}."
        )
    columns = left + np.linspace(0, width, across + 1).astype(int)
    rows = top + np.linspace(0, height, down + 1).astype(int)
    sums, counts = np.zeros((down, across, artwork.channels)), np.zeros((down, across))
    at, whole = 0, 255.0
    for band in artwork.bands():
        whole = float(np.iinfo(band.dtype).max)
        for field in range(down):
            first, last = max(rows[field] - at, 0), min(rows[field + 1] - at, len(band))
            if first >= last:
                continue
            strip = band[first:last].astype(np.float64).sum(axis=0)
            together = np.add.reduceat(strip[columns[0] : columns[-1]], columns[:-1] - columns[0], axis=0)
            sums[field] += together
            counts[field] += (last - first) * np.diff(columns)
        at += len(band)
    values = (sums / counts[..., None] / whole).reshape(-1, artwork.channels)
    middles = [
        ((int(columns[x]) + int(columns[x + 1])) // 2, (int(rows[y]) + int(rows[y + 1])) // 2)
        for y in range(down) for x in range(across)
    ]  # fmt: skip
    names = tuple(f"{x}, {y}" for x, y in middles)
    return ColorList(names, _CHANNELS[artwork.channels], values), middles


def sampled_at(artwork: Artwork, places: Sequence[tuple[int, int]], names: Sequence[str]) -> ColorList:
    """The codes of single pixels (x, y), each with its name.

    Raises `PipelineError` where a place is not on the artwork, or there is none.
    """
    if not places:
        raise PipelineError(f"There is no place on '{artwork.name}' to read.")
    if not all(0 <= x < artwork.width and 0 <= y < artwork.height for x, y in places):
        raise PipelineError(
            f"A place is not on '{artwork.name}', which has {artwork.width} × {artwork.height} pixels."
        )
    values = np.zeros((len(places), artwork.channels))
    at = 0
    for band in artwork.bands():
        for number, (x, y) in enumerate(places):
            if at <= y < at + len(band):
                values[number] = band[y - at, x] / float(np.iinfo(band.dtype).max)
        at += len(band)
    return ColorList(tuple(names), _CHANNELS[artwork.channels], values)
