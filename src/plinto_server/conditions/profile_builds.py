"""Profiles built: from measurements, or once more from a condition with other settings; figures before it is built."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction

from plinto_core.errors import Cancelled, RecipeError
from plinto_core.icc.profile import Profile, parse
from plinto_core.icc.values import Text
from plinto_core.measurement.cgats import as_it_came, read_measurements
from plinto_core.press.calibration import Calibration, calibration_from_json, calibration_of
from plinto_core.press.corrected import corrected
from plinto_core.press.from_inks import ink_numbers_from_json, ink_numbers_to_json, model_from_inks
from plinto_core.profiling.build_preview import BuildPreview, preview_build
from plinto_core.profiling.build_profile import (
    BuildSettings,
    automatic_total,
    build_output_profile,
    build_settings_from_json,
    settings_of,
)
from plinto_core.profiling.characterize import characterize
from plinto_core.profiling.report import characterization_plain
from plinto_core.recipe import recipe_from_json
from plinto_core.recipe.black import usual_black
from plinto_core.recipe.limits import InkLimits
from plinto_core.separation.bounds import ink_caps
from plinto_core.separation.inverse import precompute
from plinto_server.conditions import service
from plinto_server.conditions.models import Condition
from plinto_server.files import store
from plinto_server.jobs.attempt import Attempt
from plinto_server.jobs.kinds import Done, Kind
from plinto_server.jobs.models import Run
from plinto_server.jobs.queue import enqueue
from plinto_server.warm import shelves

KIND = "profile"
Progress = Callable[[float], None]


def settings_for(condition: Condition) -> BuildSettings:
    """What the condition's profile was built with, or the house's settings where it does not say."""
    profile = shelves.condition(condition.profile_sha256).profile
    kept = settings_of(profile)
    if kept is not None:
        return build_settings_from_json(kept)
    ink = recipe_from_json(condition.recipe).ink
    return BuildSettings(condition.name, ink.limits, ink.black)


def preview(condition: Condition, settings: BuildSettings) -> BuildPreview:
    """What these settings would give. Raises `RecipeError` for what the inks cannot be."""
    core = shelves.condition(condition.profile_sha256)
    ink_caps(settings.limits, core.model.inks)
    return preview_build(core.model, core.tables, settings.black, settings.limits)


@transaction.atomic
def ask(condition: Condition, settings: BuildSettings, user: User | None) -> Run:
    """Queue a profile of the condition's measurements with other settings; it becomes a condition of its own."""
    if not settings.name.strip():
        raise RecipeError("Give the profile a name.")
    run = Run.objects.create(
        kind=KIND, artwork_name=f"{condition.name}, built again", condition_name=settings.name[:120],
        file_name=f"{settings.name[:100]}.icc", asked_by=user, pinned={"from": condition.profile_sha256},
        recipe={"from": condition.slug, "settings": settings.to_json()},
    )  # fmt: skip
    return enqueue(run)


def carry_out(run: Run, attempt: Attempt) -> Done:
    """Make the profile of a run, and the condition that goes with it, ready to be entered."""
    profile, report = _made(run, lambda share: attempt.progress(0.8 * share))
    attempt.progress(0.8)
    condition = service.prepared(profile, run.artwork_name, report)
    attempt.progress(0.95)
    if attempt.cancelled():
        raise Cancelled(f"'{run.file_name}' was stopped.")
    path = attempt.folder / "profile.icc"
    path.write_bytes(profile.raw)

    def commit(done: Run) -> None:
        _enter(done, condition, profile.digest)
        done.run_sheet = {"profile": profile.name, "slug": condition.slug, "report": report}

    return Done(store.part_of(path), commit=commit)


def _made(run: Run, progress: Progress) -> tuple[Profile, dict[str, Any]]:
    if "from" in run.recipe:
        return _again(service.condition_by_slug(run.recipe["from"]), build_settings_from_json(run.recipe["settings"]))
    if run.recipe.get("intake") == "numbers":
        return _of_numbers(run, progress)
    data = store.path_of(run.source_sha256).read_bytes()
    if run.recipe.get("intake") == "profile":
        return parse(data), {}
    behind = run.recipe.get("calibration")
    calibration = calibration_from_json(behind) if behind else None
    fit = run.recipe.get("fit") or {}
    light = fit.get("light", "D50")
    told = [] if light == "D50" else [f"Colors as they look under {light}, adapted to D50."]
    return from_measurements(
        data, run.artwork_name, progress, run.recipe.get("settings") or {}, calibration, fit.get("smoothing"), told
    )  # fmt: skip


def _again(condition: Condition, settings: BuildSettings) -> tuple[Profile, dict[str, Any]]:
    core = shelves.condition(condition.profile_sha256)
    data = core.profile.tags.get("targ")
    made = build_output_profile(
        core.model, settings, data.text if isinstance(data, Text) else "", calibration_of(core.profile), core.tables
    )
    return made, {k: v for k, v in condition.report.items() if k != "total_by_lightness"}


