"""Colors of 8 bit that were met before, with what they became: a picture's colors come again and again."""

import threading
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plinto_core.chain.met_kernels import gathered, gathered_inks, unknown

Codes = NDArray[Any]

_COLORS = 1 << 24


class MetColors:
    """R, G, B of 8 bit to inks, each color converted once by `convert` (n, 3) → (n, inks); shared by threads.

    The table takes memory only where colors were met: 4 to 8 bytes a color of up to 16.8 million.
    """

    def __init__(self, convert: Callable[[Codes], Codes], inks: int, kind: "np.dtype[Any]") -> None:
        self._convert = convert
        self._known = np.zeros(_COLORS, np.bool_)
        self._table = np.zeros((_COLORS, inks), kind)
        self._filling = threading.Lock()

    @property
    def nbytes(self) -> int:
        """The most that it may come to hold."""
        return self._known.nbytes + self._table.nbytes

    def inks_of(self, flat: NDArray[np.uint8]) -> Codes:
        """Codes (n, 3) to inks (n, inks)."""
        self._meet(flat)
        inks = self._table.shape[1]
        out: Codes = np.empty((len(flat), inks), self._table.dtype)
        if (word := _WORDS.get(self._table.dtype.itemsize * inks)) is not None:
            gathered(flat, self._table.view(word)[:, 0], out.view(word)[:, 0])
        else:
            gathered_inks(flat, self._table, out)
        return out

    def _meet(self, flat: NDArray[np.uint8]) -> None:
        # Whoever finds a color known finds it converted, for both happens under the lock.
        with self._filling:
            found = np.empty(min(len(flat), _COLORS), np.uint32)
            new = found[: unknown(flat, self._known, found)]
            if not len(new):
                return
            colors = np.stack([new >> 16, new >> 8, new], axis=-1).astype(np.uint8)
            try:
                self._table[new] = self._convert(colors)
            except BaseException:
                self._known[new] = False
                raise


#: Bytes of a color's inks that make one whole number.
_WORDS = {4: np.uint32, 8: np.uint64}
