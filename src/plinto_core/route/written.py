"""Routes written as ICC profiles, device links and abstract ones (ICC.1:2022), and how near these come to the route."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.errors import PipelineError
from plinto_core.icc import cmm
from plinto_core.icc.profile import Header, Profile, write
from plinto_core.icc.values import (
    Colorants,
    Curve,
    CurveLut,
    Description,
    ParametricCurve,
    ProfileSequence,
    ProfileStep,
    TableLut,
    TagValue,
    Xyz,
)
from plinto_core.inks.names import name_of
from plinto_core.pipeline.space import space_of, told_inks
from plinto_core.route.color_list import ColorList
from plinto_core.route.route import Waypoint, travel

Array = NDArray[np.float64]

_STRAIGHT = ParametricCurve(0, (1.0,))
_D50 = Xyz(np.array([[0.9642, 1.0, 0.8249]]))
#: Points a channel by how many channels come in, and the most values of a table.
_POINTS, _MOST_VALUES = {1: 255, 2: 65, 3: 33, 4: 17, 5: 9, 6: 7, 7: 5, 8: 5}, 40_000_000
_MEASURED = 4000
#: Points a side of a look in 'mft1', so that the neutral axis falls on a node (26 / 51 is 130 / 255), and how far from
#: the middle such a node may be.
_EIGHT_BIT_LOOK, _FROM_MIDDLE = 52, 3
_LAB = ("L*", "a*", "b*")


@dataclass(frozen=True)
class TableForm:
    """How a route's table is written: ICC version 2 or 4, 8 or 16 bits a value, `points` a channel (0: as fits)."""

    version: Literal[2, 4] = 4
    bits: Literal[8, 16] = 16
    points: int = 0

    @property
    def header_version(self) -> tuple[int, int]:
        """As a profile's header has it."""
        return (2, 4) if self.version == 2 else (4, 4)

    def table(self, grid: Array, inputs: Array | None = None) -> TagValue:
        """A table of values 0…1 (points, …, channels out): 'mft1', 'mft2' or 'mAB '.

        Behind `inputs` (channels in, entries), where given; else its nodes stand evenly.
        """
        inside, outside = grid.ndim - 1, grid.shape[-1]
        if self.version == 4:
            curves = (_STRAIGHT,) * inside if inputs is None else tuple(Curve(each) for each in inputs)
            return CurveLut(
                to_pcs=True, b_curves=(_STRAIGHT,) * outside, a_curves=curves, grid=grid,
                grid_bytes=1 if self.bits == 8 else 2,
            )  # fmt: skip
        # The tables of 'mft1' have 256 entries each; those of 'mft2' may have two (ICC.1:2022, 10.10 and 10.11).
        straight = np.linspace(0, 1, 256 if self.bits == 8 else 2)
        if inputs is None:
            inputs = np.tile(straight, (inside, 1))
        return TableLut(self.bits, np.eye(3), inputs, grid, np.tile(straight, (outside, 1)))

    @property
    def _lab_reach(self) -> Array:
        """What the largest code of L*, a* and b* stands for, above 0, -128 and -128: 16-bit tables of version 2 have an
        encoding of their own (ICC.1:2022, 6.3.4.2)."""
        legacy = self.version == 2 and self.bits == 16
        return np.array([100 * 65535 / 65280, 65535 / 256, 65535 / 256] if legacy else [100.0, 255, 255])

    def coded_lab(self, lab: Array) -> Array:
        """Lab (..., 3) as a table's values 0…1."""
        return np.asarray(np.clip((lab + np.array([0, 128, 128])) / self._lab_reach, 0, 1))

    def lab_axes(self, points: int) -> tuple[list[Array], Array]:
        """Where nodes stand along L*, a* and b*, and the input curves (3, entries) that put them there.

        White and the neutral axis fall on nodes: between two of them, white would take on what lies beside it.
        """
        near = [at for at in range(points) if abs(at - (points - 1) / 2) <= _FROM_MIDDLE] or [0]
        # Input tables of 'mft1' are eight bits themselves: the node is taken whose place they can name.
        fine = 255 if self.version == 2 and self.bits == 8 else 1 << 20
        place = min(
            (at / (points - 1) for at in near),
            key=lambda each: (round(abs(each * fine - round(each * fine)), 6), abs(each - 0.5)),
        )
        entries = 256 if self.bits == 8 else 4096
        codes = np.linspace(0, 1, entries)[:, None] * self._lab_reach + np.array([0, -128, -128])
        top = self._lab_reach[1] - 128
        opponent = np.interp(codes[:, 1], [-128, 0, top], [0, place, 1])
        curves = np.stack([np.minimum(codes[:, 0] / 100, 1), opponent, opponent])
        places = np.linspace(0, 1, points)
        along = np.interp(places, [0, place, 1], [-128, 0, top])
        return [places * 100, along, along], curves

    def rounded(self, values: Array) -> Array:
        """Values as the table holds them, never above what they were."""
        top = (1 << self.bits) - 1
        return np.asarray(np.floor(values * top + 1e-6) / top)


