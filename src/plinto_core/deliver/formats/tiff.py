"""TIFF of any number of inks, 8 or 16 bit."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np

from plinto_core.chain.compiled import Chain
from plinto_core.deliver.making import Making, embedded_in, ppi_of
from plinto_core.deliver.tiff_out import RGB, encoded_strips, strip_rows, write_ink_tiff
from plinto_core.raster._tiff import tiff_ink_bands
from plinto_core.raster.opened import Codes

SHARE = 0.9


def check(chain: Chain) -> None:
    """Any inks."""


def write(path: Path, made: Making) -> None:
    """See `DeliveryFormat`."""
    write_strips(path, made, strips(made))


def strips(made: Making) -> Iterator[bytes]:
    """The rows that are made, as the strips that stand in the file."""
    names = _names(made)
    return encoded_strips(made.written(), _size(made), _kind(made), len(names), made.deliver.compression)


def write_strips(path: Path, made: Making, encoded: Iterator[bytes]) -> None:
    """The file of all its strips, wherever they were encoded."""
    write_ink_tiff(
        path, encoded, _size(made), _kind(made), _names(made), made.deliver.compression, ppi_of(made.artwork),
        embedded_in(made.chain),
    )  # fmt: skip


def rows_of_a_strip(made: Making) -> int:
    """Rows of each strip but the last."""
    return strip_rows(_size(made), _kind(made), len(_names(made)))


def _kind(made: Making) -> "np.dtype[Any]":
    return np.dtype(np.uint8 if made.deliver.depth == 8 else np.uint16)


def _size(made: Making) -> tuple[int, int]:
    return made.artwork.width, made.artwork.height


def _names(made: Making) -> tuple[str, ...]:
    return RGB if made.rgb else made.names


def read_back(path: Path, made: Making) -> list[Iterator[Codes]]:
    """See `DeliveryFormat`."""
    return [tiff_ink_bands(path)]
