"""The library: what is known and decided about a condition, and the media it is printed on."""

from collections.abc import Callable
from dataclasses import asdict, dataclass, replace
from typing import Any, Literal

from django.contrib.auth.models import User
from django.db import transaction

from plinto_core.analysis.cost import InkCost
from plinto_core.errors import CharacterizationError
from plinto_core.inks.drive import driven_by_rgb
from plinto_core.recipe import Recipe, recipe_from_json
from plinto_core.recipe.plate import PlateStation
from plinto_server.conditions.models import Condition, Medium
from plinto_server.conditions.print_mode import PrintMode
from plinto_server.errors import ConflictError, MissingError
from plinto_server.files.space import even_when_full
from plinto_server.records import history
from plinto_server.removals import bin as removals

_LARGEST_SMALLEST_DOT = 20.0
CONDITION, MEDIUM = "condition", "medium"
Status = Literal["draft", "trusted", "out of date"]
Plain = dict[str, Any]


@dataclass(frozen=True)
class MediumData:
    """A medium as it is bought: width in mm, length in m, price of the roll or sheet."""

    name: str
    width_mm: float
    length_m: float
    price: float
    currency: str = "EUR"


def medium_by_id(medium_id: int) -> Medium:
    """Raises `MissingError`."""
    found = Medium.objects.filter(id=medium_id).first()
    if found is None:
        raise MissingError("This medium is not here any more. Choose another one.")
    return found


def medium_facts(medium: Medium) -> Plain:
    """A medium as its history keeps it."""
    return {
        "name": medium.name, "width_mm": medium.width_mm, "length_m": medium.length_m, "price": medium.price,
        "currency": medium.currency,
    }  # fmt: skip


@transaction.atomic
def save_medium(data: MediumData, author: User | None, medium: Medium | None = None, version: int = 0) -> Medium:
    """A new medium, or a changed one as it was looked at. Raises `CharacterizationError`, `ConflictError`."""
    if not 1 <= len(data.name.strip()) <= 120:
        raise CharacterizationError("A medium needs a name of 1 to 120 letters.")
    if not (10 <= data.width_mm <= 10_000 and 0.01 <= data.length_m <= 50_000 and 0 <= data.price <= 1e6):
        raise CharacterizationError("A medium is 10 to 10000 mm wide, 0.01 to 50000 m long, and costs something.")
    before = None
    if medium is not None and medium.pk is not None and not medium._state.adding:
        history.check_version(MEDIUM, str(medium.pk), version)
        medium = medium_by_id(medium.pk)
        before = medium_facts(medium)
    medium = medium or Medium()
    if Medium.objects.filter(name=data.name.strip()).exclude(pk=medium.pk).exists():
        raise ConflictError(f"There is a medium '{data.name.strip()}' already. Change that one.")
    medium.name, medium.width_mm, medium.length_m = data.name.strip(), data.width_mm, data.length_m
    medium.price, medium.currency = data.price, data.currency.strip()[:8] or "EUR"
    medium.save()
    history.write(MEDIUM, str(medium.pk), medium.name, before, medium_facts(medium), author)
    return medium


@even_when_full
@transaction.atomic
def remove_medium(medium: Medium, author: User | None) -> None:
    """Conditions on it stay."""
    history.write(MEDIUM, str(medium.pk), medium.name, medium_facts(medium), None, author)
    removals.remove([medium], medium.name, author, "conditions", (MEDIUM, str(medium.pk)))


def restore_medium(key: str, plain: Plain, author: User) -> None:
    """A medium as it was, made again where it was removed."""
    found = Medium.objects.filter(pk=int(key)).first() or Medium(pk=int(key))
    save_medium(MediumData(**plain), author, found, history.version_of(MEDIUM, key))


@dataclass(frozen=True)
class ConditionChange:
    """What people decide about a condition; None leaves a thing as it is, a medium of 0 takes it off."""

    name: str | None = None
    process: str | None = None
    notes: str | None = None
    total_ink_percent: float | None = None
    medium_id: int | None = None
    ink_costs: dict[str, InkCost] | None = None
    smallest_dot_percent: float | None = None
    smallest_dot: Literal["raise", "cut"] | None = None
    mode: PrintMode | None = None


def own_recipe(condition: Condition) -> Recipe:
    """What recipes for a condition start from: its limits and black, and its smallest dot on every plate."""
    recipe = recipe_from_json(condition.recipe)
    return replace(recipe, plate=held_plates(condition, recipe.plate))


def held_plates(condition: Condition, plates: PlateStation) -> PlateStation:
    """Plates with the condition's smallest dot, where they have no larger one of their own."""
    if driven_by_rgb(condition.inks):
        return plates
    treated: Literal["raise", "cut"] = "cut" if condition.smallest_dot == "cut" else "raise"
    return plates.holding(condition.inks, treated, condition.smallest_dot_percent)


