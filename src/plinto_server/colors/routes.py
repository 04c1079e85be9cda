"""Routes kept with a history, and lists sent along them; what was sent is kept warm for sorting and paging."""

from dataclasses import asdict, dataclass
from typing import Any, get_args

import numpy as np
from django.contrib.auth.models import User
from django.db import transaction
from numpy.typing import NDArray

from plinto_core.colorimetry.difference import delta_e_76, delta_e_2000
from plinto_core.colorimetry.lab import lab_to_lch
from plinto_core.errors import PipelineError
from plinto_core.icc.standard import RGB_SPACES
from plinto_core.recipe import Intent, recipe_from_json
from plinto_core.recipe.adjustment import Adjustment
from plinto_core.recipe.recipe import canonical_digest
from plinto_core.route.route import OUT, Waypoint, adjusted, travel
from plinto_core.route.separated import OwnSeparation
from plinto_core.route.spectral import under_light
from plinto_core.route.station import Station
from plinto_server.colors import lists
from plinto_server.colors.models import ColorList, Route
from plinto_server.conditions.models import Condition
from plinto_server.errors import MissingError
from plinto_server.house import service as house
from plinto_server.records import history
from plinto_server.removals import bin as removals
from plinto_server.warm import shelves

ROUTE = "route"
MOST_STEPS = 12
Plain = dict[str, Any]
Array = NDArray[np.float64]


@dataclass(frozen=True)
class Step:
    """One step: a space's name or a profile's digest, how, and whether it is passed over.

    `own`: into the inks by the own separation of the condition that has this profile, with the condition's settings.
    `adjustment`, called `named`: on the numbers of the step before; no profile then.
    """

    profile: str = ""
    intent: Intent = "relative"
    bpc: bool = False
    bypassed: bool = False
    own: bool = False
    adjustment: Adjustment | None = None
    named: str = ""


def step_of(plain: Plain) -> Step:
    """A step as it is kept."""
    given = plain.get("adjustment")
    base = recipe_from_json({"adjust": {"base": given}}).adjust.base if given else None
    return Step(**{**plain, "adjustment": base})


def waypoints(steps: list[Step]) -> tuple[Waypoint, ...]:
    """Steps that count, with their profiles. Raises `PipelineError`, `MissingError`."""
    if len(steps) > MOST_STEPS:
        raise PipelineError(f"A route has at most {MOST_STEPS} steps.")
    if any(each.intent not in get_args(Intent) for each in steps):
        raise PipelineError(f"An intent is one of {', '.join(get_args(Intent))}.")
    found: list[Waypoint] = []
    for each in steps:
        if each.bypassed:
            continue
        if each.adjustment is not None:
            found.append(adjusted(found[-1] if found else None, each.adjustment, each.named or "Adjustment"))
            continue
        own = _own(each.profile) if each.own else None
        profile = house.profile_by_choice(each.profile)
        found.append(Waypoint(profile, each.intent, each.bpc and each.intent != "absolute", own))
    return tuple(found)


def _condition_of(profile: str) -> Condition:
    found = Condition.objects.filter(profile_sha256=profile).order_by("id").first()
    if found is None:
        raise PipelineError("Only a printing condition has a separation of its own: take this profile's tables.")
    return found


def _own(profile: str) -> OwnSeparation:
    ink = recipe_from_json(_condition_of(profile).recipe).ink
    return OwnSeparation(shelves.condition(profile), ink)


def digests(route: Route) -> list[str]:
    """Profiles that a route holds."""
    return [step["profile"] for step in route.steps if step["profile"] and step["profile"] not in RGB_SPACES]


def travelled(found: ColorList, steps: list[Step]) -> tuple[Station, ...]:
    """The stations of a list along steps; none but its own values where a list of a device has no first step."""
    way = waypoints(steps)
    # A condition's settings may change between two looks at its own separation.
    settings = tuple(
        canonical_digest(_condition_of(each.profile).recipe) for each in steps if each.own and not each.bypassed
    )
    key = ("travelled", found.id, tuple(steps), settings)

    def go() -> tuple[Station, ...]:
        colors = lists.colors_of(found)
        if way:
            return travel(colors, way)
        lab = colors.values if colors.is_lab else np.full((found.count, 3), np.nan)
        return (Station("as given", colors.channels, colors.values, lab, None, colors.spectra),)

    return shelves.looks.get(key, go)


@dataclass(frozen=True)
class Between:
    """ΔE00 between two columns over all colors, how it is spread (share of colors in steps of `bin`), and what it is
    made of on the mean: ΔE*76, and without sign ΔL*, ΔC*, ΔH*."""

    mean: float
    p95: float
    p99: float
    largest: float
    worst: int
    over: float
    bin: float
    histogram: list[float]
    mean_76: float
    mean_lightness: float
    mean_chroma: float
    mean_hue: float


