"""A chain baked on a grid: what pictures go through."""

import hashlib
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.chain.link_kernels import any_inks, four_inks, mark_nodes, values_at
from plinto_core.icc.profile import Header, Profile, write
from plinto_core.icc.values import CurveLut, Description, ParametricCurve, ProfileSequence, ProfileStep

Array = NDArray[np.float64]
Codes = NDArray[np.unsignedinteger[Any]]

#: Lane value of one output code, and the multiplier and shift that divide by it exactly (lanes are < 2**31).
_UNIT = {
    8: np.array([257 << 15, -(-(1 << 54) // (257 << 15)), 54], np.uint64),
    16: np.array([1 << 15, 1, 15], np.uint64),
}
_IDENTITY = ParametricCurve(0, (1.0,))


def rgb_grid(points: int) -> Array:
    """Grid positions (points**3, 3) over RGB 0…1, red slowest."""
    axis = np.linspace(0, 1, points)
    return np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), axis=-1).reshape(-1, 3)


def _cells_per_code(kind: np.dtype[Any], points: int) -> int:
    """15-bit cells of the grid for one input code of `kind`, times 2**32, rounded up: the top code ends on top."""
    top = int(np.iinfo(kind).max)
    return -(-((points - 1) << 47) // top)


@dataclass(frozen=True)
class Link:
    """RGB to inks. `nodes` (points**3, inks) uint16, none above `caps` (inks,) nor their sum above `total`.

    `caps` and `total` are fractions; they hold for every pixel that comes out, in 8 and in 16 bit.
    `digest` names the chain and the recipe that it was baked from.
    """

    inks: tuple[str, ...]
    points: int
    nodes: NDArray[np.uint16]
    caps: Array
    total: float
    digest: str

    @cached_property
    def _words(self) -> NDArray[np.uint64]:
        count, inks = self.nodes.shape
        lanes = np.zeros((count, (inks + 1) // 2 * 2), np.uint64)
        lanes[:, :inks] = self.nodes
        return np.ascontiguousarray(lanes[:, 0::2] | (lanes[:, 1::2] << np.uint64(32)))

    def inks_of(self, rgb: Codes, depth: int = 8) -> Codes:
        """Picture codes (..., 3) of 8 or 16 bit to ink codes (..., inks) of `depth` bits."""
        kind = np.uint8 if depth == 8 else np.uint16
        top = np.iinfo(kind).max
        out: Codes = np.empty((*rgb.shape[:-1], len(self.inks)), kind)
        rows = out.reshape(-1, len(self.inks))
        four = len(self.inks) == 4
        kernel = four_inks if four else any_inks
        kernel(
            np.ascontiguousarray(rgb).reshape(-1, 3),
            _cells_per_code(rgb.dtype, self.points),
            self.points,
            self._words,
            # A hair above the product, so that a limit of exactly 230 % is not lost to its last digit.
            np.floor(self.caps * top + 1e-6).astype(np.uint64),
            np.uint64(np.floor(self.total * top + 1e-6)),
            _UNIT[depth],
            # Four codes are one little-endian word: one store instead of four.
            rows.view("<u4" if depth == 8 else "<u8")[:, 0] if four else rows,
        )
        return out

    def values(self, rgb: ArrayLike) -> Array:
        """RGB 0…1 (..., 3) to ink values 0…1 (..., inks) as a 16-bit file would hold them."""
        codes = np.rint(np.clip(np.asarray(rgb, np.float64), 0, 1) * 65535).astype(np.uint16)
        return self.inks_of(codes, 16) / 65535.0

    def to_profile(self, name: str, source: Profile, target: Profile) -> Profile:
        """The link as an ICC device link (version 4, a 16-bit grid)."""
        channels = len(self.inks)
        table = CurveLut(
            to_pcs=True,
            b_curves=(_IDENTITY,) * channels,
            grid=self.nodes.reshape(self.points, self.points, self.points, channels) / 65535.0,
            a_curves=(_IDENTITY,) * 3,
        )
        steps = tuple(
            ProfileStep(bytes(4), bytes(4), 0, bytes(4), Description({}), Description({"enUS": p.name}))
            for p in (source, target)
        )
        return write(
            Profile(
                Header("link", "RGB ", target.header.space),
                {
                    "desc": Description({"enUS": name}),
                    "cprt": Description({"enUS": "Made by Plinto."}),
                    "A2B0": table,
                    "pseq": ProfileSequence(steps),
                },
            )
        )


@dataclass(frozen=True)
class ValueGrid:
    """RGB to any floating-point values on a grid, for what pictures are measured by (Lab, ΔE)."""

    points: int
    nodes: NDArray[np.float32]

    def at(self, rgb: Codes) -> NDArray[np.float32]:
        """Picture codes (..., 3) to values (..., m) float32."""
        out = np.empty((*rgb.shape[:-1], self.nodes.shape[1]), np.float32)
        flat = np.ascontiguousarray(rgb).reshape(-1, 3)
        values_at(
            flat, _cells_per_code(rgb.dtype, self.points), self.points, self.nodes,
            out.reshape(-1, self.nodes.shape[1]),
        )  # fmt: skip
        return out


def nodes_used(rgb: Codes, points: int) -> NDArray[np.bool_]:
    """Which nodes (points**3,) a grid's interpolation of picture codes (..., 3) needs."""
    used = np.zeros(points**3, np.bool_)
    flat = np.ascontiguousarray(rgb).reshape(-1, 3)
    mark_nodes(flat, _cells_per_code(rgb.dtype, points), points, used)
    return used


def bake_nodes(inks_of: Callable[[Array], Array], rgb: Array, caps: Array, total: float) -> NDArray[np.uint16]:
    """Evaluate `inks_of` (RGB 0…1 to inks 0…1) at nodes (n, 3), and make sure that each node holds the limits.

    Every node is evaluated for itself: which others are asked for along with it changes nothing.
    """
    values = np.minimum(np.clip(inks_of(rgb), 0, 1), caps)
    values *= np.minimum(1, total / np.maximum(values.sum(axis=1, keepdims=True), 1e-12))
    # Rounded down, so that sixteen-bit nodes hold the limits too.
    return np.floor(values * 65535 + 1e-6).astype(np.uint16)


def bake(
    inks_of: Callable[[Array], Array], inks: tuple[str, ...], caps: Array, total: float, digest: str, points: int
) -> Link:
    """Evaluate `inks_of` on the whole grid."""
    nodes = bake_nodes(inks_of, rgb_grid(points), caps, total)
    content = hashlib.sha256(digest.encode() + nodes.tobytes()).hexdigest()
    return Link(inks, points, nodes, caps, total, content)
