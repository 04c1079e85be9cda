"""A chain baked on a grid: what pictures go through."""

import hashlib
import weakref
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.chain.spread import EVEN, Spread, places_by_code
from plinto_core.computed_once import computed_once
from plinto_core.icc.profile import Header, Profile, write
from plinto_core.icc.values import (
    AnyCurve,
    Curve,
    CurveLut,
    Description,
    ParametricCurve,
    ProfileSequence,
    ProfileStep,
)
from plinto_core.inks.drive import driven_by_rgb, turned
from plinto_core.ready_kernels import ReadyKernel

Array = NDArray[np.float64]
Codes = NDArray[np.unsignedinteger[Any]]

_FROM_THREE, _FROM_FOUR = "plinto_core.chain.link_kernels", "plinto_core.chain.link4_kernels"
_four_inks, _any_inks = ReadyKernel(_FROM_THREE, "four_inks"), ReadyKernel(_FROM_THREE, "any_inks")
_inks_from_four = ReadyKernel(_FROM_FOUR, "inks_from_four")
_VALUES = {3: ReadyKernel(_FROM_THREE, "values_at"), 4: ReadyKernel(_FROM_FOUR, "values_from_four")}
_MARKS = {3: ReadyKernel(_FROM_THREE, "mark_nodes"), 4: ReadyKernel(_FROM_FOUR, "mark_nodes_of_four")}
_IDENTITY = ParametricCurve(0, (1.0,))


def device_grid(points: int, channels: int = 3) -> Array:
    """Grid positions (points**channels, channels) evenly over device values 0…1, the first channel slowest."""
    return EVEN.grid(points, channels)


