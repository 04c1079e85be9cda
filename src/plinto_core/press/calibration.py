"""What a printer does to inks after separation: caps, linearization, and light inks beside dark ones."""

import json
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plinto_core.errors import CharacterizationError
from plinto_core.icc.profile import Profile
from plinto_core.icc.values import Text
from plinto_core.plain import read_plain

Array = NDArray[np.float64]

#: Where a calibration travels in a profile: a private tag, JSON as text.
CALIBRATION_TAG = "PLcl"
_NAME_LETTERS = 32
#: Eight inks with light twins take about 20,000.
_TAG_LETTERS = 1 << 18
#: Points of a curve, evenly over 0…1.
POINTS = 65


@dataclass(frozen=True)
class InkCurve:
    """One ink of a separation: `dark` dots 0…1 at 65 even steps, and of its `light` twin where it has one."""

    ink: str
    dark: tuple[float, ...]
    light_ink: str = ""
    light: tuple[float, ...] = ()

    def __post_init__(self) -> None:
        for curve in (self.dark, self.light) if self.light_ink else (self.dark,):
            if len(curve) != POINTS or not all(0 <= value <= 1 for value in curve):
                raise CharacterizationError(
                    f"The curve of ink {self.ink[:20]} needs {POINTS} values between 0 and 1; it has {len(curve)}, "
                    "or some that are none. Calibrate again."
                )
        for name in (self.ink, self.light_ink):
            if len(name) > _NAME_LETTERS or not name.isprintable() or set(name) & set('/\\:*?"<>|'):
                raise CharacterizationError(
                    f"An ink of the calibration is called {name[:40]!r}: a name has at most {_NAME_LETTERS} letters and "
                    "no signs of a path."
                )


@dataclass(frozen=True)
class Calibration:
    """Curves of all inks of a separation, in its order."""

    curves: tuple[InkCurve, ...]

    @property
    def inks(self) -> tuple[str, ...]:
        """Letters of the inks of a separation."""
        return tuple(curve.ink for curve in self.curves)

    @property
    def device_inks(self) -> tuple[str, ...]:
        """Letters of the inks that the printer has: every ink, each followed by its light twin."""
        return tuple(ink for curve in self.curves for ink in (curve.ink, curve.light_ink) if ink)

    def apply(self, inks: ArrayLike) -> Array:
        """Inks 0…1 (..., inks) of a separation to what is printed, 0…1 (..., printed inks)."""
        values = np.asarray(inks, np.float64)
        steps = np.linspace(0, 1, POINTS)
        printed = []
        for at, curve in enumerate(self.curves):
            printed.append(np.interp(values[..., at], steps, curve.dark))
            if curve.light_ink:
                printed.append(np.interp(values[..., at], steps, curve.light))
        return np.stack(printed, axis=-1)

    def apply_codes(self, codes: NDArray[np.integer[Any]]) -> NDArray[np.integer[Any]]:
        """Ink codes (..., inks) of 8 or 16 bit to the codes that are printed (..., printed inks), of the same depth."""
        top = np.iinfo(codes.dtype).max
        every = np.repeat(np.linspace(0, 1, top + 1)[:, None], len(self.curves), axis=1)
        # One table an ink: rounded down, so that a cap is never passed.
        tables = np.floor(self.apply(every) * top + 1e-6).astype(codes.dtype)
        source = [at for at, curve in enumerate(self.curves) for ink in (curve.ink, curve.light_ink) if ink]
        return np.stack([tables[codes[..., at], out] for out, at in enumerate(source)], axis=-1)

    def to_json(self) -> dict[str, Any]:
        """Plain values."""
        return asdict(self)


def calibration_from_json(plain_values: object) -> Calibration:
    """Raises `CharacterizationError` saying where it cannot be read."""
    return read_plain(Calibration, plain_values, "The calibration", CharacterizationError, strict=False)


def calibration_of(profile: Profile) -> Calibration | None:
    """The calibration that a profile was built behind, which its separations are printed through; None where there is
    none that fits. Whatever else lies in that tag never raises."""
    try:
        return checked_calibration(profile)
    except CharacterizationError:
        return None


def checked_calibration(profile: Profile) -> Calibration | None:
    """The same for a profile that comes in: raises `CharacterizationError` where the tag holds a calibration that cannot
    be used. A private tag of somebody else's is none."""
    tag = profile.tags.get(CALIBRATION_TAG)
    if not isinstance(tag, Text) or len(tag.text) > _TAG_LETTERS:
        return None
    try:
        plain = json.loads(tag.text)
    except (ValueError, RecursionError):
        return None
    if not isinstance(plain, dict) or "curves" not in plain:
        return None
    found = calibration_from_json(plain)
    if len(found.curves) != profile.header.channels:
        raise CharacterizationError(
            f"The calibration in '{profile.name}' has curves for {len(found.curves)} inks, and the profile has "
            f"{profile.header.channels}. Build the profile again behind its whole calibration."
        )
    return found


def calibration_tag(calibration: Calibration) -> Text:
    """The tag's value."""
    curves = [
        {k: [round(v, 6) for v in value] if isinstance(value, tuple) else value for k, value in asdict(c).items()}
        for c in calibration.curves
    ]
    return Text(json.dumps({"curves": curves}))
