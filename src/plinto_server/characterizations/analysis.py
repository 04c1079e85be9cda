"""What each step prints, and what its measurements say; the core computes, this puts it into plain values."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from plinto_core.colorimetry.lab import xyz_to_lab
from plinto_core.colorimetry.spectra import illuminant_power
from plinto_core.errors import CharacterizationError
from plinto_core.inks.drive import driven_by_rgb
from plinto_core.measurement.cgats import read_measurements
from plinto_core.measurement.chart import characterization_chart, ramp_chart
from plinto_core.measurement.measurements import Array, Measurements
from plinto_core.press.calibration import Calibration, calibration_from_json
from plinto_core.profiling.backlit import Viewing, on_panel, patch_volume
from plinto_core.profiling.linearize import InkSplit, Linearized, calibrate
from plinto_core.profiling.total_ink_ramp import read_total_ink_ramp, total_ink_ramp_chart
from plinto_server.characterizations.models import Characterization
from plinto_server.devices import Device
from plinto_server.files import store

STEPS = ("light", "crossing", "linearize", "total", "chart", "measure", "build", "judge")
MEASURED = ("crossing", "linearize", "total", "measure")


@dataclass(frozen=True)
class StepChart:
    """What a step prints: `asked` (patches, inks of its own) and `printed` (patches, printed inks), 0…1."""

    inks: tuple[str, ...]
    asked: Array
    printed: Array


def steps_of(found: Characterization, device: Device | None) -> tuple[str, ...]:
    """The steps that this device needs, in order."""
    needed = {"light": bool(device and device.lights), "crossing": len(found.device_inks) > len(found.inks)}
    if driven_by_rgb(found.inks):
        # Nothing can be done to inks that are out of reach.
        needed |= {"crossing": False, "linearize": False, "total": False}
    return tuple(step for step in STEPS if needed.get(step, True))


def calibration_so_far(found: Characterization, before: str) -> Calibration | None:
    """What is printed through at a step: the latest calibration of the steps before it."""
    for step in ("linearize", "crossing"):
        if STEPS.index(step) < STEPS.index(before):
            kept = found.steps.get(step, {}).get("result", {}).get("calibration")
            if kept:
                return calibration_from_json(kept)
    return None


def step_chart(found: Characterization, step: str) -> StepChart:
    """What is to be printed for a step. Raises `CharacterizationError` for a step that prints nothing."""
    if step not in STEPS:
        raise CharacterizationError(f"There is no step '{step}'. The steps are {', '.join(STEPS)}.")
    inks, device_inks = tuple(found.inks), tuple(found.device_inks)
    if step == "crossing":
        asked = ramp_chart(len(device_inks))
        return StepChart(device_inks, asked, asked)
    behind = calibration_so_far(found, step)
    if step == "linearize":
        asked = ramp_chart(len(inks))
    elif step == "total":
        asked = total_ink_ramp_chart(inks)
    elif step in ("chart", "measure"):
        patches = int(found.steps.get("chart", {}).get("settings", {}).get("patches", 1000))
        asked = characterization_chart(len(inks), patches, min(total_of(found) + 80, 400) / 100)
    else:
        raise CharacterizationError(f"The step '{step}' prints nothing.")
    if behind is None and len(device_inks) > len(inks):
        raise CharacterizationError("Light and dark inks come first: what follows is printed through their curves.")
    return StepChart(inks, asked, behind.apply(asked) if behind else asked)


def check_chart(found: Characterization, step: str) -> StepChart:
    """Ramps of the separation's inks through what a step came to, to be looked at. Raises `CharacterizationError`."""
    kept = found.steps.get(step, {}).get("result", {}).get("calibration")
    if not kept:
        raise CharacterizationError(f"The step '{step}' has no curves yet: measure it first.")
    asked = ramp_chart(len(found.inks))
    return StepChart(tuple(found.inks), asked, calibration_from_json(kept).apply(asked))


def total_of(found: Characterization) -> float:
    """Total ink in percent: as set, as read from the staircase, or all there is."""
    step = found.steps.get("total", {})
    chosen = step.get("settings", {}).get("total_percent") or step.get("result", {}).get("enough_percent")
    return float(chosen or 100 * len(found.inks))