def _in_lanes(nodes: NDArray[np.uint16]) -> NDArray[np.int16]:
    """Nodes (n, inks) as the kernel reads them: less 2**15, four or eight lanes (n, 4 or 8)."""
    count, inks = nodes.shape
    lanes = np.zeros((count, (inks + 3) // 4 * 4), np.uint16)
    lanes[:, :inks] = nodes
    return (lanes ^ np.uint16(1 << 15)).view(np.int16)


def _in_a_word(caps: NDArray[np.uint64]) -> int:
    """Up to four largest codes, 16 bits each, first ink lowest, as a whole number with a sign."""
    word = sum(int(cap) << 16 * at for at, cap in enumerate(caps))
    return word - (1 << 64) if word >> 63 else word


@dataclass(frozen=True)
class Link:
    """Device values of `channels` (3: RGB, 4: CMYK) to inks.

    `nodes` (points**channels, inks) uint16, none above `caps` (inks,) nor their sum above `total`.

    `caps` and `total` are fractions; they hold for every pixel that comes out, in 8 and in 16 bit.
    `digest` names the chain and the recipe that it was baked from. `spread` says where the nodes stand along each channel.
    """

    inks: tuple[str, ...]
    points: int
    nodes: NDArray[np.uint16]
    caps: Array
    total: float
    digest: str
    channels: int = 3
    spread: Spread = EVEN

    @computed_once
    def _lanes(self) -> NDArray[np.int16]:
        return _in_lanes(self.nodes)

    @property
    def _input_curve(self) -> AnyCurve:
        """Device values to places along the nodes, as a link's first curves have it (ICC.1:2022, 10.6)."""
        if self.spread == EVEN:
            return _IDENTITY
        return Curve(self.spread.along(np.linspace(0, 1, 4096)))

    def with_nodes(self, nodes: NDArray[np.uint16], changed: NDArray[np.intp]) -> "Link":
        """The link with other nodes (points**channels, inks) at `changed`; what was packed of the rest is kept."""
        made = replace(self, nodes=nodes)
        if "_lanes" in self.__dict__:
            lanes = self._lanes.copy()
            lanes[changed] = _in_lanes(nodes[changed])
            made.__dict__["_lanes"] = lanes
        return made

    def inks_of(self, pixels: Codes, depth: int = 8) -> Codes:
        """Picture codes (..., channels) of 8 or 16 bit to ink codes (..., inks) of `depth` bits."""
        kind = np.uint8 if depth == 8 else np.uint16
        top, inks = np.iinfo(kind).max, len(self.inks)
        out: Codes = np.empty((*pixels.shape[:-1], inks), kind)
        rows = out.reshape(-1, inks)
        # A hair above the product, so that a limit of exactly 230 % is not lost to its last digit.
        caps = np.floor(self.caps * top + 1e-6).astype(np.uint64)
        total = int(np.floor(self.total * top + 1e-6))
        flat = np.ascontiguousarray(pixels).reshape(-1, self.channels)
        given = flat, places_by_code(pixels.dtype, self.points, self.spread), self.points, self._lanes
        if self.channels == 3 and inks == 4:
            # Four codes are one little-endian word: one store instead of four.
            packed = rows.view("<u4" if depth == 8 else "<u8")[:, 0]
            _four_inks(len(flat), *given, _in_a_word(caps), total, packed)
            return out
        kernel = _inks_from_four if self.channels == 4 else _any_inks
        kernel(len(flat), *given, _in_a_word(caps[:4]), _in_a_word(caps[4:]), total, inks, rows)
        return out

    def values(self, device: ArrayLike) -> Array:
        """Device values 0…1 (..., channels) to ink values 0…1 (..., inks) as a 16-bit file would hold them."""
        codes = np.rint(np.clip(np.asarray(device, np.float64), 0, 1) * 65535).astype(np.uint16)
        return self.inks_of(codes, 16) / 65535.0

    def to_profile(self, name: str, source: Profile, target: Profile) -> Profile:
        """The link as an ICC device link (version 4, a 16-bit grid).

        Its nodes leave the room that other software needs: see `held_for_others`.
        """
        nodes = self.nodes / 65535.0
        nodes = turned(nodes) if driven_by_rgb(self.inks) else held_for_others(nodes, self.caps, self.total)
        table = CurveLut(
            to_pcs=True,
            b_curves=(_IDENTITY,) * len(self.inks),
            grid=nodes.reshape(*[self.points] * self.channels, len(self.inks)),
            a_curves=(self._input_curve,) * self.channels,
        )
        steps = tuple(
            ProfileStep(bytes(4), bytes(4), 0, bytes(4), Description({}), Description({"enUS": p.name}))
            for p in (source, target)
        )
        return write(
            Profile(
                Header("link", source.header.space, target.header.space),
                {
                    "desc": Description({"enUS": name}),
                    "cprt": Description({"enUS": "Made by Plinto."}),
                    "A2B0": table,
                    "pseq": ProfileSequence(steps),
                },
            )
        )


def held_for_others(values: Array, caps: Array, total: float) -> Array:
    """Ink values (n, inks) with room below the limits for software that rounds each of its 8-bit inks by itself: half a
    code an ink off the total, single limits on whole codes."""
    room = total - 0.5 * len(caps) / 255
    values = np.minimum(values, np.floor(caps * 255 + 1e-6) / 255)
    return np.asarray(values * np.minimum(1, room / np.maximum(values.sum(axis=1, keepdims=True), 1e-12)))


@dataclass(frozen=True)
class ValueGrid:
    """Device values to any floating-point values on a grid, for what pictures are measured by (Lab, ΔE)."""

    points: int
    nodes: NDArray[np.float32]
    channels: int = 3

    def at(self, pixels: Codes) -> NDArray[np.float32]:
        """Picture codes (..., channels) to values (..., m) float32."""
        values = self.nodes.shape[1]
        out = np.empty((*pixels.shape[:-1], values), np.float32)
        flat = np.ascontiguousarray(pixels).reshape(-1, self.channels)
        places = places_by_code(pixels.dtype, self.points, EVEN)
        nodes = np.ascontiguousarray(self.nodes)
        _VALUES[self.channels](len(flat), flat, places, self.points, nodes, values, out.reshape(-1, values))
        return out


#: Of the last pictures that nobody can change any more: who they are, on which grid, and which nodes they need.
_USED: list[tuple[Any, tuple[int, Spread], NDArray[np.bool_]]] = []
_REMEMBERED = 4


def nodes_used(pixels: Codes, points: int, spread: Spread = EVEN) -> NDArray[np.bool_]:
    """Which nodes (points**channels,) a grid's interpolation of picture codes (..., channels) needs.

    While a control moves, the same picture is asked for again and again: of a read-only one the answer is kept.
    """
    grid = points, spread
    if pixels.flags.writeable or pixels.base is not None:
        return _marked(pixels, *grid)
    for seen, on, used in list(_USED):
        if seen() is pixels and on == grid:
            return used
    used = _marked(pixels, *grid)
    _USED.insert(0, (weakref.ref(pixels), grid, used))
    del _USED[_REMEMBERED:]
    return used


def _marked(pixels: Codes, points: int, spread: Spread) -> NDArray[np.bool_]:
    channels = pixels.shape[-1]
    used = np.zeros(points**channels, np.uint8)
    flat = np.ascontiguousarray(pixels).reshape(-1, channels)
    _MARKS[channels](len(flat), flat, places_by_code(pixels.dtype, points, spread), points, used)
    return used.view(np.bool_)


def bake_nodes(inks_of: Callable[[Array], Array], device: Array, caps: Array, total: float) -> NDArray[np.uint16]:
    """Evaluate `inks_of` (device values 0…1 to inks 0…1) at nodes (n, channels); each node holds the limits.

    Every node is evaluated for itself: which others are asked for along with it changes nothing.
    """
    values = np.minimum(np.clip(inks_of(device), 0, 1), caps)
    values *= np.minimum(1, total / np.maximum(values.sum(axis=1, keepdims=True), 1e-12))
    # Rounded down, so that sixteen-bit nodes hold the limits too.
    return np.floor(values * 65535 + 1e-6).astype(np.uint16)


def bake(
    inks_of: Callable[[Array], Array], inks: tuple[str, ...], caps: Array, total: float, digest: str, points: int,
    channels: int = 3, spread: Spread = EVEN,
) -> Link:  # fmt: skip
    """Evaluate `inks_of` on the whole grid."""
    nodes = bake_nodes(inks_of, spread.grid(points, channels), caps, total)
    return Link(inks, points, nodes, caps, total, digest_of(nodes, digest), channels, spread)


def digest_of(nodes: NDArray[np.uint16], line: str) -> str:
    """SHA-256, hexadecimal, of a link's nodes and of the digest of the line that they were baked from."""
    return hashlib.sha256(line.encode() + nodes.tobytes()).hexdigest()
