"""Spot inks that a house knows by their own color, whatever a document says that they come down to."""

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.errors import PolicyError

MOST_SPOTS = 2000
#: Names of Separation spaces that are no spot inks (ISO 32000-2, 8.6.6.4), whatever a list calls a color.
NO_SPOTS = frozenset({"cyan", "magenta", "yellow", "black", "all", "none"})
_PAPER = np.array([100.0, 0.0, 0.0])
_BETWEEN = re.compile(r"[\W_]+|\bspot\b")


def spot_key(name: str) -> str:
    """What two spellings of an ink's name have in common: 'Lake green, spot' and 'LAKE_GREEN' are one."""
    return " ".join(_BETWEEN.sub(" ", name.casefold().replace("_", " ")).split())


@dataclass(frozen=True)
class Spot:
    """A spot ink: its name, and L*, a*, b* of its solid as Lab in a document is meant (paper is L* 100)."""

    name: str
    lightness: float
    a: float
    b: float

    def __post_init__(self) -> None:
        if not (spot_key(self.name) and len(self.name) <= 200):
            raise PolicyError("A spot ink needs a name of 1 to 200 letters.")
        if not (0 <= self.lightness <= 100 and abs(self.a) <= 128 and abs(self.b) <= 128):
            raise PolicyError(
                f"The color of '{self.name}' is none: L* of 0 to 100, a* and b* of -128 to 128 are meant."
            )

    def tints(self, values: ArrayLike) -> NDArray[np.float64]:
        """Lab (n, 3) of its tints 0…1 (n,): evenly from paper to solid, as spot color tone values are (ISO 20654:2017:
        distances in the cube roots of XYZ over white, whose differences are those of Lab)."""
        tint = np.asarray(values, np.float64)[:, None]
        return np.asarray(_PAPER + tint * (np.array([self.lightness, self.a, self.b]) - _PAPER))


def spots_of(names: Sequence[str], lab: ArrayLike) -> tuple[Spot, ...]:
    """Spots from a list of colors (Lab (n, 3)); of names that come to the same, the first. Raises `PolicyError`."""
    found: dict[str, Spot] = {}
    for name, color in zip(names, np.asarray(lab, np.float64), strict=True):
        lightness, a, b = (float(round(each, 3)) for each in color)
        found.setdefault(spot_key(name), Spot(name, min(max(lightness, 0.0), 100.0), a, b))
    return check_spots(found.values())


def check_spots(spots: Iterable[Spot]) -> tuple[Spot, ...]:
    """Each ink once, and not more than a policy holds. Raises `PolicyError`."""
    found = tuple(spots)
    if len(found) > MOST_SPOTS:
        raise PolicyError(f"A policy knows at most {MOST_SPOTS:,} spot inks, and these are {len(found):,}.")
    seen: set[str] = set()
    for each in found:
        if (key := spot_key(each.name)) in seen:
            raise PolicyError(f"The spot ink '{each.name}' is there twice.")
        seen.add(key)
    return found
