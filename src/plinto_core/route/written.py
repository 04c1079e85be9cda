"""Routes written as ICC profiles, device links and abstract ones (ICC.1:2022), and how near these come to the route."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.errors import PipelineError
from plinto_core.icc import cmm
from plinto_core.icc.profile import Header, Profile, write
from plinto_core.icc.values import CurveLut, Description, ParametricCurve, ProfileSequence, ProfileStep, Xyz
from plinto_core.pipeline.space import space_of
from plinto_core.route.color_list import ColorList
from plinto_core.route.route import Waypoint, travel

Array = NDArray[np.float64]

_STRAIGHT = ParametricCurve(0, (1.0,))
_D50 = Xyz(np.array([[0.9642, 1.0, 0.8249]]))
#: Points a channel by how many channels come in, and the most values of a table.
_POINTS, _MOST_VALUES = {1: 255, 2: 65, 3: 33, 4: 17, 5: 9, 6: 7, 7: 5, 8: 5}, 40_000_000
_MEASURED = 4000
_LAB = ("L*", "a*", "b*")


@dataclass(frozen=True)
class WrittenRoute:
    """The profile, and ΔE00 between it, read by LittleCMS, and the route itself over evenly spread random colors."""

    profile: Profile
    points: int
    mean: float
    p99: float
    largest: float


def route_link(waypoints: tuple[Waypoint, ...], name: str = "", points: int = 0) -> WrittenRoute:
    """A device link (version 4, 16 bit) from the first profile's device values to the last one's.

    Raises `PipelineError` for a route that does not begin and end at devices, and `IccError`.
    """
    first, last = waypoints[0].profile, waypoints[-1].profile
    if len(waypoints) < 2 or any(each.header.profile_class in ("abst", "link") for each in (first, last)):
        raise PipelineError(
            "A device link goes from one device to another: begin and end the route with their profiles."
        )
    channels, inks = space_of(first).channels, space_of(last).channels
    side = points or _POINTS[len(channels)]
    if side < 2 or side ** len(channels) * len(inks) > _MOST_VALUES:
        raise PipelineError(f"{side} points for {len(channels)} channels are none that a link can have.")
    axes = np.meshgrid(*[np.linspace(0, 1, side)] * len(channels), indexing="ij")
    nodes = _ends(np.stack(axes, axis=-1).reshape(-1, len(channels)), channels, waypoints)
    if (own := waypoints[-1].own) is not None:
        nodes = own.held(nodes)
    table = CurveLut(
        to_pcs=True, b_curves=(_STRAIGHT,) * len(inks), a_curves=(_STRAIGHT,) * len(channels),
        grid=np.clip(nodes, 0, 1).reshape(*[side] * len(channels), len(inks)),
    )  # fmt: skip
    steps = tuple(
        ProfileStep(bytes(4), bytes(4), 0, bytes(4), Description({}), Description({"enUS": each.profile.name}))
        for each in waypoints
    )
    made = write(
        Profile(
            Header("link", first.header.space, last.header.space),
            {
                "desc": Description({"enUS": name or f"{first.name} to {last.name}"}),
                "cprt": Description({"enUS": "Made by Plinto."}), "A2B0": table, "pseq": ProfileSequence(steps),
            },
        )
    )  # fmt: skip
    values = np.random.default_rng(0).random((_MEASURED, len(channels)))
    exact, read = _ends(values, channels, waypoints), cmm.by_link(made, values)
    return _measured(made, side, cmm.to_lab(last, exact), cmm.to_lab(last, np.clip(read, 0, 1)))


def route_look(waypoints: tuple[Waypoint, ...], name: str = "", points: int = 0) -> WrittenRoute:
    """An abstract profile: what a route makes of Lab, as Lab; so the look of any press for software with three channels.

    Raises `PipelineError`, `IccError`.
    """
    side = points or _POINTS[3]
    if not 2 <= side <= 100:
        raise PipelineError(f"{side} points a side are none that an abstract profile can have.")
    axes = np.meshgrid(*[np.linspace(0, 1, side)] * 3, indexing="ij")
    nodes = _looks(_lab(np.stack(axes, axis=-1).reshape(-1, 3)), waypoints)
    table = CurveLut(
        to_pcs=True, b_curves=(_STRAIGHT,) * 3, a_curves=(_STRAIGHT,) * 3,
        grid=np.clip((nodes + np.array([0, 128, 128])) / [100, 255, 255], 0, 1).reshape(side, side, side, 3),
    )  # fmt: skip
    made = write(
        Profile(
            Header("abst", "Lab ", "Lab "),
            {
                "desc": Description({"enUS": name or f"Look of {waypoints[-1].profile.name}"}),
                "cprt": Description({"enUS": "Made by Plinto."}), "wtpt": _D50, "A2B0": table,
            },
        )
    )  # fmt: skip
    lab = np.random.default_rng(0).uniform([5, -50, -50], [95, 50, 50], (_MEASURED, 3))
    return _measured(made, side, _looks(lab, waypoints), cmm.by_abstract(made, lab))


def _lab(scaled: Array) -> Array:
    return np.asarray(scaled * [100, 255, 255] - np.array([0, 128, 128]))


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
