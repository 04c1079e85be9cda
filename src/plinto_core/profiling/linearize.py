"""Linearization: where an ink's density stops rising, how even its ramp is, and the curve that makes it even."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.lab import xyz_to_lab
from plinto_core.errors import CharacterizationError
from plinto_core.inks.names import letters_of, light_twin
from plinto_core.measurement.measurements import Measurements
from plinto_core.press.calibration import POINTS, Calibration, InkCurve

Array = NDArray[np.float64]

#: Density that must still be gained for more ink to be worth it, and how far a point may fall back (tone, fraction).
_DENSITY_GAIN = 0.02
_RAGGED, _MOST_BULGE = 0.015, 0.03


@dataclass(frozen=True)
class Ramp:
    """One ink alone, paper to solid: `dots` (n,) 0…1 as printed; `density` (n,) above paper in the component it
    absorbs most; `arc_length_delta_e` (n,) the length of the way through Lab (ΔE*ab) from paper; `lab`
    (n, 3) as measured."""

    ink: str
    dots: Array
    density: Array
    arc_length_delta_e: Array
    lab: Array


@dataclass(frozen=True)
class Linearized:
    """`cap` is the dot 0…1 from which density rises no more; `curve` (65,) dots that give even steps up to it.

    `reversals_at` are dots where the ramp falls back, `bulge_share` the largest bulge (fraction of the way) of the measured
    ramp against its own smooth course; both mean: measure again.
    """

    ramp: Ramp
    cap: float
    curve: Array
    reversals_at: tuple[float, ...]
    bulge_share: float

    @property
    def advice(self) -> str:
        """What to do, or nothing."""
        if self.reversals_at:
            dots = ", ".join(f"{dot * 100:.0f}" for dot in self.reversals_at[:4])
            return f"{self.ramp.ink} falls back at {dots} %: measure again."
        if self.bulge_share > _MOST_BULGE:
            return f"{self.ramp.ink} bulges by {self.bulge_share * 100:.1f} %: print and measure again."
        return ""


def ramps_of(data: Measurements) -> dict[str, Ramp]:
    """The ramp of each ink by its letter. Raises `CharacterizationError` where an ink has fewer than five steps."""
    found = {}
    for at, ink in enumerate(letters_of(data.inks)):
        alone = np.delete(data.device, at, axis=1).max(axis=1, initial=0) < 1e-6
        order = np.argsort(data.device[alone, at])
        dots, xyz = data.device[alone, at][order], data.xyz[alone][order]
        if len(dots) < 5 or dots[0] > 1e-6:
            raise CharacterizationError(
                f"'{data.title}' has {len(dots)} steps of ink {ink}; print the bare substrate and at least four more."
            )
        component = int((xyz[0] / np.maximum(xyz.min(axis=0), 1e-5)).argmax())
        density = np.log10(xyz[0, component] / np.maximum(xyz[:, component], 1e-5))
        lab = xyz_to_lab(xyz / xyz[0] * np.array([0.9642, 1.0, 0.8249]))
        way = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(lab, axis=0), axis=1))])
        found[ink] = Ramp(ink, dots, density, way, lab)
    return found


def linearize(ramp: Ramp, cap: float | None = None, gain_percent: float | None = None) -> Linearized:
    """Cap the ink where its density stops rising (or at `cap`), and find the curve to the aim.

    The aim is even steps of color difference from paper to solid; with `gain_percent` it is a tone curve with that
    gain at the half tone instead (Murray-Davies).
    """
    top = float(ramp.density.max())
    if cap is None:
        cap = float(ramp.dots[np.argmax(ramp.density >= top - _DENSITY_GAIN)])
    cap = float(np.clip(cap, ramp.dots[1], 1.0))
    tone = _tone(ramp, gain_percent is None)
    rising = np.maximum.accumulate(tone)
    back = rising - tone
    ragged = tuple(float(dot) for dot, fall in zip(ramp.dots, back, strict=True) if fall > _RAGGED and dot <= cap)
    from scipy.interpolate import PchipInterpolator

    bulge = np.abs(tone - PchipInterpolator(*_every_other(ramp.dots, tone))(ramp.dots))
    bulge_share = float(bulge[ramp.dots <= cap].max())
    # Strictly rising, so that it can be turned round.
    rising = rising + np.linspace(0, 1e-6, len(rising))
    full = float(np.interp(cap, ramp.dots, rising))
    wanted = np.linspace(0, 1, POINTS)
    if gain_percent is not None:
        wanted = np.clip(wanted + 4 * gain_percent / 100 * wanted * (1 - wanted), 0, 1)
    curve = np.clip(np.interp(wanted * full, rising, ramp.dots), 0, cap)
    curve[0], curve[-1] = 0.0, cap
    return Linearized(ramp, cap, np.maximum.accumulate(curve), ragged, bulge_share)


def _every_other(dots: Array, tone: Array) -> tuple[Array, Array]:
    """Half the points, both ends kept: what they say about the others is how a smooth ramp would run."""
    keep = np.ones(len(dots), bool)
    keep[1:-1:2] = False
    return dots[keep], tone[keep]


def _tone(ramp: Ramp, even: bool) -> Array:
    if even:
        # The way through Lab only grows; whether the ramp falls back shows in how dark it is.
        sign = np.where(np.diff(ramp.density, prepend=0) < -1e-3, -1.0, 1.0)
        way = np.cumsum(sign * np.diff(ramp.arc_length_delta_e, prepend=0))
        return np.asarray(way / max(float(way.max()), 1e-6))
    light = 10.0**-ramp.density
    return np.asarray((1 - light) / max(1 - float(light.min()), 1e-6))


@dataclass(frozen=True)
class InkSplit:
    """Where dark ink takes over from light: it starts at tone `start`, light is down to `hold` at tone `stop` (0…1)."""

    start: float = 0.35
    stop: float = 0.8
    hold: float = 0.15

    def __post_init__(self) -> None:
        if not (0.05 <= self.start < self.stop <= 1 and 0 <= self.hold <= 1):
            raise CharacterizationError(
                "Dark ink starts between 5 % and where light ink stops, and a little light ink may be held to the end."
            )


def split_light_dark(light: Ramp, dark: Ramp, crossing: InkSplit = InkSplit()) -> tuple[Array, Array]:
    """Curves (65,) of light and dark ink over the tone 0…1 of both together, from the ramps of each alone.

    Densities of films on each other add up; the tone wanted is a straight line of lightness (cube root of light) from
    paper to the dark ink's solid, so that steps look even down to the deepest.
    """
    tone = np.linspace(0, 1, POINTS)
    light_rising = np.maximum.accumulate(light.density) + np.linspace(0, 1e-9, len(light.density))
    dark_rising = np.maximum.accumulate(dark.density) + np.linspace(0, 1e-9, len(dark.density))
    # What light ink is held at adds to the dark solid: the deepest there is.
    deepest = float(dark_rising[-1] + np.interp(crossing.hold, light.dots, light_rising))
    wanted = -3 * np.log10(1 - tone * (1 - 10.0 ** (-deepest / 3)))
    alone = np.interp(wanted, light_rising, light.dots)
    at_start = float(np.interp(crossing.start, tone, alone))
    fall = np.clip((tone - crossing.start) / (crossing.stop - crossing.start), 0, 1)
    eased = fall * fall * (3 - 2 * fall)
    lights = np.where(tone <= crossing.start, alone, at_start + (crossing.hold - at_start) * eased)
    left = np.maximum(wanted - np.interp(lights, light.dots, light_rising), 0)
    darks = np.maximum.accumulate(np.interp(left, dark_rising, dark.dots))
    return np.clip(lights, 0, 1), np.clip(darks, 0, 1)


def calibrate(
    data: Measurements,
    crossings: dict[str, InkSplit] | None = None,
    caps: dict[str, float] | None = None,
    gain_percent: float | None = None,
    behind: Calibration | None = None,
) -> tuple[Calibration, dict[str, Linearized]]:
    """A calibration from the ramps of every ink the printer has; inks with a light twin in the data are crossed over.

    With `behind`, the ramps were printed through that calibration, one for each ink of a separation: what they still
    lack in evenness is put before its curves.
    """
    ramps = ramps_of(data)
    crossings, caps = crossings or {}, caps or {}
    if behind is not None:
        return _corrected(ramps, behind, caps, gain_percent)
    dark_inks = [ink for ink in ramps if not (ink.islower() and ink.upper() in ramps)]
    curves, lines = [], {}
    for ink in dark_inks:
        light = ramps.get(light_twin(ink)) if ink.isupper() else None
        line = linearize(ramps[ink], caps.get(ink), gain_percent)
        lines[ink] = line
        if light is None:
            curves.append(InkCurve(ink, tuple(line.curve.tolist())))
            continue
        lines[light.ink] = linearize(light, caps.get(light.ink), gain_percent)
        lights, darks = split_light_dark(light, ramps[ink], crossings.get(ink, InkSplit()))
        darks = np.minimum(darks, line.cap)
        curves.append(InkCurve(ink, tuple(darks.tolist()), light.ink, tuple(lights.tolist())))
    return Calibration(tuple(curves)), lines


def _corrected(
    ramps: dict[str, Ramp], behind: Calibration, caps: dict[str, float], gain_percent: float | None
) -> tuple[Calibration, dict[str, Linearized]]:
    if tuple(ramps) != behind.inks:
        raise CharacterizationError(
            f"The ramps are of {' '.join(ramps)}, and the calibration is for {' '.join(behind.inks)}: print the ramps "
            "of a separation's inks through it."
        )
    steps = np.linspace(0, 1, POINTS)
    lines = {ink: linearize(ramp, caps.get(ink), gain_percent) for ink, ramp in ramps.items()}
    curves = []
    for curve in behind.curves:
        before = lines[curve.ink].curve
        dark = np.interp(before, steps, curve.dark)
        light = np.interp(before, steps, curve.light) if curve.light_ink else np.empty(0)
        curves.append(InkCurve(curve.ink, tuple(dark.tolist()), curve.light_ink, tuple(light.tolist())))
    return Calibration(tuple(curves)), lines