def between(one: Station, other: Station, light: str = "D50") -> tuple[Array, Between | None, str]:
    """ΔE00 (n,) of two columns under a light, NaN where a column means no color, with its figures; or why there is none."""
    try:
        first, second = under_light(light, one, other)
    except PipelineError as error:
        return np.full(len(one.values), np.nan), None, str(error)
    off = np.asarray(delta_e_2000(first, second))
    known = ~np.isnan(off)
    if not known.any():
        return off, None, "A column of numbers without a profile means no color: nothing to compare."
    worst = int(np.nanargmax(off))
    every, first, second, off = off, first[known], second[known], off[known]
    p95, p99 = np.percentile(off, (95, 99))
    width = max(0.25, float(np.ceil(off.max() * 2) / 2) / 24)
    spread = np.histogram(off, 24, (0, 24 * width))[0] / len(off)
    chroma = lab_to_lch(second)[:, 1] - lab_to_lch(first)[:, 1]
    lightness = second[:, 0] - first[:, 0]
    flat = np.asarray(delta_e_76(first, second))
    hue = np.sqrt(np.clip(flat**2 - lightness**2 - chroma**2, 0, None))
    figures = Between(
        float(off.mean()), float(p95), float(p99), float(off.max()), worst, float((off > OUT).mean()), width,
        spread.round(5).tolist(), float(flat.mean()), float(np.abs(lightness).mean()), float(np.abs(chroma).mean()),
        float(hue.mean()),
    )  # fmt: skip
    missing = int((~known).sum())
    return every, figures, f"{missing:,} of {len(known):,} colors came without spectra." if missing else ""


def ordered(
    found: ColorList, stations: tuple[Station, ...], off: Array, sort: str, descending: bool, search: str, over: float
) -> NDArray[np.int64]:  # fmt: skip
    """Rows that are left, in order. `sort` is 'given', 'name', 'difference', or 'L', 'C', 'h' and a column: 'C:1'.

    Raises `PipelineError`.
    """
    rows = np.arange(found.count)
    words = search.casefold().split()
    if words:
        rows = np.array([at for at, name in enumerate(found.names) if all(w in name.casefold() for w in words)], int)
    if over > 0:
        rows = rows[off[rows] > over]
    if sort == "given":
        return rows[::-1] if descending else rows
    if sort == "name":
        return np.array(sorted(rows.tolist(), key=lambda at: found.names[at].casefold(), reverse=descending), int)
    values = off if sort == "difference" else _column(stations, sort)
    keyed = values[rows]
    # Stable, and what has no value stands last either way.
    order = np.argsort(np.where(np.isnan(keyed), np.inf, -keyed if descending else keyed), kind="stable")
    return rows[order]


def _column(stations: tuple[Station, ...], sort: str) -> Array:
    part, _, number = sort.partition(":")
    axis = {"L": 0, "C": 1, "h": 2}.get(part)
    if axis is None or not number.isdigit() or int(number) >= len(stations):
        raise PipelineError(f"'{sort}' is nothing that a list can be sorted by.")
    return np.asarray(stations[int(number)].lch[:, axis])


# Kept routes.


def by_id(route_id: int) -> Route:
    """Raises `MissingError`."""
    found = Route.objects.filter(id=route_id).first()
    if found is None:
        raise MissingError("This route is not here any more. Choose another one.")
    return found


@transaction.atomic
def save(name: str, steps: list[Step], version: int, user: User | None, route_id: int | None = None) -> Route:
    """Keep a route. Raises `PipelineError`, `ConflictError`."""
    name = name.strip()
    waypoints(steps)
    if not 1 <= len(name) <= 120:
        raise PipelineError("A route needs a name, of 1 to 120 letters.")
    others = Route.objects.filter(name=name)
    if (others if route_id is None else others.exclude(id=route_id)).exists():
        raise PipelineError(f"There is a route '{name}' already. Give this one another name.")
    found = by_id(route_id) if route_id else Route()
    before = _plain(found) if route_id else None
    if route_id:
        history.check_version(ROUTE, str(route_id), version)
    found.name, found.steps = name, [asdict(each) for each in steps]
    found.save()
    history.write(ROUTE, str(found.id), found.name, before, _plain(found), user)
    return found


@transaction.atomic
def remove(found: Route, user: User | None) -> None:
    """Remove a route; its history stays."""
    history.write(ROUTE, str(found.id), found.name, _plain(found), None, user)
    removals.remove([found], found.name, user, "artwork", (ROUTE, str(found.id)))


def restore(key: str, plain: Plain, author: User) -> None:
    """A route as one of its revisions had it."""
    found = Route.objects.filter(id=int(key)).first() or Route(id=int(key))
    before = _plain(found) if found.name else None
    found.name, found.steps = plain["name"], plain["steps"]
    found.save()
    history.write(ROUTE, key, found.name, before, _plain(found), author)


def _plain(found: Route) -> Plain:
    return {"name": found.name, "steps": found.steps}
