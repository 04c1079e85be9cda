"""Quillmere's printing conditions: presses, stocks, limits, and how the house builds their profiles."""

from dataclasses import dataclass, field

import numpy as np

from plinto_core.inks.names import NAMES, letters_of
from plinto_core.measurement.chart import characterization_chart, ramp_chart
from plinto_core.measurement.measurements import Measurements, Provenance
from plinto_core.press.calibration import Calibration
from plinto_demo.inks import BLACK, BLUE, CYAN, MAGENTA, OPAQUE, ORANGE, YELLOW, Ink, Stock, light
from plinto_demo.light_table import LightTable
from plinto_demo.press import Array, Instrument, Press

CMYK = (CYAN, MAGENTA, YELLOW, BLACK)
WITH_LIGHT = (CYAN, light(CYAN), MAGENTA, light(MAGENTA), YELLOW, BLACK, light(BLACK))


#: What the shop's instrument says of itself in every file.
MEASURED_BY: Provenance = (
    ("ORIGINATOR", "Quillmere Print Works"),
    ("INSTRUMENTATION", "simulated instrument, D50, 2 degree"),
)


@dataclass(frozen=True)
class ShopCondition:
    """A condition of the shop: how it prints, and what the house allows on it.

    `build` are options of `plinto profile build` beyond limit and black. Prints on film are read on the `table`.
    """

    slug: str
    name: str
    process: str
    press: Press
    total_ink_percent: int
    black_amount_percent: int
    black_start_percent: int
    black_max_percent: int
    seed: int
    notes: str
    patches: int = 1600
    table: LightTable | None = None
    build: tuple[str, ...] = field(default=())

    @property
    def has_light_inks(self) -> bool:
        """Whether separations go through a calibration into light and dark inks."""
        return any(ink.name.startswith("Light") for ink in self.press.inks)

    @property
    def inks(self) -> tuple[Ink, ...]:
        """The inks of a separation: light twins are the printer's own affair."""
        return tuple(ink for ink in self.press.inks if not ink.name.startswith("Light"))