@dataclass(frozen=True)
class WrittenRoute:
    """The profile, and ΔE00 between it, read by LittleCMS, and the route itself over evenly spread random colors."""

    profile: Profile
    points: int
    mean: float
    p99: float
    largest: float


def route_link(waypoints: tuple[Waypoint, ...], name: str = "", form: TableForm = TableForm()) -> WrittenRoute:
    """A device link from the first profile's device values to the last one's.

    Where the last step is a condition's own separation, the table holds its limits in other software too.

    Raises `PipelineError` for a route that does not begin and end at devices, and `IccError`.
    """
    first, last = waypoints[0].profile, waypoints[-1].profile
    if len(waypoints) < 2 or any(each.header.profile_class in ("abst", "link") for each in (first, last)):
        raise PipelineError(
            "A device link goes from one device to another: begin and end the route with their profiles."
        )
    channels, inks = space_of(first).channels, space_of(last).channels
    side = form.points or _POINTS[len(channels)]
    if side < 2 or side ** len(channels) * len(inks) > _MOST_VALUES:
        raise PipelineError(f"{side} points for {len(channels)} channels are none that a link can have.")
    axes = np.meshgrid(*[np.linspace(0, 1, side)] * len(channels), indexing="ij")
    nodes = _ends(np.stack(axes, axis=-1).reshape(-1, len(channels)), channels, waypoints)
    if (own := waypoints[-1].own) is not None:
        nodes = form.rounded(own.held(nodes))
    table = form.table(np.clip(nodes, 0, 1).reshape(*[side] * len(channels), len(inks)))
    tags: dict[str, TagValue] = {}
    # Inks that the data color space does not name have a table of their own on either side (ICC.1:2022, 8.6).
    for tag, each in (("clrt", first), ("clot", last)):
        if each.header.space.endswith("CLR"):
            tags[tag] = _colorants(each)
    steps = tuple(
        ProfileStep(bytes(4), bytes(4), 0, bytes(4), Description({}), Description({"enUS": each.profile.name}))
        for each in waypoints
    )
    made = write(
        Profile(
            Header("link", first.header.space, last.header.space, form.header_version),
            {
                "desc": Description({"enUS": name or f"{first.name} to {last.name}"}),
                "cprt": Description({"enUS": "Made by Plinto."}), "A2B0": table, "pseq": ProfileSequence(steps), **tags,
            },
        )
    )  # fmt: skip
    values = np.random.default_rng(0).random((_MEASURED, len(channels)))
    exact, read = _ends(values, channels, waypoints), cmm.by_link(made, values)
    return _measured(made, side, cmm.to_lab(last, exact), cmm.to_lab(last, np.clip(read, 0, 1)))


def route_look(waypoints: tuple[Waypoint, ...], name: str = "", form: TableForm = TableForm()) -> WrittenRoute:
    """An abstract profile: what a route makes of Lab, as Lab; so the look of any press for software with three channels.

    Raises `PipelineError`, `IccError`.
    """
    side = form.points or (_EIGHT_BIT_LOOK if (form.version, form.bits) == (2, 8) else _POINTS[3])
    if not 2 <= side <= 100:
        raise PipelineError(f"{side} points a side are none that an abstract profile can have.")
    axes, curves = form.lab_axes(side)
    nodes = _looks(np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1).reshape(-1, 3), waypoints)
    table = form.table(form.coded_lab(nodes).reshape(side, side, side, 3), curves)
    made = write(
        Profile(
            Header("abst", "Lab ", "Lab ", form.header_version),
            {
                "desc": Description({"enUS": name or f"Look of {waypoints[-1].profile.name}"}),
                "cprt": Description({"enUS": "Made by Plinto."}), "wtpt": _D50, "A2B0": table,
            },
        )
    )  # fmt: skip
    lab = np.random.default_rng(0).uniform([5, -50, -50], [95, 50, 50], (_MEASURED, 3))
    return _measured(made, side, _looks(lab, waypoints), cmm.by_abstract(made, lab))


def _colorants(profile: Profile) -> Colorants:
    letters, names = told_inks(profile.header.space, profile.tags.get("clrt"))
    solids = TableForm().coded_lab(cmm.to_lab(profile, np.eye(len(letters)))) * 65535
    return Colorants(names if all(names) else tuple(name_of(letter) for letter in letters), solids)


def _ends(values: Array, channels: tuple[str, ...], waypoints: tuple[Waypoint, ...]) -> Array:
    return np.concatenate(
        [travel(ColorList(("",) * len(part), channels, part), waypoints)[-1].values for part in _parts(values)]
    )


def _looks(lab: Array, waypoints: tuple[Waypoint, ...]) -> Array:
    return np.concatenate(
        [travel(ColorList(("",) * len(part), _LAB, part), waypoints)[-1].lab for part in _parts(lab)]
    )


def _parts(values: Array) -> list[Array]:
    """As many colors at a time as a list holds."""
    return np.array_split(values, max(1, -(-len(values) // 50_000)))


def _measured(profile: Profile, points: int, exact: Array, read: Array) -> WrittenRoute:
    off = delta_e_2000(exact, read)
    return WrittenRoute(profile, points, float(off.mean()), float(np.percentile(off, 99)), float(off.max()))
