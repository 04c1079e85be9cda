"""Presses, printers and instruments that the house has: named by one setting, simulated ones in the demo."""

from collections.abc import Iterator
from functools import cache
from importlib import import_module
from typing import Protocol

import numpy as np
from django.conf import settings
from numpy.typing import NDArray

from plinto_core.measurement.measurements import Provenance
from plinto_server.errors import MissingError

Array = NDArray[np.float64]


class Device(Protocol):
    """Something that prints ink values as they are and measures what it printed."""

    slug: str
    name: str
    process: str
    #: Who measures with what: it goes with the data.
    provenance: Provenance

    @property
    def inks(self) -> tuple[str, ...]:
        """Letters of all inks it lays down, light ones small."""

    @property
    def lights(self) -> dict[str, Array]:
        """Lights (36,) that its prints are seen with from behind; empty for prints that are looked at."""

    def table_readings(self) -> tuple[Array, Array]:
        """Bare light table on and off, (36,) each."""

    def read(self, printed: Array, run: int = 0) -> Iterator[tuple[Array, Array]]:
        """Strips of spectra (n, 36) and XYZ (n, 3) of printed ink values (patches, inks)."""


@cache
def devices() -> tuple[Device, ...]:
    """All devices of the house; none where the setting names none."""
    if not settings.DEVICES:
        return ()
    module, _, name = settings.DEVICES.rpartition(".")
    found: tuple[Device, ...] = getattr(import_module(module), name)
    return found


def device_by_slug(slug: str) -> Device:
    """Raises `MissingError`."""
    for device in devices():
        if device.slug == slug:
            return device
    raise MissingError(
        f"There is no device '{slug}'. Choose one of the list, or measure elsewhere and load the file."
    )
