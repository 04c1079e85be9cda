"""Starting, measuring and deciding the steps of a characterization; what a change makes stale."""

from datetime import UTC, datetime
from typing import Any

import numpy as np
from django.contrib.auth.models import User
from django.db import transaction

from plinto_core.analysis.cloud import screen_codes
from plinto_core.colorimetry.lab import xyz_to_lab
from plinto_core.colorimetry.spectra import Illuminant, illuminant_power
from plinto_core.errors import Cancelled, CharacterizationError
from plinto_core.inks.names import NAMES
from plinto_core.measurement.cgats import read_measurements
from plinto_core.measurement.measurements import Measurements, under_light
from plinto_core.press.calibration import Calibration
from plinto_core.profiling.build_profile import BuildSettings, build_settings_from_json
from plinto_core.profiling.linearize import InkSplit
from plinto_core.recipe.black import usual_black
from plinto_core.recipe.limits import InkLimits
from plinto_core.sandbox.client import check_file
from plinto_server.characterizations import analysis
from plinto_server.characterizations.models import Characterization
from plinto_server.conditions import library
from plinto_server.conditions.models import Condition, Medium
from plinto_server.devices import Device, device_by_slug
from plinto_server.errors import ConflictError, MissingError, TooLargeError
from plinto_server.files import store
from plinto_server.files.space import even_when_full
from plinto_server.files.store import Part
from plinto_server.intake.names import clean_name
from plinto_server.jobs.attempt import Attempt
from plinto_server.jobs.kinds import Done, Kind
from plinto_server.jobs.models import Run
from plinto_server.jobs.queue import enqueue
from plinto_server.records import history
from plinto_server.removals import bin as removals

MOST_BYTES = 64 << 20
KIND = "measure"
#: What is measured at a step, in the words of its sheet.
SHEETS = {
    "crossing": "ramps of every ink", "linearize": "ramps of the separation", "total": "total ink staircase",
    "measure": "chart",
}  # fmt: skip


def by_id(characterization_id: int) -> Characterization:
    """Raises `MissingError`."""
    found = Characterization.objects.filter(id=characterization_id).first()
    if found is None:
        raise MissingError("This characterization is not here any more. Go back to the list.")
    return found


def device_of(found: Characterization) -> Device | None:
    """The device it is for; None where everything comes in as files."""
    return device_by_slug(found.device_slug) if found.device_slug else None


def start(name: str, device_slug: str, inks: list[str], medium: Medium | None) -> Characterization:
    """A new one; the device says its inks, files need them named. Raises `CharacterizationError`."""
    if not name.strip():
        raise CharacterizationError("Give the characterization a name: the medium and the mode, as a rule.")
    printed = list(device_by_slug(device_slug).inks) if device_slug else inks
    own = [ink for ink in printed if not (ink.islower() and ink.upper() in printed)]
    if not 1 <= len(own) <= 8 or len(set(printed)) < len(printed):
        raise CharacterizationError("One to eight different inks are meant.")
    return Characterization.objects.create(
        name=name.strip()[:120], device_slug=device_slug, inks=own, device_inks=printed, medium=medium, steps={}
    )


@transaction.atomic
def change_step(
    characterization_id: int, step: str, *, stale: bool = False, unless: str = "", **fields: Any
) -> Characterization:
    """Write fields of one step; with `stale`, what comes after it and was done is stale from now on.

    Everything else is read anew under the lock: somebody may have gone on with another step. `unless` is a state of the
    step that nobody may write over (`ConflictError`).
    """
    found = by_id(characterization_id)
    if unless and found.steps.get(step, {}).get("state") == unless:
        raise ConflictError("This step is being measured. Wait for it, or cancel its run.")
    found.steps[step] = {"state": "open", "settings": {}, "result": {}} | found.steps.get(step, {}) | fields
    if stale:
        for later in analysis.STEPS[analysis.STEPS.index(step) + 1 :]:
            # The patch count of a chart stays what it was; only what was measured or built goes stale.
            if found.steps.get(later, {}).get("state") == "done" and later != "chart":
                found.steps[later]["state"] = "stale"
    found.save()
    return found


def set_settings(found: Characterization, step: str, settings: dict[str, Any]) -> Characterization:
    """Decide a step's settings; its result is computed anew from what was measured. Raises `CharacterizationError`."""
    _known(found, step)
    _check(found, step, settings)
    before = found.steps.get(step, {})
    if before.get("state") == "measuring":
        raise ConflictError("This step is being measured. Wait for it, or cancel its run.")
    found.steps[step] = {"state": "open", "result": {}} | before | {"settings": settings}
    if step in analysis.MEASURED and not before.get("data_sha256"):
        return change_step(found.id, step, unless="measuring", settings=settings)
    result = analysis.analyze(found, step, device_of(found))
    return change_step(
        found.id, step, stale=True, unless="measuring", settings=settings, result=result, state="done"
    )  # fmt: skip


