"""What the operator chose, station by station: frozen, versioned, to and from JSON. Nothing here computes."""

from plinto_core.recipe.formats import Format
from plinto_core.recipe.recipe import (
    NAME_FIELDS,
    RECIPE_VERSION,
    AdjustStation,
    AimStation,
    Compression,
    DeliverStation,
    InkStation,
    Intent,
    Method,
    NegativeSettings,
    Recipe,
    SourceStation,
    canonical_digest,
    recipe_from_json,
)

__all__ = [
    "NAME_FIELDS", "RECIPE_VERSION", "AdjustStation", "AimStation", "Compression", "DeliverStation", "Format",
    "InkStation", "Intent", "Method", "NegativeSettings", "Recipe", "SourceStation", "canonical_digest", "recipe_from_json",
]  # fmt: skip