def _of_numbers(run: Run, progress: Progress) -> tuple[Profile, dict[str, Any]]:
    """A profile of a supplier's numbers, moved by measured patches where there are any; what it cannot know is noted."""
    numbers = ink_numbers_from_json(run.recipe["numbers"])
    notes = ["It comes from numbers: nothing of it was measured here."]
    if run.source_sha256:
        measured, _ = read_measurements(store.path_of(run.source_sha256).read_bytes(), run.artwork_name)
        moved = corrected(numbers, measured)
        model = moved.model
        notes = [
            f"It comes from numbers and {moved.patches} measured patches: ΔE00 {moved.before:.2f} by the numbers alone, "
            f"{moved.after:.2f} with them."
        ]
    else:
        model = model_from_inks(numbers)
    if numbers.missing_overprints:
        notes.append(f"Predicted, for nobody gave them: overprints {', '.join(numbers.missing_overprints)}.")
    unsaid = [ink for ink in model.inks if ink not in numbers.gain_percent and ink not in numbers.tone_curves]
    if unsaid:
        notes.append(f"Nobody gave the dot gain of {', '.join(unsaid)}: 15 % at the half tone is assumed.")
    progress(0.3)
    black = usual_black(model.inks)
    tables = precompute(model)
    percent, totals, lightness = automatic_total(model, black, tables)
    total = float(run.recipe.get("total_ink_percent") or percent)
    settings = BuildSettings(numbers.name[:100], InkLimits(min(total, 100.0 * len(model.inks))), black)
    progress(0.5)
    profile = build_output_profile(model, settings, tables=tables)
    return profile, {
        "from_numbers": ink_numbers_to_json(numbers),
        "notes": notes,
        "patches": 0,
        "total_by_lightness": [[float(t), round(float(v), 2)] for t, v in zip(totals, lightness, strict=True)],
    }


def from_measurements(
    data: bytes,
    file_name: str,
    progress: Progress,
    wanted: dict[str, Any],
    calibration: Calibration | None = None,
    smoothing: float | None = None,
    told: Sequence[str] = (),
) -> tuple[Profile, dict[str, Any]]:
    """The profile that measurements give; what `wanted` leaves open is as usual, and total ink read from how dark black
    gets. `smoothing` is of the fit, None as patches kept back say; `told` goes into the notes. Raises `PlintoError`."""
    measured, notes = read_measurements(data, file_name)
    found = characterize(measured, [*told, *notes], smoothing=smoothing)
    progress(0.4)
    black = usual_black(found.fit.model.inks)
    usual = BuildSettings(measured.title[:100] or file_name, InkLimits(400.0), black)
    settings = build_settings_from_json(usual.to_json() | wanted)
    tables = precompute(found.fit.model)
    percent, totals, lightness = automatic_total(found.fit.model, settings.black, tables)
    if "limits" not in wanted:
        settings = replace(settings, limits=InkLimits(percent, found.stops_at))
    progress(0.5)
    profile = build_output_profile(found.fit.model, settings, as_it_came(data, measured), calibration, tables)
    return profile, characterization_plain(found) | {
        "total_by_lightness": [[float(t), round(float(v), 2)] for t, v in zip(totals, lightness, strict=True)],
    }


#: What people decided about the condition that a profile was built from again: it is the same press.
_KEPT_FROM_ORIGIN = ("process", "notes", "medium", "mode", "ink_costs", "smallest_dot_percent", "smallest_dot")


def _enter(run: Run, condition: Condition, profile_sha256: str) -> None:
    """Enter the condition of a run; a characterization learns of it by `on_entered`."""
    if "from" in run.recipe:
        origin = Condition.objects.filter(slug=run.recipe["from"]).first()
        if origin is not None:
            for decided in _KEPT_FROM_ORIGIN:
                setattr(condition, decided, getattr(origin, decided))
    for prepare in _before_entering:
        prepare(run, condition)
    service.enter(condition, profile_sha256, run.asked_by)
    run.condition = condition
    for hear in _on_entered:
        hear(run, condition)


_before_entering: list[Callable[[Run, Condition], None]] = []
_on_entered: list[Callable[[Run, Condition], None]] = []
_ended: list[Callable[[Run], None]] = []


def listen(
    before: Callable[[Run, Condition], None], entered: Callable[[Run, Condition], None], ended: Callable[[Run], None]
) -> None:
    """Have whoever asked for a profile add to its condition, hear of it, and hear of a run that came to nothing."""
    _before_entering.append(before)
    _on_entered.append(entered)
    _ended.append(ended)


def _tell(run: Run) -> None:
    for hear in _ended:
        hear(run)


BUILDING = Kind(KIND, carry_out, holds_result=False, ended=_tell)
