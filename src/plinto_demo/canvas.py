"""A small painter: shapes as soft masks on a float canvas in linear light, row block by row block."""

from types import EllipsisType
from typing import Any

import numpy as np
from numpy.typing import NDArray

Field = NDArray[np.floating[Any]]


class Canvas:
    """`rgb` (height, width, 3) float32 in linear light of the working space; x and y run 0…width/height, 0…1."""

    def __init__(self, width: int, height: int) -> None:
        self.width, self.height = width, height
        y, x = np.mgrid[0:height, 0:width].astype(np.float32)
        self.x: Field = (x + 0.5) / height
        self.y: Field = (y + 0.5) / height
        self.rgb: Field = np.zeros((height, width, 3), np.float32)
        self.pixel = 1.0 / height

    def around(self, cx: float, cy: float, reach: float) -> tuple[slice, slice]:
        """The part of the canvas within `reach` of a point: what lies outside need not be painted."""
        rows = slice(max(int((cy - reach) * self.height), 0), max(int((cy + reach) * self.height) + 1, 0))
        columns = slice(max(int((cx - reach) * self.height), 0), max(int((cx + reach) * self.height) + 1, 0))
        return rows, columns

    def lay(
        self, part: tuple[slice, slice], mask: Field, color: Field | tuple[float, float, float],
        painted: NDArray[np.bool_] | EllipsisType = ...,
    ) -> None:  # fmt: skip
        """Cover the part with a color, as far as the mask 0…1 says; `color` may be that of the `painted` pixels only."""
        target, mask, given = self.rgb[part], mask[painted], np.asarray(color, np.float32)
        # Channel by channel: a loop over three at a time takes several times as long as three over all.
        for channel in range(3):
            plane = target[..., channel]
            plane[painted] += mask * (given[..., channel] - plane[painted])

    def glow(
        self, cx: float, cy: float, radius: float, color: tuple[float, float, float], power: float = 2.0
    ) -> None:
        """Add light that falls off around a point."""
        part = self.around(cx, cy, radius * 4)
        distance = np.hypot(self.x[part] - cx, self.y[part] - cy) / radius
        light = np.exp(-(distance**power))
        for channel in range(3):
            self.rgb[part][..., channel] += light * np.float32(color[channel])


def edge(distance: Field, softness: float) -> Field:
    """Mask from a signed distance (negative inside), antialiased over `softness`."""
    return np.asarray(np.clip(0.5 - distance / softness, 0, 1), np.float32)


def mix(a: tuple[float, float, float], b: tuple[float, float, float], t: Field) -> Field:
    """Colors between a and b, (..., 3)."""
    t = np.clip(t, 0, 1)
    mixed = np.empty((*t.shape, 3), np.float32)
    for channel in range(3):
        mixed[..., channel] = np.float32(a[channel]) * (1 - t) + np.float32(b[channel]) * t
    return mixed


def cloud(shape: tuple[int, int], cells: int, seed: int) -> Field:
    """Smooth noise 0…1 over `shape`, `cells` bumps across, three octaves."""
    from scipy.ndimage import zoom

    random = np.random.default_rng(seed)
    total = np.zeros(shape, np.float32)
    for octave in range(3):
        count = cells * 2**octave
        rough = random.random((count + 3, count + 3)).astype(np.float32)
        # A spline over a grid is one along its rows and one along its columns: both at once took most of the painting.
        down, along = (zoom(np.eye(count + 3), (side / (count + 3) + 0.01, 1), order=3)[:side] for side in shape)
        total += (down @ rough @ along.T).astype(np.float32) / 2**octave
    low, high = np.percentile(total, (1, 99))
    return np.asarray(np.clip((total - low) / (high - low), 0, 1), np.float32)


def flower(
    canvas: Canvas, cx: float, cy: float, radius: float, petals: int, turn: float,
    inner: tuple[float, float, float], outer: tuple[float, float, float], heart: tuple[float, float, float],
    pointed: float = 0.35,
) -> None:  # fmt: skip
    """A flower of `petals` with veins, shading between the petals, and a heart of stamens."""
    part = canvas.around(cx, cy, radius * 1.15)
    dx, dy = canvas.x[part] - cx, canvas.y[part] - cy
    r, angle = np.hypot(dx, dy), np.arctan2(dy, dx) + turn
    for layer, size, offset in ((0, 1.0, 0.0), (1, 0.72, np.pi / petals)):
        sector = (angle + offset) * petals / (2 * np.pi)
        across = (sector - np.round(sector)) * 2
        outline = radius * size * (1 - pointed * np.abs(across) ** 1.7 - 0.5 * np.abs(across) ** 7)
        mask = edge(r - outline, 2 * canvas.pixel)
        along = r / (radius * size)
        vein = 0.5 + 0.5 * np.cos(across * 34 + 3 * np.sin(along * 5))
        shade = (1 - 0.55 * np.abs(across) ** 2.2) * (0.62 + 0.38 * np.sqrt(np.clip(along, 0, 1)))
        color = mix(inner, outer, along**1.1 + 0.08 * vein) * (shade * (0.86 + 0.14 * vein))[..., None]
        if layer == 1:
            shadow = edge(r - outline - radius * 0.05, radius * 0.12) * 0.45
            canvas.lay(part, shadow, tuple(0.15 * c for c in inner))  # type: ignore[arg-type]
        canvas.lay(part, mask, color)
    stamens = 0.5 + 0.5 * np.cos(angle * petals * 3 + r / radius * 9)
    heart_mask = edge(r - radius * (0.17 + 0.07 * stamens), 3 * canvas.pixel)
    canvas.lay(part, heart_mask, mix(heart, (0.9, 0.8, 0.3), stamens) * (0.5 + 0.5 * stamens)[..., None])


def leaf(
    canvas: Canvas, x0: float, y0: float, x1: float, y1: float, width: float,
    dark: tuple[float, float, float], light: tuple[float, float, float],
) -> None:  # fmt: skip
    """A leaf from (x0, y0) to its tip (x1, y1), with a midrib and side veins."""
    length = float(np.hypot(x1 - x0, y1 - y0))
    part = canvas.around((x0 + x1) / 2, (y0 + y1) / 2, length * 0.6 + width)
    ux, uy = (x1 - x0) / length, (y1 - y0) / length
    dx, dy = canvas.x[part] - x0, canvas.y[part] - y0
    along = (dx * ux + dy * uy) / length
    across = (dy * ux - dx * uy) / width + 0.18 * np.sin(along * 3)
    half = np.sqrt(np.clip(along, 0, 1)) * np.clip(1 - along, 0, 1) ** 0.8 * 1.7
    inside = edge((np.abs(across) - half) * width, 2.5 * canvas.pixel) * ((along > 0) & (along < 1))
    # Most of the square around a leaf is not leaf.
    painted = inside > 0
    along, across = along[painted], across[painted]
    veins = 0.5 + 0.5 * np.cos((along * 26 - np.abs(across) * 5) * 2)
    light_side = 0.55 + 0.45 * (across > 0)
    color = mix(dark, light, light_side * (0.55 + 0.35 * along) + 0.12 * veins)
    rib = edge(np.abs(across) - 0.05, 0.05)
    color = color + rib[..., None] * np.asarray(light, np.float32) * 0.5
    canvas.lay(part, np.asarray(inside, np.float32), color, painted)
