"""Sets of one to eight inks, of any kind and order, on one press: to test and measure with beside the shop."""

import numpy as np

from plinto_core.colorimetry.lab import D50_XYZ, xyz_to_lab
from plinto_core.colorimetry.spectra import reflectance_to_xyz
from plinto_core.measurement.chart import characterization_chart
from plinto_core.measurement.measurements import Measurements
from plinto_demo.inks import BLACK, BLUE, CYAN, MAGENTA, ORANGE, YELLOW, Band, Ink, Stock
from plinto_demo.press import Array, Instrument, Press

RED = Ink("Red", (Band(500, 60, 1.5), Band(430, 60, 1.2)), 0.02)
CORAL = Ink("Coral 12", (Band(500, 50, 1.2), Band(430, 40, 0.8)), 0.02)
VIOLET = Ink("Violet", (Band(560, 60, 1.4), Band(610, 50, 0.9)), 0.03)
GREEN = Ink("Green", (Band(640, 80, 1.3), Band(430, 50, 1.1)), 0.03)
#: By name; the last three take longest.
SETS: dict[str, tuple[Ink, ...]] = {
    "black": (BLACK,),
    "black and red": (BLACK, RED),
    "three process inks": (CYAN, MAGENTA, YELLOW),
    "four spot inks": (BLACK, RED, ORANGE, BLUE),
    "a name of its own": (CYAN, CORAL, YELLOW, BLACK, VIOLET),
    "six": (CYAN, MAGENTA, YELLOW, BLACK, ORANGE, GREEN),
    "seven, not in the usual order": (BLACK, CYAN, MAGENTA, YELLOW, ORANGE, GREEN, VIOLET),
    "eight": (CYAN, MAGENTA, YELLOW, BLACK, ORANGE, GREEN, VIOLET, RED),
}


def press_of(inks: tuple[Ink, ...], thickness: tuple[float, ...] = ()) -> Press:
    """A coated stock and even dot gain."""
    count = len(inks)
    stock = Stock("Coated", 0.92, 0.0, 0.008)
    return Press(inks, stock, thickness or (1.0,) * count, (0.15,) * count, 0.93, 1.8)


def measured(press: Press, patches: int, seed: int = 3) -> Measurements:
    """A chart of so many patches, printed and measured."""
    dots = characterization_chart(len(press.inks), patches)
    spectra, xyz = Instrument(seed).measure(press.reflectance(dots))
    return Measurements(tuple(ink.name for ink in press.inks), dots, xyz, spectra, "A set of inks")


def fresh_colors(press: Press, count: int = 3000, total: float = 3.2) -> tuple[Array, Array]:
    """Inks (count, inks) of at most `total` that no chart had, and the media-relative Lab (count, 3) they print."""
    dots = np.random.default_rng(9).random((count, len(press.inks)))
    dots *= np.minimum(1, total / dots.sum(axis=1, keepdims=True))
    light = press.reflectance(np.vstack([dots, np.zeros((1, len(press.inks)))]))
    xyz = reflectance_to_xyz(light)
    return dots, np.asarray(xyz_to_lab(xyz[:-1] * D50_XYZ / xyz[-1]))
