"""What a separation costs: grams of each ink and money, of ink and of medium."""

import json
import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from plinto_core.errors import RecipeError

_MM_PER_INCH = 25.4


@dataclass(frozen=True)
class InkCost:
    """How much of an ink a solid takes (g/m², wet, as it is bought), and its price for a kilogram."""

    laydown_g_m2: float
    price_per_kg: float

    def __post_init__(self) -> None:
        for name, value, most in (("laydown", self.laydown_g_m2, 2000.0), ("price", self.price_per_kg, 1e6)):
            if not (math.isfinite(value) and 0 <= value <= most):
                raise RecipeError(f"The {name} of an ink is 0 to {most:g}, not {value}.")


@dataclass(frozen=True)
class Costs:
    """Costs of a condition: each ink's, and the medium's price for a square meter, all in one `currency`."""

    inks: Mapping[str, InkCost] = field(default_factory=dict)
    medium_per_m2: float = 0.0
    currency: str = "EUR"


@dataclass(frozen=True)
class Cost:
    """Of `copies`: the area printed, grams and money by ink, money of the medium and of everything.

    `unknown` are inks without figures, which count for nothing.
    """

    copies: int
    area_m2: float
    grams: dict[str, float]
    ink_money: dict[str, float]
    medium_money: float
    total_money: float
    currency: str
    unknown: tuple[str, ...]


def area_m2(width_px: int, height_px: int, resolution_ppi: float) -> float:
    """Square meters of a picture at a resolution. Raises `RecipeError` for one that is none."""
    if not (math.isfinite(resolution_ppi) and resolution_ppi > 0):
        raise RecipeError("Without a resolution the artwork has no size: set its pixels an inch.")
    return width_px / resolution_ppi * height_px / resolution_ppi * (_MM_PER_INCH / 1000) ** 2


def cost_of(mean_percent: Mapping[str, float], area: float, costs: Costs, copies: int = 1) -> Cost:
    """The cost of printing `area` square meters `copies` times with mean coverages (percent) by ink.

    A half tone takes as much of a solid's ink as it covers: wet laydown goes with the plate's area, dot gain comes after.
    """
    if not 1 <= copies <= 10_000_000:
        raise RecipeError("A run is of 1 to 10,000,000 copies.")
    whole = area * copies
    grams, money = {}, {}
    for ink, percent in mean_percent.items():
        known = costs.inks.get(ink)
        if known is None:
            continue
        grams[ink] = percent / 100 * whole * known.laydown_g_m2
        money[ink] = grams[ink] / 1000 * known.price_per_kg
    medium = whole * costs.medium_per_m2
    unknown = tuple(ink for ink in mean_percent if ink not in costs.inks)
    return Cost(copies, area, grams, money, medium, medium + sum(money.values()), costs.currency, unknown)


def costs_from_json(plain: Any) -> Costs:
    """Costs of a file: {"currency": "EUR", "medium_per_m2": 0.2, "inks": {"C": {"laydown_g_m2": 1.4, "price_per_kg": 22}}}.

    Raises `RecipeError`.
    """
    try:
        inks = {
            str(ink)[:100]: InkCost(float(given["laydown_g_m2"]), float(given["price_per_kg"]))
            for ink, given in dict(plain.get("inks", {})).items()
        }
        medium = float(plain.get("medium_per_m2", 0.0))
        currency = str(plain.get("currency", "EUR"))[:8]
    except (AttributeError, KeyError, TypeError, ValueError) as error:
        raise RecipeError(
            f"These are no costs ({error!r}). Each ink has 'laydown_g_m2' and 'price_per_kg', as numbers."
        ) from error
    if not (math.isfinite(medium) and 0 <= medium <= 1e6):
        raise RecipeError(f"A medium costs 0 to 1,000,000 a square meter, not {medium}.")
    return Costs(inks, medium, currency)


def costs_from_file(data: bytes, name: str) -> Costs:
    """Costs of a JSON file. Raises `RecipeError`."""
    try:
        return costs_from_json(json.loads(data))
    except (ValueError, RecursionError) as error:
        raise RecipeError(f"'{name}' is no JSON ({error}).") from error


def cost_of_sheet(sheet: Mapping[str, Any], costs: Costs, copies: int = 1) -> Cost:
    """What the separation of a run sheet costs. Raises `RecipeError` where it has no inks or no size."""
    means, artwork = sheet.get("mean_coverage_percent") or {}, sheet["artwork"]
    if not means:
        raise RecipeError("This run sheet has no coverage of inks: nothing of it can be told.")
    resolution = artwork.get("resolution_ppi")
    area = area_m2(int(artwork["width"]), int(artwork["height"]), float(resolution or 0))
    return cost_of(means, area, costs, copies)