def _check(found: Characterization, step: str, settings: dict[str, Any]) -> None:
    """Refuse what no step could work with, before anything is kept."""
    try:
        for values in settings.get("crossings", {}).values():
            InkSplit(*(float(value) for value in values))
        caps = [float(value) for value in settings.get("caps", {}).values()]
        patches = int(settings.get("patches", 1000))
        total = float(settings.get("total_percent") or 100)
        ambient = float(settings.get("ambient_percent", 0))
    except (TypeError, ValueError, AttributeError) as error:
        raise CharacterizationError(f"The settings of '{step}' cannot be read: {error}.") from error
    least = (len(found.inks) + 1) * (len(found.inks) + 2)
    if step == "chart" and not least <= patches <= 6000:
        raise CharacterizationError(f"A chart of {len(found.inks)} inks has {least} to 6000 patches.")
    if any(not 5 <= cap <= 100 for cap in caps):
        raise CharacterizationError("An ink is capped at 5 to 100 %.")
    if not 50 <= total <= 100 * len(found.inks) or not 0 <= ambient <= 100:
        raise CharacterizationError(f"Total ink is 50 to {100 * len(found.inks)} %, the room's light 0 to 100 %.")


def _known(found: Characterization, step: str) -> None:
    if step not in analysis.steps_of(found, device_of(found)):
        raise MissingError(f"'{found.name}' has no step '{step}'.")


@transaction.atomic
def ask_to_measure(found: Characterization, step: str, user: User | None) -> Run:
    """Queue the measuring of a step on the device. Raises `ConflictError` while it is being measured."""
    _known(found, step)
    device = device_of(found)
    if device is None:
        raise CharacterizationError("No device is chosen: print the chart, measure it elsewhere, and load the file.")
    if found.steps.get(step, {}).get("state") == "measuring":
        raise ConflictError("This step is being measured already.")
    sheet = analysis.step_chart(found, step)
    run = Run.objects.create(
        kind=KIND, artwork_name=f"{found.name}: {SHEETS[step]}", condition_name=device.name,
        file_name=f"{found.name} {SHEETS[step]}.txt"[:255], asked_by=user,
        recipe={"characterization": found.id, "step": step, "patches": len(sheet.asked)},
    )  # fmt: skip
    change_step(found.id, step, unless="measuring", state="measuring", live=[], run_id=run.id)
    return enqueue(run)


def measure(run: Run, attempt: Attempt) -> Done:
    """Carry a measuring run out: print, read strip by strip, keep."""
    found, step = by_id(run.recipe["characterization"]), run.recipe["step"]
    device = device_of(found)
    if device is None:
        raise CharacterizationError("No device is chosen: print the chart, measure it elsewhere, and load the file.")
    sheet = analysis.step_chart(found, step)
    spectra: list[Any] = []
    colors: list[Any] = []
    for read, xyz in device.read(sheet.printed, run=run.id):
        spectra.append(read)
        colors.append(xyz)
        done = sum(map(len, colors))
        attempt.progress(done / len(sheet.printed))
        if attempt.cancelled():
            raise Cancelled(f"'{run.file_name}' was stopped after {done} patches.")
        if len(colors) % 8 == 1:
            change_step(found.id, step, live=_live(colors))
    names = tuple(NAMES.get(ink, ink) for ink in sheet.inks)
    data = Measurements(
        names, sheet.asked, np.concatenate(colors), np.concatenate(spectra), f"{found.name} {step}", device.provenance
    )
    path = attempt.folder / "measured.txt"
    path.write_text(data.to_cgats(), encoding="utf-8")
    part = store.part_of(path)
    result = _analyzed(found, step, data)

    def commit(ended_run: Run) -> None:
        _keep_data(found, step, part.sha256, result, _live(colors))
        ended_run.run_sheet = dict(run.recipe)

    return Done(part, commit=commit)


def _live(colors: list[Any]) -> list[int]:
    xyz = np.concatenate(colors)
    return screen_codes(xyz_to_lab(xyz / max(float(xyz[:, 1].max()), 0.4)))


def _analyzed(found: Characterization, step: str, data: Measurements) -> dict[str, Any]:
    """What new measurements of a step say, before they are kept. Raises `CharacterizationError`."""
    return analysis.analyze(by_id(found.id), step, device_of(found), data)


def _keep_data(found: Characterization, step: str, sha256: str, result: dict[str, Any], live: list[int]) -> None:
    measured_at = datetime.now(UTC).isoformat(timespec="seconds")
    change_step(
        found.id, step, stale=True, state="done", data_sha256=sha256, result=result, live=live, measured_at=measured_at
    )  # fmt: skip


