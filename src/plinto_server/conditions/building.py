"""Profiles built: from measurements, or once more from a condition with other settings; figures before it is built."""

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from django.contrib.auth.models import User

from plinto_core.errors import RecipeError
from plinto_core.icc.profile import Profile
from plinto_core.icc.values import Text
from plinto_core.press.calibration import Calibration, calibration_from_json, calibration_of
from plinto_core.press.cgats import read_measurements
from plinto_core.press.characterize import characterize
from plinto_core.press.report import characterization_plain
from plinto_core.recipe import recipe_from_json
from plinto_core.separation.black import usual_black
from plinto_core.separation.build_profile import (
    BuildSettings,
    automatic_total,
    build_output_profile,
    build_settings_from_json,
    settings_of,
)
from plinto_core.separation.inverse import InkLimits, precompute
from plinto_core.separation.variant import Variant, variant
from plinto_server import store
from plinto_server.conditions import service
from plinto_server.conditions.models import Condition
from plinto_server.runs.models import Run

Progress = Callable[[float], None]


def settings_for(condition: Condition) -> BuildSettings:
    """What the condition's profile was built with, or the house's settings where it does not say."""
    from plinto_server.bench import engine

    profile = engine.core_condition(condition).profile
    kept = settings_of(profile)
    if kept is not None:
        return build_settings_from_json(kept)
    ink = recipe_from_json(condition.recipe).ink
    return BuildSettings(condition.name, ink.limits, ink.black)


def look(condition: Condition, settings: BuildSettings) -> Variant:
    """What these settings would give. Raises `RecipeError` for what the inks cannot be."""
    from plinto_server.bench import engine

    core = engine.core_condition(condition)
    settings.limits.caps(core.model.inks)
    return variant(core.model, core.tables, settings.black, settings.limits)


def ask(condition: Condition, settings: BuildSettings, user: User | None) -> Run:
    """Queue a profile of the condition's measurements with other settings; it becomes a condition of its own."""
    from plinto_server.runs.service import enqueue

    if not settings.name.strip():
        raise RecipeError("Give the profile a name.")
    run = Run.objects.create(
        kind=Run.Kind.PROFILE, artwork_name=f"{condition.name}, built again", condition_name=settings.name[:120],
        file_name=f"{settings.name[:100]}.icc", asked_by=user,
        recipe={"from": condition.slug, "settings": settings.to_json()},
    )  # fmt: skip
    enqueue(run.id)
    return run


def carry_out(run: Run, progress: Progress) -> tuple[Profile, dict[str, Any]]:
    """The profile of a queued run and the report that goes with it."""
    if "from" in run.recipe:
        return _again(service.condition_by_slug(run.recipe["from"]), build_settings_from_json(run.recipe["settings"]))
    data = store.path_of(run.source_sha256).read_bytes()
    behind = run.recipe.get("calibration")
    calibration = calibration_from_json(behind) if behind else None
    return from_measurements(data, run.artwork_name, progress, run.recipe.get("settings") or {}, calibration)


def _again(condition: Condition, settings: BuildSettings) -> tuple[Profile, dict[str, Any]]:
    from plinto_server.bench import engine

    core = engine.core_condition(condition)
    data = core.profile.tags.get("targ")
    made = build_output_profile(
        core.model, settings, data.text if isinstance(data, Text) else "", calibration_of(core.profile), core.tables
    )
    return made, {k: v for k, v in condition.report.items() if k != "total_by_lightness"}


def from_measurements(
    data: bytes, file_name: str, progress: Progress, wish: dict[str, Any], calibration: Calibration | None = None
) -> tuple[Profile, dict[str, Any]]:
    """The profile that measurements give; what `wish` leaves open is as usual, and total ink read from how dark black
    gets. Raises `PlintoError`."""
    measured, notes = read_measurements(data, file_name)
    found = characterize(measured, notes)
    progress(0.4)
    black = usual_black(found.fit.model.inks)
    usual = BuildSettings(measured.title[:100] or file_name, InkLimits(400.0), black)
    settings = build_settings_from_json(usual.to_json() | wish)
    tables = precompute(found.fit.model)
    percent, totals, lightness = automatic_total(found.fit.model, settings.black, tables)
    if "limits" not in wish:
        settings = replace(settings, limits=InkLimits(percent))
    progress(0.5)
    profile = build_output_profile(found.fit.model, settings, measured.to_cgats(), calibration, tables)
    return profile, characterization_plain(found) | {
        "total_by_lightness": [[float(t), round(float(v), 2)] for t, v in zip(totals, lightness, strict=True)],
    }


def enter(run: Run, profile: Profile, report: dict[str, Any]) -> Condition:
    """The condition that the run's profile makes; a characterization learns of it."""
    condition = service.enter(profile, run.artwork_name, report)
    if "from" in run.recipe:
        origin = service.condition_by_slug(run.recipe["from"])
        condition.process, condition.notes, condition.medium = origin.process, origin.notes, origin.medium
        condition.save(update_fields=["process", "notes", "medium"])
    if "characterization" in run.recipe:
        from plinto_server.characterizations.service import built

        built(run.recipe["characterization"], condition)
    return condition