CONDITIONS = (
    ShopCondition(
        "cotton-54t",
        "Cotton 54T",
        "Screen print on cotton, 54 threads/cm, water-based inks",
        Press(
            CMYK, Stock("Raw cotton, bleached", 0.82, 0.06, 0.022),
            (0.66, 0.62, 0.7, 0.62), (0.24, 0.24, 0.22, 0.26), 0.85, 1.5, 54.0,
        ),
        230, 55, 22, 86, 5401,
        "Solid on solid floods the mesh: keep to the limit, flash after the second screen.",
    ),
    ShopCondition(
        "halden-silk-150",
        "Halden Silk 150",
        "Sheetfed offset, silk coated 150 g/m²",
        Press(
            CMYK, Stock("Halden Silk", 0.92, 0.0, 0.008), (1.05, 1.0, 1.0, 1.1), (0.16, 0.16, 0.15, 0.17), 0.93, 1.8,
        ),
        320, 45, 30, 96, 15001,
        "ISO 12647-2 practice, 175 lpi, wet on wet.",
    ),
    ShopCondition(
        "tern-news-45",
        "Tern News 45",
        "Coldset newsprint 45 g/m²",
        Press(
            CMYK, Stock("Tern newsprint", 0.63, 0.13, 0.024),
            (0.62, 0.58, 0.62, 0.58), (0.25, 0.25, 0.24, 0.27), 0.82, 1.7,
        ),
        240, 70, 15, 92, 4501,
        "ISO 12647-3 practice: dries by penetration, so the total stays low.",
    ),
    ShopCondition(
        "murrow-offset-120",
        "Murrow Offset 120",
        "Sheetfed offset, uncoated 120 g/m²",
        Press(
            CMYK, Stock("Murrow Offset", 0.88, 0.015, 0.026), (0.72, 0.7, 0.74, 0.72), (0.2, 0.2, 0.19, 0.22), 0.88, 1.7,
        ),
        280, 55, 22, 94, 12001,
        "Uncoated stock swallows shadows: open them, 150 lpi.",
        build=("--icc", "2"),
    ),
    ShopCondition(
        "brack-pouch-film",
        "Brack Pouch film",
        "Flexo on white film, smallest dot 3 %",
        Press(
            CMYK, Stock("Brack white film", 0.86, 0.02, 0.03), (0.92, 0.95, 0.9, 0.95), (0.27, 0.26, 0.25, 0.28),
            0.9, 1.5, smallest_dot=0.03,
        ),
        300, 60, 25, 94, 3001,
        "Dots below 3 % do not hold and print heavier than they are: cut them or keep them above.",
    ),
    ShopCondition(
        "sateen-reactive",
        "Sateen Reactive",
        "Textile inkjet on sateen, six reactive inks, linearized",
        Press(
            (*CMYK, ORANGE, BLUE), Stock("Velder sateen", 0.86, 0.02, 0.012),
            (0.95, 0.9, 0.95, 1.0, 0.85, 0.9), (0.05, 0.05, 0.05, 0.05, 0.05, 0.05), 0.95, 1.6,
        ),
        260, 50, 25, 95, 6006,
        "Orange and blue reach where process inks do not; steam after printing.",
        patches=2000,
    ),
    ShopCondition(
        "lumen-panel",
        "Lumen Panel",
        "Backlit film, light and dark inks, on a panel of 5600 K",
        Press(
            WITH_LIGHT, Stock("Lumen diffuser film", 0.62, 0.03, 0.0),
            (1.5, 1.5, 1.45, 1.45, 1.5, 1.5, 1.5), (0.12, 0.1, 0.12, 0.1, 0.12, 0.13, 0.1), 1.0, 1.15,
        ),
        340, 50, 35, 98, 34001,
        "Read on the light table, built for the panel it hangs on with a tenth of room light.",
        table=LightTable("Panel 5600", 0.1),
        build=("--grid", "41"),
    ),
    ShopCondition(
        "leafprint-negative",
        "Leafprint Negative",
        "One dense ink on clear film, for contact printing",
        Press((OPAQUE,), Stock("Clear film", 0.91, 0.01, 0.0), (1.15,), (0.09,), 1.0, 1.1),
        100, 100, 0, 100, 2101,
        "Slow passes, dried well; density is what counts.",
        patches=60,
        table=LightTable("Exposure lamp", 0.0),
    ),
)  # fmt: skip


def measure_ramps(condition: ShopCondition, steps: int = 21, calibration: Calibration | None = None) -> Measurements:
    """A ramp of every ink that the printer has, light ones too; through a calibration, of every ink of a separation."""
    inks = condition.inks if calibration else condition.press.inks
    dots = ramp_chart(len(inks), steps)
    printed = calibration.apply(dots) if calibration else dots
    return _measured(condition, dots, printed, tuple(ink.name for ink in inks), condition.seed + 1)


def measure_chart(
    condition: ShopCondition, patches: int | None = None, calibration: Calibration | None = None
) -> Measurements:
    """Print the house's chart on the simulated press, behind its calibration if it has one, and measure it."""
    dots = characterization_chart(len(condition.inks), patches or condition.patches)
    return measure(condition, dots, calibration)


def measure(
    condition: ShopCondition, dots: Array, calibration: Calibration | None = None, seed: int = 0
) -> Measurements:
    """Print any patches (n, inks) 0…1 and measure them; prints on film as readings on the light table."""
    names = tuple(NAMES[letter] for letter in letters_of([ink.name for ink in condition.inks]))
    printed = calibration.apply(dots) if calibration else dots
    return _measured(condition, dots, printed, names, condition.seed + seed)


def _measured(
    condition: ShopCondition, asked: Array, printed: Array, names: tuple[str, ...], seed: int
) -> Measurements:
    light_ = condition.press.reflectance(printed)
    if condition.table:
        light_ = condition.table.reading(light_)
    spectra, xyz = Instrument(seed).measure(light_)
    return Measurements(names, asked, np.asarray(xyz), spectra, condition.name, MEASURED_BY)
