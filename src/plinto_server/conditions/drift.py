"""Conditions over time: control strips held against aims within tolerances."""

from dataclasses import asdict
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import numpy as np
from django.core.files.uploadedfile import UploadedFile
from pydantic import TypeAdapter

from plinto_core.errors import CharacterizationError
from plinto_core.press.cgats import read_measurements
from plinto_core.press.chart import strip_chart
from plinto_core.press.drift import Drift, Tolerances, measure_drift
from plinto_core.press.ink_names import NAMES
from plinto_core.press.measurements import Measurements
from plinto_server import store
from plinto_server.conditions.models import Condition, StripReading
from plinto_server.devices import Device, devices
from plinto_server.errors import MissingError

MOST_BYTES = 8 << 20


def tolerances_of(condition: Condition) -> Tolerances:
    """The condition's own, or the usual ones."""
    return TypeAdapter(Tolerances).validate_python(condition.tolerances)


def set_tolerances(condition: Condition, tolerances: Tolerances) -> Condition:
    """Change them; strips measured before are judged anew. Raises `CharacterizationError`."""
    values = asdict(tolerances)
    if any(not 0.1 <= value <= 50 for value in values.values()):
        raise CharacterizationError("A tolerance is 0.1 to 50 ΔE00.")
    condition.tolerances = values
    condition.save(update_fields=["tolerances"])
    for strip in condition.strips.all():
        data, _notes = read_measurements(store.path_of(strip.data_sha256).read_bytes(), strip.file_name)
        strip.drift = asdict(_compare(condition, data))
        strip.save(update_fields=["drift"])
    return condition


def _compare(condition: Condition, data: Measurements) -> Drift:
    from plinto_server.bench import engine

    return measure_drift(data, engine.core_condition(condition).model, tolerances_of(condition))


def take_strip(condition: Condition, upload: "UploadedFile[bytes]") -> StripReading:
    """A measured strip from a file. Raises `CharacterizationError`."""
    name = Path(upload.name or "strip").name[:120]
    if upload.size is not None and upload.size > MOST_BYTES:
        raise CharacterizationError(f"'{name}' has {upload.size >> 20} MB; a control strip has a few kB.")
    data, _notes = read_measurements(upload.read(), name)
    return keep(condition, data, name)


def keep(condition: Condition, data: Measurements, name: str, at: datetime | None = None) -> StripReading:
    """Compare and keep."""
    found = _compare(condition, data)
    sha256 = store.keep_chunks([data.to_cgats().encode()])
    return StripReading.objects.create(
        condition=condition,
        measured_at=at or datetime.now(UTC),
        file_name=name,
        data_sha256=sha256,
        drift=asdict(found),
    )


def device_for(condition: Condition) -> Device | None:
    """The device that prints this condition, where the house has it and its prints are looked at."""
    return next((d for d in devices() if d.slug == condition.slug and not d.lights), None)


def measure_strip(condition: Condition) -> StripReading:
    """Print a strip on the condition's device and measure it now. Raises `MissingError` where there is none."""
    device = device_for(condition)
    if device is None:
        raise MissingError(f"No device prints '{condition.name}'. Load a measured strip as a file.")
    inks = tuple(condition.inks)
    asked = strip_chart(inks)
    parts = list(device.read(asked, run=condition.strips.count() + 1))
    names = tuple(NAMES.get(ink, ink) for ink in inks)
    spectra, xyz = (np.concatenate(each) for each in zip(*parts, strict=True))
    return keep(condition, Measurements(names, asked, xyz, spectra, f"{condition.name} strip"), device.name)


def last_of(condition: Condition) -> dict[str, Any] | None:
    """The latest strip in short: when, mean, whether it is within, and what is not."""
    strip = condition.strips.last()
    if strip is None:
        return None
    return {
        "measured_at": strip.measured_at, "mean": strip.drift["mean"], "within": strip.drift["within"],
        "broken": strip.drift["broken"],
    }  # fmt: skip


def forget(condition: Condition, strip_id: int) -> None:
    """Raises `MissingError`."""
    if not condition.strips.filter(id=strip_id).delete()[0]:
        raise MissingError("This reading is not here any more.")
