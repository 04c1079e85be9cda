"""What a separation may use of each ink and of all together."""

import numpy as np
from numpy.typing import NDArray

from plinto_core.errors import RecipeError
from plinto_core.recipe.black import BlackPolicy
from plinto_core.recipe.limits import InkLimits

Array = NDArray[np.float64]


def ink_caps(limits: InkLimits, inks: tuple[str, ...]) -> Array:
    """Largest value (inks,) 0…1 of each ink. RecipeError for a letter the condition does not have."""
    given = dict(limits.per_ink_percent)
    unknown = sorted(given.keys() - set(inks))
    if unknown:
        raise RecipeError(f"There is no ink {', '.join(unknown)} here; this condition has {', '.join(inks)}.")
    return np.array([given.get(ink, 100.0) / 100 for ink in inks])


def caps_and_total(limits: InkLimits, black: BlackPolicy, inks: tuple[str, ...]) -> tuple[Array, float]:
    """Largest value (inks,) 0…1 of each ink, black's policy counted, and of their sum. Raises as `ink_caps`."""
    caps = ink_caps(limits, inks)
    if "K" in inks:
        # "Black at most" is a cap on the ink, not only on the wish for it.
        at = inks.index("K")
        caps[at] = min(caps[at], black.maximum_percent / 100)
    return caps, min(limits.total_percent / 100, float(len(inks)))
