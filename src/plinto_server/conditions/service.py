"""Conditions: prepared, entered, removed; their judgement and their gamuts."""

from dataclasses import dataclass
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import OuterRef, ProtectedError, Subquery
from django.utils.text import slugify

from plinto_core.analysis.cloud import screen_codes
from plinto_core.chain.library import Condition as CoreCondition
from plinto_core.chain.source_gamut import surface_lab
from plinto_core.chain.stations import Source
from plinto_core.gamut.boundary import Boundary, boundary_of_surface
from plinto_core.gamut.volume import coverage, hull, volume
from plinto_core.icc.profile import Profile
from plinto_core.icc.standard import RGB_SPACES, rgb_profile
from plinto_core.inks.drive import driven_by_rgb
from plinto_core.press.model import has_way_back
from plinto_core.profiling.build_profile import settings_of
from plinto_core.profiling.judge import Judgement, gamut_of, judge
from plinto_core.recipe import InkStation, Recipe
from plinto_core.recipe.black import usual_black
from plinto_core.recipe.limits import InkLimits
from plinto_core.separation.inverse import Inverse
from plinto_server.conditions import library
from plinto_server.conditions.models import Condition, StripReading
from plinto_server.errors import ConflictError, MissingError
from plinto_server.files.space import even_when_full
from plinto_server.records import history
from plinto_server.records.models import Revision
from plinto_server.removals import bin as removals
from plinto_server.warm import shelves

Plain = dict[str, Any]


def condition_by_slug(slug: str) -> Condition:
    """Raises `MissingError`."""
    found = Condition.objects.filter(slug=slug).first()
    if found is None:
        raise MissingError("This printing condition is not here any more. Choose another one.")
    return found


def prepared(profile: Profile, made_from: str, report: dict[str, Any]) -> Condition:
    """A new condition in draft, computed and not saved yet: that takes seconds, which no transaction may.

    Raises `IccError` for profiles that are no press's or printer's.
    """
    core = shelves.condition_of(profile)
    settings = settings_of(profile) or {}
    given = settings.get("limits")
    stated = given.get("total_percent") if isinstance(given, dict) else None
    total = float(stated) if isinstance(stated, int | float) else _most_ink(core)
    black = usual_black(core.model.inks)
    limits = InkLimits(min(max(total, 50.0), 100.0 * len(core.model.inks)))
    white = core.model.to_absolute([[100.0, 0.0, 0.0]])[0]
    return Condition(
        name=profile.name[:120],
        process=f"{_driven(core)}, from {made_from}"[:200],
        device_inks=device_inks(core),
        inks=list(core.model.inks),
        total_ink_percent=limits.total_percent,
        substrate_lab=[float(v) for v in white],
        darkest_lab=[float(v) for v in Inverse(core.model, core.tables, black, limits).black_point_lab],
        fit_mean=report.get("held_out_mean", 0.0),
        fit_p95=report.get("held_out_p95", 0.0),
        patches=report.get("patches", 0),
        report=report,
        recipe=Recipe(ink=InkStation("rebuilt", limits, black)).to_json(),
        status="draft",
        made_from=made_from[:255],
        from_numbers="from_numbers" in report,
        position=100,
    )


@transaction.atomic
def enter(condition: Condition, profile_sha256: str, author: User | None) -> Condition:
    """Save a prepared condition; its profile is in the store already, kept in the same transaction."""
    condition.profile_sha256 = profile_sha256
    condition.slug = _free_slug(condition.name)
    condition.save()
    library.record(condition, None, author)
    return condition


def device_inks(core: CoreCondition) -> list[str]:
    """Inks that the printer lays down: the separation's, or light and dark ones behind its calibration."""
    return list(core.calibration.device_inks if core.calibration else core.model.inks)


def _driven(core: CoreCondition) -> str:
    return "Driven by RGB" if driven_by_rgb(core.model.inks) else f"{len(core.model.inks)} inks"


#: Where a profile neither says nor shows how much ink its stock takes.
_UNKNOWN_TOTAL = 300.0


def _most_ink(core: CoreCondition) -> float:
    if not has_way_back(core.profile):
        return min(_UNKNOWN_TOTAL, 100.0 * len(core.model.inks))
    return round(judge(core.profile, core.tables, colors=500).most_ink_percent) or 100.0 * len(core.model.inks)