def load_file(found: Characterization, step: str, part: Part, file_name: str) -> Characterization:
    """Measurements from elsewhere. Raises `CharacterizationError` where they do not belong to this step."""
    _known(found, step)
    name = clean_name(file_name, "file")
    if part.bytes > MOST_BYTES:
        raise TooLargeError(f"'{name}' has {part.bytes >> 20} MB; a measurement file has at most 64.")
    check_file("measurements", part.path, name)
    data, _notes = read_measurements(part.path.read_bytes(), name)
    wanted = analysis.step_chart(found, step).inks
    if data.device.shape[1] != len(wanted):
        raise CharacterizationError(
            f"'{name}' has {data.device.shape[1]} inks, and this step is printed with {len(wanted)}: {' '.join(wanted)}."
        )
    result = _analyzed(found, step, data)
    with transaction.atomic():
        sha256 = store.keep_bytes(data.to_cgats().encode())
        _keep_data(found, step, sha256, result, screen_codes(xyz_to_lab(data.xyz)))
    return by_id(found.id)


@even_when_full
def remove(found: Characterization, author: User | None) -> None:
    """Raises `ConflictError` while it is being measured."""
    if any(step.get("state") == "measuring" for step in found.steps.values()):
        raise ConflictError(f"'{found.name}' is being measured. Wait for it, or cancel its run.")
    removals.remove([found], found.name, author, "conditions")


def ask_to_build(
    found: Characterization, wanted: dict[str, Any], user: User | None, light: Illuminant = "D50",
    smoothing: float | None = None,
) -> Run:  # fmt: skip
    """Queue the profile, for prints under a light, of a fit that is smoothed so much (None: as patches kept back say).

    Raises `CharacterizationError` before the chart is measured, and where its colors are not known under that light.
    """
    if found.steps.get("build", {}).get("state") == "measuring":
        raise ConflictError("The profile is being built. Wait for it, or cancel its run.")
    device = device_of(found)
    data = analysis.measured(found, "measure", device)
    if light != "D50":
        if device is not None and device.lights:
            raise CharacterizationError(
                "It is built for the light of its panel, which is chosen at the step of the light."
            )
        data = under_light(data, illuminant_power(light))
    calibration = analysis.calibration_so_far(found, "build")
    settings = {"name": found.name} | wanted
    # Refused now, not in the background.
    black = usual_black(tuple(found.inks))
    usual = BuildSettings(found.name, InkLimits(analysis.total_of(found)), black).to_json()
    build_settings_from_json(usual | settings)
    fit = {"light": light, "smoothing": smoothing}
    return _queue_build(found, wanted, settings, fit, data, calibration, user)


@transaction.atomic
def _queue_build(
    found: Characterization, wanted: dict[str, Any], settings: dict[str, Any], fit: dict[str, Any], data: Measurements,
    calibration: Calibration | None, user: User | None,
) -> Run:  # fmt: skip
    run = Run.objects.create(
        kind="profile", artwork_name=found.name, condition_name=str(settings["name"])[:120],
        file_name=f"{str(settings['name'])[:100]}.icc", asked_by=user,
        source_sha256=store.keep_bytes(data.to_cgats().encode()),
        recipe={
            "characterization": found.id, "settings": settings, "fit": fit,
            "calibration": calibration.to_json() if calibration else None,
        },
    )  # fmt: skip
    change_step(found.id, "build", unless="measuring", state="measuring", settings=wanted | fit, run_id=run.id)
    return enqueue(run)


def before_entering(run: Run, condition: Condition) -> None:
    """A condition that a characterization led to is of its device and on its medium."""
    found = _of(run)
    if found is None:
        return
    device = device_of(found)
    if device is not None:
        condition.process = device.process
    condition.medium = found.medium


def entered(run: Run, condition: Condition) -> None:
    """The profile is there: the step is done, and judging it comes next."""
    found = _of(run)
    if found is None:
        return
    found = change_step(found.id, "build", stale=True, state="done", result={"slug": condition.slug})
    found.condition = condition
    found.save(update_fields=["condition"])
    change_step(found.id, "judge", state="open", result={"slug": condition.slug})


def _of(run: Run) -> Characterization | None:
    return Characterization.objects.filter(id=run.recipe.get("characterization")).first()


def ended(run: Run) -> None:
    """A run of a step failed or was cancelled: the step can be asked for again."""
    step = run.recipe.get("step") or "build"
    found = _of(run)
    if found is not None and found.steps.get(step, {}).get("state") == "measuring":
        change_step(found.id, step, state="open", live=[])


def judge(found: Characterization, user: User | None) -> Characterization:
    """The profile is trusted from now on. Raises `CharacterizationError` while there is none."""
    if found.condition is None:
        raise CharacterizationError("There is no profile yet. Build it first.")
    library.set_status(found.condition, "trusted", history.version_of(library.CONDITION, found.condition.slug), user)
    return change_step(found.id, "judge", state="done")


MEASURING = Kind(KIND, measure, ended=ended)
