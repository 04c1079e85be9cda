"""The Plate station: what is done to each plate, as one table an ink; the ink limit holds after it."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from plinto_core.adjust.curves import apply_curve, smooth_through
from plinto_core.errors import RecipeError
from plinto_core.recipe.curve import LEAST_STEP
from plinto_core.recipe.plate import InkPlate, PlateStation

Array = NDArray[np.float64]
Codes = NDArray[np.unsignedinteger[Any]]

#: A bump rises over this many times its own height, then joins the straight line.
_BUMP_REACH = 4.0


def printed_dots(plate: InkPlate, dots: Array) -> Array:
    """Dots on the plate, 0…1, to what the press makes of them by the gain table."""
    if not plate.gain:
        return dots
    x, y = _whole_table(plate.gain)
    return np.asarray(np.clip(smooth_through(x, y)(dots), 0, 1))


def plate_dots(plate: InkPlate, dots: Array) -> Array:
    """Dots 0…1 as separated to dots on the plate."""
    out = apply_curve(plate.curve, dots)
    if plate.gain:
        x, y = _whole_table(plate.gain)
        fine = np.linspace(0, 1, 4097)
        out = np.interp(out, np.maximum.accumulate(smooth_through(x, y)(fine)), fine)
    if plate.bump_percent > 0.01:
        bump = plate.bump_percent / 100
        lifted = bump + out * (1 - 1 / _BUMP_REACH)
        # A quadratic blend into the straight line, so that the joint has no edge.
        t = np.clip(out / (_BUMP_REACH * bump), 0, 1)
        out = np.where(out > 0, np.maximum(out, lifted * (1 - t) + out * t), 0.0)
    limit = plate.smallest_percent / 100
    if plate.smallest == "raise":
        out = np.where((out > 0) & (out < limit), limit, out)
    elif plate.smallest == "cut":
        out = np.where(out < limit, 0.0, out)
    open_to = plate.shadow_percent / 100
    return np.where((out > open_to) & (dots < 1), open_to, out)


def _whole_table(gain: tuple[tuple[float, float], ...]) -> tuple[Array, Array]:
    """The pairs as fractions, with paper and solid added where they are missing."""
    x, y = (np.array(column) / 100 for column in zip(*gain, strict=True))
    if x[0] < LEAST_STEP:
        x[0] = 0.0
    else:
        x, y = np.append(0.0, x), np.append(0.0, y)
    if x[-1] > 1 - LEAST_STEP:
        x[-1] = 1.0
    else:
        x, y = np.append(x, 1.0), np.append(y, 1.0)
    return x, y


class Plates:
    """The station made ready for a condition: tables from 16-bit codes, and the limit afterwards.

    `caps` (inks,) and `total` are the ink station's limits as fractions; they hold for what comes out, in 8 and
    in 16 bit. Raises `RecipeError` for a plate the condition does not have.
    """

    def __init__(self, station: PlateStation, inks: tuple[str, ...], caps: Array, total: float) -> None:
        unknown = sorted({plate.ink for plate in station.plates} - set(inks))
        if unknown:
            raise RecipeError(f"There is no plate {', '.join(unknown)} here; the plates are {', '.join(inks)}.")
        by_ink = {plate.ink: plate for plate in station.plates}
        self._settings = [by_ink.get(ink, InkPlate(ink)) for ink in inks]
        self._caps, self._total = caps, total
        self.has_gain = any(plate.gain for plate in self._settings)
        dots = np.linspace(0, 1, 65536)
        self._tables = np.stack(
            [np.minimum(plate_dots(p, dots), cap) for p, cap in zip(self._settings, caps, strict=True)]
        )

    def apply(self, codes: Codes, depth: int) -> Codes:
        """16-bit codes (..., inks) as separated to codes of `depth` bits on the plates."""
        from plinto_core.plate.plate_kernels import through_plates

        kind = np.uint8 if depth == 8 else np.uint16
        top = int(np.iinfo(kind).max)
        tables = np.minimum(np.rint(self._tables * top), np.floor(self._caps * top + 1e-6)[:, None]).astype(np.int64)
        floors = np.array([_code(p, "raise", top) for p in self._settings], np.int64)
        cuts = np.array([_code(p, "cut", top) for p in self._settings], np.int64)
        out: Codes = np.empty(codes.shape, kind)
        inks = codes.shape[-1]
        flat = np.ascontiguousarray(codes).reshape(-1, inks)
        through_plates(flat, tables, floors, cuts, int(np.floor(self._total * top + 1e-6)), out.reshape(-1, inks))
        return out

    def after_press_gain(self, codes: Codes) -> Codes:
        """Plate codes (..., inks) to the codes whose print, by the condition's data, looks like this press's."""
        if not self.has_gain:
            return codes
        top = int(np.iinfo(codes.dtype).max)
        dots = np.linspace(0, 1, top + 1)
        tables = np.stack([np.rint(printed_dots(plate, dots) * top) for plate in self._settings]).astype(codes.dtype)
        return np.stack([tables[k][codes[..., k]] for k in range(codes.shape[-1])], axis=-1)

    def curve(self, ink_index: int, points: int = 101) -> Array:
        """Dots on the plate for `points` even dots 0…1, to be drawn."""
        return np.asarray(self._tables[ink_index][np.linspace(0, 65535, points).astype(np.int64)])


def _code(plate: InkPlate, way: str, top: int) -> int:
    return int(np.ceil(plate.smallest_percent / 100 * top - 1e-6)) if plate.smallest == way else 0