def _free_slug(name: str) -> str:
    base = slugify(name)[:40] or "condition"
    taken = set(Condition.objects.filter(slug__startswith=base).values_list("slug", flat=True))
    return next(slug for slug in (base, *(f"{base}-{n}" for n in range(2, len(taken) + 3))) if slug not in taken)


@even_when_full
@transaction.atomic
def remove(condition: Condition, author: User | None) -> None:
    """Remove a condition; what was written stays, and so does whatever else holds its profile. Raises `ConflictError`."""
    if condition.run_set.filter(state__in=("queued", "running")).exists():
        raise ConflictError(f"A run for '{condition.name}' is under way. Wait for it, or cancel it first.")
    history.write(library.CONDITION, condition.slug, condition.name, library.facts(condition), None, author)
    try:
        record = (library.CONDITION, condition.slug)
        removals.remove([condition], condition.name, author, "conditions", record)
    except ProtectedError as error:
        names = ", ".join(f"'{getattr(each, 'name', each)}'" for each in sorted(error.protected_objects, key=str))
        raise ConflictError(
            f"'{condition.name}' is the condition of {names}. Give that another condition, or remove it first."
        ) from error


def judged(condition: Condition) -> Judgement:
    """The figures of the condition's profile."""
    core = shelves.condition(condition.profile_sha256)
    return shelves.lasting.get(("judged", condition.profile_sha256), lambda: judge(core.profile, core.tables))


def listed() -> list[Condition]:
    """All conditions in the order of the house, with medium, latest strip and version, by one query."""
    last = StripReading.objects.filter(condition=OuterRef("pk")).order_by("-measured_at", "-id")
    versions = Revision.objects.filter(kind=library.CONDITION, key=OuterRef("slug")).order_by("-number")
    found = Condition.objects.select_related("medium").defer("report", "recipe")
    return list(
        found.annotate(
            strip_at=Subquery(last.values("measured_at")[:1]),
            strip_drift=Subquery(last.values("drift")[:1]),
            revision=Subquery(versions.values("number")[:1]),
        )
    )


def version(condition: Condition) -> int:
    """How often what is decided about it was changed."""
    if hasattr(condition, "revision"):
        return int(condition.revision or 0)
    return history.version_of(library.CONDITION, condition.slug)


def last_strip(condition: Condition) -> Plain | None:
    """The latest strip in short: when, mean, whether it is within, and what is not."""
    if hasattr(condition, "strip_at"):
        at, drift = condition.strip_at, condition.strip_drift  # type: ignore[attr-defined]
    else:
        strip = condition.strips.last()
        at, drift = (strip.measured_at, strip.drift) if strip else (None, None)
    if at is None or drift is None:
        return None
    return {"measured_at": at, "mean": drift["mean"], "within": drift["within"], "broken": drift["broken"]}


@dataclass(frozen=True)
class Gamut:
    """A hull to be drawn: Lab points with an sRGB code each, triangles and wires between them; volume, and its share
    (0…1) in the first one."""

    key: str
    name: str
    points: list[list[float]]
    rgb: list[int]
    triangles: list[list[int]]
    wires: list[list[int]]
    volume: float
    in_first: float


def gamuts(keys: list[str]) -> list[Gamut]:
    """Hulls of conditions by slug and of RGB spaces by name, in this order. Raises `MissingError`."""
    found = [(key, *_boundary(key)) for key in keys[:6]]
    made = []
    for key, name, edge in found:
        drawn = hull(edge)
        made.append(
            Gamut(
                key, name, drawn.points.round(2).tolist(), screen_codes(drawn.points), drawn.triangles.tolist(),
                drawn.wires.tolist(), volume(edge), coverage(edge, found[0][2]),
            )
        )  # fmt: skip
    return made


def _boundary(key: str) -> tuple[str, Boundary]:
    if key in RGB_SPACES:
        return key, shelves.lasting.get(
            ("rgb", key), lambda: boundary_of_surface(surface_lab(Source(rgb_profile(key))))
        )
    condition = condition_by_slug(key)
    core = shelves.condition(condition.profile_sha256)
    total = condition.total_ink_percent
    kept = ("gamut", condition.profile_sha256, total)
    return condition.name, shelves.lasting.get(kept, lambda: gamut_of(core.model, core.tables, total))
