"""Conditions from a supplier's numbers: seen while they are typed, made by a run, moved by a few measured patches."""

from dataclasses import dataclass

from django.contrib.auth.models import User
from django.db import transaction

from plinto_core.analysis.cloud import screen_codes
from plinto_core.colorimetry.lab import xyz_to_lab
from plinto_core.errors import CharacterizationError
from plinto_core.gamut.volume import hull, volume
from plinto_core.measurement.cgats import read_measurements
from plinto_core.measurement.chart import chart_text, correction_chart
from plinto_core.press.corrected import corrected
from plinto_core.press.from_inks import (
    InkNumbers,
    in_order,
    ink_numbers_from_json,
    ink_numbers_to_json,
    model_from_inks,
    primaries_of,
)
from plinto_core.profiling.judge import gamut_of
from plinto_core.sandbox.client import check_file
from plinto_server.conditions.models import Condition
from plinto_server.conditions.service import Gamut
from plinto_server.files import store
from plinto_server.files.store import Part
from plinto_server.intake.names import clean_name
from plinto_server.jobs.models import Run
from plinto_server.jobs.queue import enqueue

MADE_FROM = "numbers"
#: Inks whose gamut is a body, and is drawn within a second or two.
_SOLID, _QUICK = 3, 6


@dataclass(frozen=True)
class Solid:
    """Paper, a solid or an overprint: ICC-absolute Lab, as a screen shows it, and whether it was given or predicted."""

    inks: str
    lab: list[float]
    swatch: str
    given: bool


@dataclass(frozen=True)
class NumbersLook:
    """What numbers come to: every solid and overprint of two inks, and the gamut without an ink limit (three to six inks:
    fewer span no body, more take too long while one types). `numbers` are as they were read."""

    numbers: InkNumbers
    inks: list[str]
    solids: list[Solid]
    missing: list[str]
    gamut: Gamut | None


def _gamut(numbers: InkNumbers) -> Gamut:
    edge = gamut_of(model_from_inks(numbers))
    drawn = hull(edge)
    return Gamut(
        "numbers", numbers.name, drawn.points.round(2).tolist(), screen_codes(drawn.points), drawn.triangles.tolist(),
        drawn.wires.tolist(), volume(edge), 1.0,
    )  # fmt: skip


def look(numbers: InkNumbers) -> NumbersLook:
    """What numbers come to. Raises `CharacterizationError`."""
    inks = in_order(numbers.solids)
    primaries = xyz_to_lab(primaries_of(numbers))
    codes = screen_codes(primaries)
    given = {frozenset(numbers.inks_in(key)) for key in numbers.overprints}
    solids = []
    for at, lab in enumerate(primaries):
        present = [ink for index, ink in enumerate(inks) if at >> (len(inks) - 1 - index) & 1]
        if len(present) <= 2 or frozenset(present) in given:
            known = len(present) < 2 or frozenset(present) in given
            solids.append(Solid("+".join(present), lab.round(1).tolist(), f"#{codes[at]:06x}", known))
    solids.sort(key=lambda each: each.inks.count("+") + bool(each.inks))
    gamut = _gamut(numbers) if _SOLID <= len(inks) <= _QUICK else None
    return NumbersLook(numbers, list(inks), solids, list(numbers.missing_overprints), gamut)


@transaction.atomic
def ask(
    numbers: InkNumbers, total_ink_percent: float | None, user: User | None, part: Part | None = None,
    file_name: str = "",
) -> Run:  # fmt: skip
    """A run that makes a condition of numbers, moved by measured patches (`part`) where there are any."""
    if not numbers.name.strip():
        raise CharacterizationError("Give the condition a name.")
    run = Run.objects.create(
        kind="profile", artwork_name=file_name or MADE_FROM, condition_name=numbers.name[:120],
        file_name=f"{clean_name(numbers.name, 'condition')[:100]}.icc", asked_by=user,
        source_sha256=store.keep(part) if part else "",
        recipe={
            "intake": "numbers", "numbers": ink_numbers_to_json(numbers), "total_ink_percent": total_ink_percent,
        },
    )  # fmt: skip
    return enqueue(run)


def numbers_of(condition: Condition) -> InkNumbers:
    """The numbers that a condition comes from. Raises `CharacterizationError` for one that does not."""
    plain = condition.report.get("from_numbers")
    if not plain:
        raise CharacterizationError(f"'{condition.name}' does not come from numbers.")
    return ink_numbers_from_json(plain)


def correct(condition: Condition, part: Part, file_name: str, user: User | None) -> Run:
    """A run that makes a condition of the same numbers moved by measured patches; this one stays as it is.

    Raises `PlintoError` for patches that do not fit; nothing is kept then.
    """
    numbers, name = numbers_of(condition), clean_name(file_name, "patches")
    check_file("measurements", part.path, name)
    measured, _notes = read_measurements(part.path.read_bytes(), name)
    corrected(numbers, measured)
    named = {**ink_numbers_to_json(numbers), "name": f"{condition.name}, corrected"[:120]}
    return ask(ink_numbers_from_json(named), condition.total_ink_percent, user, part, name)


def patches_for(condition: Condition) -> str:
    """The chart of a few patches that correct a condition most, as CGATS text to be printed and measured."""
    inks = tuple(condition.inks)
    return chart_text(correction_chart(inks), inks)
