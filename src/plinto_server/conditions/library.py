"""The library: what is known and decided about a condition, and the media it is printed on."""

from dataclasses import dataclass

from django.db import IntegrityError

from plinto_core.errors import CharacterizationError
from plinto_server.conditions.models import Condition, Medium
from plinto_server.errors import ConflictError, MissingError


@dataclass(frozen=True)
class MediumWish:
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


def save_medium(wish: MediumWish, medium: Medium | None = None) -> Medium:
    """A new medium, or a changed one. Raises `CharacterizationError`, `ConflictError`."""
    if not 1 <= len(wish.name.strip()) <= 120:
        raise CharacterizationError("A medium needs a name of 1 to 120 letters.")
    if not (10 <= wish.width_mm <= 10_000 and 0.01 <= wish.length_m <= 50_000 and 0 <= wish.price <= 1e6):
        raise CharacterizationError("A medium is 10 to 10000 mm wide, 0.01 to 50000 m long, and costs something.")
    medium = medium or Medium()
    medium.name, medium.width_mm, medium.length_m = wish.name.strip(), wish.width_mm, wish.length_m
    medium.price, medium.currency = wish.price, wish.currency.strip()[:8] or "EUR"
    try:
        medium.save()
    except IntegrityError as error:
        raise ConflictError(f"There is a medium '{medium.name}' already. Change that one.") from error
    return medium


@dataclass(frozen=True)
class ConditionWish:
    """What people decide about a condition; None leaves a thing as it is, a medium of 0 takes it off."""

    name: str | None = None
    process: str | None = None
    notes: str | None = None
    total_ink_percent: float | None = None
    medium_id: int | None = None


def change(condition: Condition, wish: ConditionWish) -> Condition:
    """Raises `CharacterizationError`."""
    if wish.name is not None:
        if not 1 <= len(wish.name.strip()) <= 120:
            raise CharacterizationError("A condition needs a name of 1 to 120 letters.")
        condition.name = wish.name.strip()
    if wish.process is not None:
        condition.process = wish.process.strip()[:200]
    if wish.notes is not None:
        condition.notes = wish.notes.strip()[:4000]
    if wish.total_ink_percent is not None:
        if not 50 <= wish.total_ink_percent <= 100 * len(condition.inks):
            raise CharacterizationError(f"Total ink is 50 to {100 * len(condition.inks)} % here.")
        condition.total_ink_percent = wish.total_ink_percent
    if wish.medium_id is not None:
        condition.medium = medium_by_id(wish.medium_id) if wish.medium_id else None
    condition.save()
    return condition
