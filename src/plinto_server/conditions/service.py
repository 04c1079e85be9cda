"""Conditions taken in: from a profile at once, from measurements by a run that fits and builds."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.contrib.auth.models import User
from django.core.files.uploadedfile import UploadedFile
from django.db import transaction
from django.utils.text import slugify

from plinto_core.artwork.cloud import screen_codes
from plinto_core.chain.library import Condition as CoreCondition
from plinto_core.chain.stations import Source
from plinto_core.errors import CharacterizationError
from plinto_core.gamut.boundary import Boundary, boundary_of_surface
from plinto_core.gamut.volume import coverage, hull, volume
from plinto_core.icc.profile import Profile, parse
from plinto_core.icc.standard import RGB_SPACES, rgb_profile
from plinto_core.press.cgats import read_measurements
from plinto_core.press.judge import Judgement, gamut_of, judge
from plinto_core.recipe import InkStation, Recipe
from plinto_core.separation.black import usual_black
from plinto_core.separation.build_profile import settings_of
from plinto_core.separation.inverse import InkLimits, Inverse
from plinto_server import store
from plinto_server.conditions.models import Condition
from plinto_server.errors import ConflictError, MissingError
from plinto_server.runs.models import Run

MOST_BYTES = 64 << 20


def condition_by_slug(slug: str) -> Condition:
    """Raises `MissingError`."""
    found = Condition.objects.filter(slug=slug).first()
    if found is None:
        raise MissingError("This printing condition is not here any more. Choose another one.")
    return found


def take_in(upload: "UploadedFile[bytes]", user: User | None) -> Condition | Run:
    """A condition from an ICC profile, or a run that makes one from measurements. Raises `PlintoError`."""
    name = Path(upload.name or "file").name[:120]
    if upload.size is not None and upload.size > MOST_BYTES:
        raise CharacterizationError(
            f"'{name}' has {upload.size >> 20} MB; no profile or measurement needs more than 64."
        )
    data = upload.read()
    if data[36:40] == b"acsp":
        return enter(parse(data), name, {})
    # Read now, so that a bad file is refused at once and nothing of it is kept.
    measured, _notes = read_measurements(data, name)
    return _ask(store.keep_chunks([data]), name, measured.title, user)


def _ask(sha256: str, file_name: str, title: str, user: User | None) -> Run:
    from plinto_server.runs.service import enqueue

    run = Run.objects.create(
        kind=Run.Kind.PROFILE, artwork_name=file_name, condition_name=title[:120], file_name=f"{title[:100]}.icc",
        recipe={}, source_sha256=sha256, asked_by=user,
    )  # fmt: skip
    enqueue(run.id)
    return run


@transaction.atomic
def enter(profile: Profile, made_from: str, report: dict[str, Any]) -> Condition:
    """A new condition in draft. Raises `IccError` for profiles that are no press's or printer's."""
    from plinto_server.bench import engine

    known = Condition(profile_sha256=store.keep_chunks([profile.raw]))
    core = engine.core_condition(known)
    settings = settings_of(profile) or {}
    total = float(settings.get("limits", {}).get("total_percent") or _most_ink(core))
    black = usual_black(core.model.inks)
    limits = InkLimits(min(max(total, 50.0), 100.0 * len(core.model.inks)))
    white = core.model.to_absolute([[100.0, 0.0, 0.0]])[0]
    known.slug, known.name = _free_slug(profile.name), profile.name[:120]
    known.process = f"{len(core.model.inks)} inks, from {made_from}"[:200]
    known.printed_inks = printed_inks(core)
    known.inks, known.total_ink_percent = list(core.model.inks), limits.total_percent
    known.substrate_lab = [float(v) for v in white]
    known.darkest_lab = [float(v) for v in Inverse(core.model, core.tables, black, limits).black_point_lab]
    known.fit_mean, known.fit_p95 = report.get("held_out_mean", 0.0), report.get("held_out_p95", 0.0)
    known.patches, known.report = report.get("patches", 0), report
    known.recipe = Recipe(ink=InkStation("rebuilt", limits, black)).to_json()
    known.status, known.made_from, known.position = "draft", made_from[:255], 100
    known.save()
    return known


def printed_inks(core: CoreCondition) -> list[str]:
    """Inks that the printer lays down: the separation's, or light and dark ones behind its calibration."""
    return list(core.calibration.printed_inks if core.calibration else core.model.inks)


def _most_ink(core: CoreCondition) -> float:
    return round(judge(core.profile, core.tables, colors=500).most_ink_percent) or 100.0 * len(core.model.inks)


def _free_slug(name: str) -> str:
    base = slugify(name)[:40] or "condition"
    taken = set(Condition.objects.filter(slug__startswith=base).values_list("slug", flat=True))
    return next(slug for slug in (base, *(f"{base}-{n}" for n in range(2, len(taken) + 3))) if slug not in taken)


def set_status(condition: Condition, status: str) -> Condition:
    """Draft, trusted or out of date."""
    condition.status = status
    condition.save(update_fields=["status"])
    return condition


def remove(condition: Condition) -> None:
    """Raises `ConflictError` while a run needs it."""
    if Run.objects.filter(condition=condition, state__in=("queued", "running")).exists():
        raise ConflictError(f"A run for '{condition.name}' is under way. Wait for it, or cancel it first.")
    condition.delete()


def judged(condition: Condition) -> Judgement:
    """The figures of the condition's profile."""
    from plinto_server.bench import engine

    core = engine.core_condition(condition)
    return engine.kept(("judged", condition.profile_sha256), lambda: judge(core.profile, core.tables))


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
    from plinto_server.bench import engine

    if key in RGB_SPACES:
        return key, engine.kept(("rgb", key), lambda: boundary_of_surface(Source(rgb_profile(key)).surface_lab))
    condition = condition_by_slug(key)
    core = engine.core_condition(condition)
    total = condition.total_ink_percent
    kept = ("gamut", condition.profile_sha256, total)
    return condition.name, engine.kept(kept, lambda: gamut_of(core.model, core.tables, total))
