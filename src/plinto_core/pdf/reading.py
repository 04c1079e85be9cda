"""Values of a document's objects, each of the kind that belongs there or refused in words."""

import re
from typing import Any

import numpy as np
import pikepdf
from numpy.typing import NDArray

from plinto_core.errors import DocumentError

Array = NDArray[np.float64]
#: pikepdf begins what it says with where the file lies, and what it was opened from.
_PLACE = re.compile(r"^(?:/.*?|stream <.*?>)(?= \(|: )(?: \((?P<at>[^)]*)\))?(?:: )?")


def cause(error: Exception) -> str:
    """What an error of pikepdf says, without where the file lies: that is nobody's business who sent it."""
    return _PLACE.sub(lambda found: f"{found['at']}: " if found["at"] else "", str(error))


def numbers(found: Any, what: str, count: int = 0) -> Array:
    """An array object as numbers, `count` of them (0: at least one). Raises `DocumentError`."""
    if not isinstance(found, pikepdf.Array) or not len(found):
        raise DocumentError(f"{what} is missing")
    try:
        out = np.array([float(each) for each in found])
    except (TypeError, ValueError) as error:
        raise DocumentError(f"{what} has values that are no numbers") from error
    if not np.isfinite(out).all():
        raise DocumentError(f"{what} has values that are no numbers")
    if count and len(out) != count:
        raise DocumentError(f"{what} has {len(out)} values in place of {count}")
    return out


def pairs(found: Any, what: str, count: int = 0) -> Array:
    """As `numbers`, two by two (n, 2); `count` pairs."""
    out = numbers(found, what, 2 * count)
    if len(out) % 2:
        raise DocumentError(f"{what} has a value without its pair")
    return out.reshape(-1, 2)


def whole(found: Any, key: str, what: str, otherwise: int | None = None) -> int:
    """A whole number of a dictionary; `otherwise` where it is not there. Raises `DocumentError`."""
    value = found.get(key, otherwise)
    try:
        return int(value)
    except (TypeError, ValueError, OverflowError) as error:
        raise DocumentError(f"{what} has no {key[1:]} that is a number") from error


def real(found: Any, key: str, what: str, otherwise: float) -> float:
    """A number of a dictionary. Raises `DocumentError`."""
    try:
        value = float(found.get(key, otherwise))
    except (TypeError, ValueError, OverflowError) as error:
        raise DocumentError(f"{what} has no {key[1:]} that is a number") from error
    if not np.isfinite(value):
        raise DocumentError(f"{what} has no {key[1:]} that is a number")
    return value
