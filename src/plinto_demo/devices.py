"""The shop's printers and presses with an instrument beside each: what `PLINTO_DEVICES` names in the demo.

A device prints what it is given, without asking what it means, and reads it strip by strip, as hand-held instruments do.
"""

import time
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from plinto_core.computed_once import computed_once
from plinto_core.inks.names import DRIVEN_BY_RGB, letters_of
from plinto_core.measurement.measurements import Provenance
from plinto_demo.inks import BLACK, CYAN, MAGENTA, YELLOW, Stock, light
from plinto_demo.light_table import PANELS, LightTable
from plinto_demo.press import Array, Instrument, Press
from plinto_demo.rgb_printer import RgbPrinter
from plinto_demo.shop import CONDITIONS, MEASURED_BY

_STRIP = 21
_STRIP_SECONDS = 0.04


@dataclass(frozen=True)
class SimulatedDevice:
    """A press and an instrument, computing real physics; `table` for prints that light shines through."""

    slug: str
    name: str
    process: str
    press: Press | RgbPrinter
    seed: int
    table: LightTable | None = None
    provenance: Provenance = MEASURED_BY

    @computed_once
    def inks(self) -> tuple[str, ...]:
        """Letters of all inks it lays down, or of the channels that drive it."""
        if isinstance(self.press, RgbPrinter):
            return DRIVEN_BY_RGB
        return letters_of([ink.name for ink in self.press.inks])

    @property
    def lights(self) -> dict[str, Array]:
        """Panels that its prints hang on, by name, with their spectra (36,); empty for prints that are looked at."""
        return PANELS if self.table else {}

    def table_readings(self) -> tuple[Array, Array]:
        """The bare light table, on and off, (36,) each."""
        table = self.table or LightTable("Panel 5600", 0.0)
        return table.on(), table.off()

    def read(self, printed: Array, run: int = 0) -> Iterator[tuple[Array, Array]]:
        """Strips of spectra (n, 36) and XYZ (n, 3) for printed ink values (patches, inks), as they are read."""
        instrument_seed = self.seed + 7919 * run
        for begin in range(0, len(printed), _STRIP):
            time.sleep(_STRIP_SECONDS)
            seen = self.press.reflectance(np.asarray(printed[begin : begin + _STRIP], np.float64))
            if self.table:
                seen = self.table.reading(seen)
            yield Instrument(instrument_seed + begin).measure(seen)


_VELLUM = SimulatedDevice(
    "ardent-44", "Ardent 44 inkjet", "Inkjet on Orrin cotton paper, light and dark inks",
    Press(
        (CYAN, light(CYAN), MAGENTA, light(MAGENTA), YELLOW, BLACK, light(BLACK)),
        Stock("Orrin cotton paper", 0.9, 0.02, 0.02), (1.05, 1.05, 1.0, 1.0, 1.05, 1.1, 1.1),
        (0.14, 0.1, 0.14, 0.1, 0.13, 0.16, 0.1), 0.9, 1.7,
    ),
    4401,
)  # fmt: skip

_SIGN = SimulatedDevice(
    "sela-rgb", "Sela 64 sign printer", "Solvent inkjet on Orrin vinyl",
    RgbPrinter(
        Press((CYAN, MAGENTA, YELLOW, BLACK), Stock("Orrin vinyl", 0.9, 0.01, 0.012), (1.1, 1.05, 1.1, 1.15),
              (0.1, 0.1, 0.1, 0.1), 0.95, 1.5)
    ),
    6401,
)  # fmt: skip

DEVICES: tuple[SimulatedDevice, ...] = (
    _VELLUM,
    _SIGN,
    *(
        SimulatedDevice(shop.slug, f"{shop.name} press" if len(shop.inks) == 4 else shop.name, shop.process, shop.press,
                        shop.seed + 3, shop.table)
        for shop in CONDITIONS
    ),
)  # fmt: skip