def facts(condition: Condition) -> Plain:
    """What people decide about a condition, as its history keeps it."""
    return {
        "name": condition.name, "process": condition.process, "notes": condition.notes, "status": condition.status,
        "total_ink_percent": condition.total_ink_percent, "tolerances": condition.tolerances,
        "ink_costs": condition.ink_costs, "smallest_dot_percent": condition.smallest_dot_percent,
        "smallest_dot": condition.smallest_dot, "mode": condition.mode,
        "medium_id": condition.medium_id or 0, "medium": condition.medium.name if condition.medium else "",
    }  # fmt: skip


def record(condition: Condition, before: Plain | None, author: User | None) -> None:
    """Write a revision of a saved condition."""
    history.write(CONDITION, condition.slug, condition.name, before, facts(condition), author)


def locked(condition: Condition, version: int) -> Condition:
    """The condition as it is now, refused if it is not what was looked at; call it in the transaction of a change."""
    history.check_version(CONDITION, condition.slug, version)
    found = Condition.objects.select_related("medium").filter(pk=condition.pk).first()
    if found is None:
        raise MissingError(f"'{condition.name}' is not here any more.")
    return found


@transaction.atomic
def change(condition: Condition, given: ConditionChange, version: int, author: User | None) -> Condition:
    """Raises `CharacterizationError`, and `ConflictError` where somebody changed it meanwhile."""
    condition = locked(condition, version)
    before = facts(condition)
    if given.name is not None:
        if not 1 <= len(given.name.strip()) <= 120:
            raise CharacterizationError("A condition needs a name of 1 to 120 letters.")
        condition.name = given.name.strip()
    if given.process is not None:
        condition.process = given.process.strip()[:200]
    if given.notes is not None:
        condition.notes = given.notes.strip()[:4000]
    if given.total_ink_percent is not None:
        if not 50 <= given.total_ink_percent <= 100 * len(condition.inks):
            raise CharacterizationError(f"Total ink is 50 to {100 * len(condition.inks)} % here.")
        condition.total_ink_percent = given.total_ink_percent
    if given.medium_id is not None:
        condition.medium = medium_by_id(given.medium_id) if given.medium_id else None
    _decide_smallest_dot(condition, given)
    if given.mode is not None:
        condition.mode = given.mode.to_json()
    if given.ink_costs is not None:
        strange = set(given.ink_costs) - set(condition.inks)
        if strange:
            raise CharacterizationError(f"'{condition.name}' has no ink {', '.join(sorted(strange))}.")
        condition.ink_costs = {ink: asdict(each) for ink, each in given.ink_costs.items()}
    condition.save()
    record(condition, before, author)
    return condition


def _decide_smallest_dot(condition: Condition, given: ConditionChange) -> None:
    if given.smallest_dot_percent is not None:
        if not 0 <= given.smallest_dot_percent <= _LARGEST_SMALLEST_DOT:
            raise CharacterizationError(f"The minimum dot is 0 to {_LARGEST_SMALLEST_DOT:g} %.")
        condition.smallest_dot_percent = given.smallest_dot_percent
    if given.smallest_dot is not None:
        condition.smallest_dot = given.smallest_dot


@transaction.atomic
def set_status(condition: Condition, status: Status, version: int, author: User | None) -> Condition:
    """Draft, trusted or out of date. Raises `ConflictError`."""
    condition = locked(condition, version)
    before = facts(condition)
    condition.status = status
    condition.save(update_fields=["status"])
    record(condition, before, author)
    return condition


@transaction.atomic
def restore_condition(key: str, plain: Plain, author: User) -> None:
    """What was decided about a condition as it was; raises `MissingError` for one that was removed with its profile."""
    condition = Condition.objects.select_related("medium").filter(slug=key).first()
    if condition is None:
        raise MissingError("This condition was removed with its profile. Load the profile, and set it again.")
    before = facts(condition)
    condition.name, condition.process, condition.notes = plain["name"], plain["process"], plain["notes"]
    condition.status, condition.total_ink_percent = plain["status"], plain["total_ink_percent"]
    condition.medium = Medium.objects.filter(pk=plain["medium_id"]).first()
    condition.tolerances = plain["tolerances"]
    # Revisions from before there were costs, a smallest dot or a mode say nothing of them.
    condition.ink_costs = plain.get("ink_costs", condition.ink_costs)
    condition.smallest_dot_percent = plain.get("smallest_dot_percent", condition.smallest_dot_percent)
    condition.smallest_dot = plain.get("smallest_dot", condition.smallest_dot)
    condition.mode = plain.get("mode", condition.mode)
    condition.save()
    for hear in _on_tolerances:
        hear(condition)
    record(condition, before, author)


_on_tolerances: list[Callable[[Condition], None]] = []


def on_tolerances(hear: Callable[[Condition], None]) -> None:
    """Have strips judged anew where tolerances come back."""
    _on_tolerances.append(hear)
