"""A route: colors through profile after profile, with their values and their Lab after every step."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from itertools import combinations
from typing import Any, get_args

import numpy as np
from numpy.typing import NDArray

from plinto_core.adjust.adjustment import Adjust
from plinto_core.colorimetry.difference import delta_e_76, delta_e_2000
from plinto_core.errors import PipelineError
from plinto_core.icc import cmm
from plinto_core.icc.profile import Profile
from plinto_core.pipeline.space import space_behind, space_of
from plinto_core.recipe import Intent
from plinto_core.recipe.adjustment import Adjustment
from plinto_core.route.color_list import ColorList
from plinto_core.route.separated import OwnSeparation
from plinto_core.route.spectral import under_light
from plinto_core.route.station import Station

Array = NDArray[np.float64]
#: ΔE00 over a step from which on a color is told as out of gamut there.
OUT = 2.0


@dataclass(frozen=True)
class Waypoint:
    """A profile on the way, with intent and black point compensation; links and abstract profiles have their own.

    With `own`, colors go into its inks by the condition's own separation instead of the profile's tables. With `adjust`,
    they are in its numbers already, and these are adjusted; see `adjusted`.
    """

    profile: Profile
    intent: Intent = "relative"
    bpc: bool = False
    own: OwnSeparation | None = None
    adjust: Adjust | None = None


@dataclass(frozen=True)
class Apart:
    """ΔE00 between two stations over all colors; `worst` is the row where it is largest."""

    first: str
    second: str
    mean: float
    p95: float
    p99: float
    largest: float
    worst: int


def waypoint_of(
    text: str, profile: Profile, own: Callable[[Profile], OwnSeparation] | None = None
) -> Waypoint:  # fmt: skip
    """A profile with what stands behind its name: 'relative', 'absolute+bpc', 'perceptual+bpc+own', '' …

    `own` makes the separation that '+own' asks for. Raises `PipelineError` for what is no intent.
    """
    words = [word for word in text.lower().split("+") if word]
    intents = [word for word in words if word not in ("bpc", "own")]
    if len(intents) > 1 or any(word not in get_args(Intent) for word in intents) or ("own" in words and own is None):
        raise PipelineError(
            f"'{text}' is no intent; choose {', '.join(get_args(Intent))}, and +bpc or +own (separation) behind it."
        )
    chosen: Intent = next((each for each in get_args(Intent) if intents == [each]), "relative")
    separated = own(profile) if own is not None and "own" in words else None
    return Waypoint(profile, chosen, "bpc" in words and chosen != "absolute", separated)


def adjusted(before: Waypoint | None, adjustment: Adjustment, name: str) -> Waypoint:
    """An adjustment as a step on the numbers of the profile before it. Raises `PipelineError` where there is none."""
    profile = None if before is None else before.profile
    if profile is None or profile.header.profile_class in ("link", "abst"):
        raise PipelineError(f"'{name}' adjusts device values: put the profile that they are of right before it.")
    return Waypoint(profile, adjust=Adjust(adjustment, profile, name))


def travel(colors: ColorList, waypoints: tuple[Waypoint, ...]) -> tuple[Station, ...]:
    """The stations of colors along a route, the first as they were given.

    Device values begin with the profile that gives them their meaning; Lab goes into the first profile at once. Raises
    `PipelineError` where a profile does not take what comes, and `IccError`.
    """
    if not waypoints:
        raise PipelineError("A route needs one profile at least.")
    left = list(waypoints)
    if colors.is_lab:
        stations = [Station("as given", colors.channels, colors.values, colors.values, None, colors.spectra)]
        now: Waypoint | None = None
    else:
        now = left.pop(0)
        if now.own is not None or now.adjust is not None:
            raise PipelineError(
                f"'{now.profile.name}' comes first and says what the numbers mean: nothing is separated there. Put the "
                "profile that the colors were made for before it."
            )
        _check_takes(now.profile, colors.channels)
        first = now if now.profile.header.profile_class != "link" else None
        lab = _meant(now, colors.values) if first else np.full((len(colors.values), 3), np.nan)
        stations = [
            Station(
                now.profile.name if first else "as given", colors.channels, colors.values, lab,
                first.profile if first else None, colors.spectra,
            )
        ]  # fmt: skip
        if first is None:
            left.insert(0, now)
            now = None
    for waypoint in left:
        stations.append(_step(stations[-1], now, waypoint))
        now = waypoint
    return tuple(stations)


def _check_takes(profile: Profile, channels: tuple[str, ...]) -> None:
    wanted = space_of(profile).channels
    if len(wanted) != len(channels) or (wanted == ("R", "G", "B")) != (channels == ("R", "G", "B")):
        raise PipelineError(
            f"'{profile.name}' takes {', '.join(wanted)}, and the colors are {', '.join(channels)}. Begin the route with "
            "the profile that they were made for."
        )


def _meant(waypoint: Waypoint, values: Array) -> Array:
    intent = "absolute" if waypoint.intent == "absolute" else "relative"
    return cmm.to_lab(waypoint.profile, values, intent)


def _step(before: Station, now: Waypoint | None, to: Waypoint) -> Station:
    profile, kind = to.profile, to.profile.header.profile_class
    if kind == "link":
        _check_takes(profile, before.channels)
        values = cmm.by_link(profile, before.values)
        channels = space_behind(profile).channels
        lab = values if channels == ("L*", "a*", "b*") else np.full((len(values), 3), np.nan)
        return Station(profile.name, channels, values, lab)
    if kind == "abst":
        lab = cmm.by_abstract(profile, before.lab)
        return Station(profile.name, ("L*", "a*", "b*"), lab, lab)
    channels = space_of(profile).channels
    if to.adjust is not None:
        if before.profile is None or before.profile.raw != profile.raw:
            raise PipelineError(f"'{to.adjust.name}' adjusts numbers of '{profile.name}', and other ones come to it.")
        values = to.adjust.apply(before.values)
        return Station(to.adjust.name, channels, values, _meant(to, values), profile)
    coming_from = now.profile if now is not None else None
    if coming_from is not None and coming_from.header.profile_class == "link":
        # A link says nothing of its numbers: the next profile does.
        if to.own is not None:
            raise PipelineError(
                f"'{coming_from.name}' is a device link, and '{profile.name}' says what its numbers mean: nothing is "
                "separated there."
            )
        if len(channels) != len(before.channels):
            raise PipelineError(f"'{profile.name}' does not take what '{coming_from.name}' gives.")
        return Station(profile.name, channels, before.values, _meant(to, before.values), profile)
    is_lab = coming_from is None or coming_from.header.profile_class == "abst"
    if to.own is not None:
        values = to.own.inks(
            None if is_lab else coming_from, before.lab if is_lab else before.values, to.intent, to.bpc
        )
        return Station(f"{profile.name}, own separation", channels, values, _meant(to, values), profile)
    if is_lab:
        values = cmm.from_lab(profile, before.lab, to.intent, bpc=to.bpc)
    else:
        assert coming_from is not None
        values = cmm.convert(coming_from, profile, before.values, to.intent, bpc=to.bpc)
    return Station(profile.name, channels, values, _meant(to, values), profile)


def apart(stations: tuple[Station, ...], light: str = "D50") -> tuple[Apart, ...]:
    """ΔE00 between any two stations whose colors are known; under another light than D50, between those with spectra, as
    `spectral.seen_under` has it. Raises `PipelineError` where no two have any."""
    found = []
    untold = None
    for one, other in combinations(stations, 2):
        try:
            off = delta_e_2000(*under_light(light, one, other))
        except PipelineError as error:
            untold = error
            continue
        known = off[~np.isnan(off)]
        if not len(known):
            continue
        p95, p99 = np.percentile(known, (95, 99))
        found.append(
            Apart(
                one.name,
                other.name,
                float(known.mean()),
                float(p95),
                float(p99),
                float(known.max()),
                int(np.nanargmax(off)),
            )
        )
    if untold is not None and not found:
        raise untold
    return tuple(found)


def told(colors: ColorList, stations: tuple[Station, ...], light: str = "D50") -> dict[str, Any]:
    """A route as plain values: every color after every step, and what lies between the steps under a light."""
    steps = []
    for at, station in enumerate(stations):
        before = stations[at - 1] if at else None
        off = None if before is None else delta_e_2000(before.lab, station.lab)
        steps.append({
            "name": station.name, "channels": list(station.channels),
            "values": _plain(station.values, 5), "lab": _plain(station.lab, 3), "lch": _plain(station.lch, 3),
            "delta_e_2000": None if off is None else _plain(off, 3),
            "delta_e_76": None if before is None else _plain(delta_e_76(before.lab, station.lab), 3),
            "out_of_gamut": None if off is None else [bool(each) for each in off > OUT],
        })  # fmt: skip
    between = [
        {
            "first": each.first, "second": each.second, "mean": round(each.mean, 3), "p95": round(each.p95, 3),
            "p99": round(each.p99, 3), "largest": round(each.largest, 3), "worst": colors.names[each.worst],
        }
        for each in apart(stations, light)
    ]  # fmt: skip
    return {"colors": list(colors.names), "steps": steps, "light": light, "between": between}


def _plain(values: Array, digits: int) -> list[Any]:
    """Rounded, with None where nothing is known."""
    rounded = np.round(values, digits)
    return [_none(row) for row in rounded.tolist()]


def _none(value: Any) -> Any:
    if isinstance(value, list):
        return None if any(math.isnan(each) for each in value) else value
    return None if math.isnan(value) else value