def measured(
    found: Characterization, step: str, device: Device | None, fresh: Measurements | None = None
) -> Measurements:  # fmt: skip
    """The step's measurements, as seen on the panel where there is one; `fresh` ones before they are kept."""
    data = fresh or kept_data(found, step)
    light = found.steps.get("light", {})
    if device and device.lights and data.spectra is not None:
        on, off = device.table_readings()
        return on_panel(data, on, off, _viewing(device, light.get("settings", {})))
    return data


def kept_data(found: Characterization, step: str) -> Measurements:
    """What was measured for a step. Raises `CharacterizationError` where nothing was."""
    sha256 = found.steps.get(step, {}).get("data_sha256", "")
    if not sha256:
        raise CharacterizationError(f"The step '{step}' has not been measured yet.")
    return read_measurements(store.path_of(sha256).read_bytes(), f"{found.name} {step}")[0]


def _viewing(device: Device, settings: dict[str, Any]) -> Viewing:
    name = settings.get("panel") or next(iter(device.lights))
    panel = device.lights.get(name)
    if panel is None:
        raise CharacterizationError(f"There is no panel '{name}' here; choose {', '.join(device.lights)}.")
    return Viewing(panel, float(settings.get("ambient_percent", 0)) / 100)


def analyze(
    found: Characterization, step: str, device: Device | None, fresh: Measurements | None = None
) -> dict[str, Any]:  # fmt: skip
    """The result of a step from its measurements (or `fresh` ones) and settings, as plain values."""
    settings = found.steps.get(step, {}).get("settings", {})
    if step == "light":
        return _lights(found, device)
    if step not in MEASURED:
        return {}
    data = measured(found, step, device, fresh)
    if step == "total":
        read = read_total_ink_ramp(data)
        return {"steps": [list(row) for row in read.steps], "enough_percent": read.enough_percent}
    if step == "measure":
        return {"patches": len(data.device), "substrate_lab": xyz_to_lab(data.substrate_xyz).round(2).tolist()}
    behind = calibration_so_far(found, step)
    crossings = {ink: InkSplit(*values) for ink, values in settings.get("crossings", {}).items()}
    caps = {ink: value / 100 for ink, value in settings.get("caps", {}).items()}
    made, lines = calibrate(data, crossings, caps, settings.get("gain_percent"), behind)
    return {
        "calibration": made.to_json(),
        "ramps": {ink: _ramp(line) for ink, line in lines.items()},
        "caps": {ink: round(line.cap * 100, 1) for ink, line in lines.items()},
        "bulges": {ink: round(line.bulge_share * 100, 2) for ink, line in lines.items()},
        "advice": [line.advice for line in lines.values() if line.advice],
    }


def _ramp(line: Linearized) -> list[list[float]]:
    ramp = line.ramp
    return [
        [round(float(dot) * 100, 1), round(float(density), 4), round(float(L), 2)]
        for dot, density, L in zip(ramp.dots, ramp.density, ramp.lab[:, 0], strict=True)
    ]


def _lights(found: Characterization, device: Device | None) -> dict[str, Any]:
    """What each panel leaves of the gamut, read off the patches that were measured last; D50 in the dark is 100 %."""
    if device is None or not device.lights:
        return {}
    step = next(
        (each for each in ("measure", "linearize", "crossing") if found.steps.get(each, {}).get("data_sha256")), ""
    )
    if not step:
        return {"panels": dict.fromkeys(device.lights)}
    data = kept_data(found, step)
    on, off = device.table_readings()
    share = float(found.steps.get("light", {}).get("settings", {}).get("ambient_percent", 0)) / 100
    aim = patch_volume(on_panel(data, on, off, Viewing(illuminant_power("D50"))).xyz)
    volumes = {
        name: patch_volume(on_panel(data, on, off, Viewing(np.asarray(light), share)).xyz) / aim * 100
        for name, light in device.lights.items()
    }
    return {"panels": {name: round(value, 1) for name, value in volumes.items()}}
