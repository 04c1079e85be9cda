"""Conditions over time: control strips held against aims within tolerances."""

from dataclasses import asdict
from datetime import UTC, datetime

import numpy as np
from django.contrib.auth.models import User
from django.db import transaction
from pydantic import TypeAdapter

from plinto_core.errors import CharacterizationError
from plinto_core.inks.names import NAMES
from plinto_core.measurement.cgats import read_measurements
from plinto_core.measurement.chart import strip_chart
from plinto_core.measurement.measurements import Measurements
from plinto_core.profiling.drift import Drift, Tolerances, measure_drift, within
from plinto_core.sandbox.client import check_file
from plinto_server.conditions import library
from plinto_server.conditions.models import Condition, StripReading
from plinto_server.devices import Device, devices
from plinto_server.errors import MissingError
from plinto_server.files import store
from plinto_server.files.space import even_when_full
from plinto_server.files.store import Part
from plinto_server.intake.names import clean_name
from plinto_server.removals import bin as removals
from plinto_server.warm import shelves

MOST_BYTES = 8 << 20


def tolerances_of(condition: Condition) -> Tolerances:
    """The condition's own, or the usual ones."""
    return TypeAdapter(Tolerances).validate_python(condition.tolerances)


@transaction.atomic
def set_tolerances(condition: Condition, tolerances: Tolerances, version: int, author: User | None) -> Condition:
    """Change them; strips measured before are judged anew. Raises `CharacterizationError`, `ConflictError`."""
    values = asdict(tolerances)
    if any(not 0.1 <= value <= 50 for value in values.values()):
        raise CharacterizationError("A tolerance is 0.1 to 50 ΔE00.")
    condition = library.locked(condition, version)
    before = library.facts(condition)
    condition.tolerances = values
    condition.save(update_fields=["tolerances"])
    judge_anew(condition)
    library.record(condition, before, author)
    return condition


def judge_anew(condition: Condition) -> None:
    """Hold every strip against the condition's tolerances again; how far off they are has not changed."""
    tolerances = tolerances_of(condition)
    for strip in condition.strips.all():
        strip.drift = asdict(within(Drift(**strip.drift), tolerances))
        strip.save(update_fields=["drift"])


def _compare(condition: Condition, data: Measurements) -> Drift:
    return measure_drift(data, shelves.condition(condition.profile_sha256).model, tolerances_of(condition))


def take_strip(condition: Condition, part: Part, file_name: str) -> StripReading:
    """A measured strip from a file. Raises `CharacterizationError`."""
    name = clean_name(file_name, "strip")
    if part.bytes > MOST_BYTES:
        raise CharacterizationError(f"'{name}' has {part.bytes >> 20} MB; a control strip has a few kB.")
    check_file("measurements", part.path, name)
    data, _notes = read_measurements(part.path.read_bytes(), name)
    return keep(condition, data, name)


def keep(condition: Condition, data: Measurements, name: str, at: datetime | None = None) -> StripReading:
    """Compare and keep."""
    found = _compare(condition, data)
    with transaction.atomic():
        return StripReading.objects.create(
            condition=condition,
            measured_at=at or datetime.now(UTC),
            file_name=name,
            data_sha256=store.keep_bytes(data.to_cgats().encode()),
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
    return keep(
        condition, Measurements(names, asked, xyz, spectra, f"{condition.name} strip", device.provenance), device.name
    )


@even_when_full
def forget(condition: Condition, strip_id: int, author: User | None) -> None:
    """Raises `MissingError`."""
    found = condition.strips.filter(id=strip_id).first()
    if found is None:
        raise MissingError("This reading is not here any more.")
    removals.remove([found], f"A strip of {condition.name}", author, "conditions")
