"""Colors of 8 bit, of three or four channels, that were met before, with what they became: a picture's colors come again
and again."""

import threading
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plinto_core.ready_kernels import ReadyKernel

Codes = NDArray[Any]

_KERNELS = "plinto_core.chain.met_kernels"
_unknown, _unknown_slots = ReadyKernel(_KERNELS, "unknown"), ReadyKernel(_KERNELS, "unknown_slots")
_gathered, _gathered_inks = ReadyKernel(_KERNELS, "gathered"), ReadyKernel(_KERNELS, "gathered_inks")
_gathered_slots = ReadyKernel(_KERNELS, "gathered_slots")
_COLORS = 1 << 24
#: Slots for colors of four channels, of which half are filled.
_SLOT_BITS = 22
_SLOTS, _SHIFT = 1 << _SLOT_BITS, 32 - _SLOT_BITS


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
            _gathered(len(flat), flat, self._table.view(word)[:, 0], out.view(word)[:, 0])
        else:
            _gathered_inks(len(flat), flat, self._table, inks, out)
        return out

    def _meet(self, flat: NDArray[np.uint8]) -> None:
        # Whoever finds a color known finds it converted, for both happens under the lock.
        with self._filling:
            found, count = np.empty(min(len(flat), _COLORS), np.uint32), np.zeros(1, np.int64)
            _unknown.in_order(len(flat), flat, self._known.view(np.uint8), found, count)
            new = found[: count[0]]
            if not len(new):
                return
            colors = np.stack([new >> 16, new >> 8, new], axis=-1).astype(np.uint8)
            try:
                self._table[new] = self._convert(colors)
            except BaseException:
                self._known[new] = False
                raise


class MetColorsOfFour:
    """As `MetColors`, for four channels: two million colors at a time. When there are more, it begins anew."""

    def __init__(self, convert: Callable[[Codes], Codes], inks: int, kind: "np.dtype[Any]") -> None:
        self._convert = convert
        self._colors = np.zeros(_SLOTS, np.uint32)
        self._taken = np.zeros(_SLOTS, np.bool_)
        self._table = np.zeros((_SLOTS, inks), kind)
        self._count = 0
        self._filling = threading.Lock()

    @property
    def nbytes(self) -> int:
        """The most that it may come to hold."""
        return self._colors.nbytes + self._taken.nbytes + self._table.nbytes

    def inks_of(self, flat: NDArray[np.uint8]) -> Codes:
        """Codes (n, 4) to inks (n, inks)."""
        words = np.ascontiguousarray(flat).view(np.uint32)[:, 0]
        # Beginning anew would take from under a thread what it is about to look up.
        with self._filling:
            if not self._meet(words):
                return self._convert(flat)
            out: Codes = np.empty((len(flat), self._table.shape[1]), self._table.dtype)
            taken, inks = self._taken.view(np.uint8), out.shape[1]
            _gathered_slots(len(words), words, self._colors, taken, _SLOTS, _SHIFT, self._table, inks, out)
        return out

    def _meet(self, words: NDArray[np.uint32]) -> bool:
        """Convert what was not met; False where these are too many colors for the table."""
        found = np.empty(min(len(words), _SLOTS // 2), np.uint32)
        for _ in range(2):
            room, told = _SLOTS // 2 - self._count, np.zeros(1, np.int64)
            _unknown_slots.in_order(
                len(words), words, self._colors, self._taken.view(np.uint8), _SLOTS, _SHIFT, room, found, told
            )
            count = int(told[0])
            if count >= 0:
                break
            self._begin_anew()
        else:
            return False
        new = found[:count]
        try:
            if count:
                self._table[new] = self._convert(self._colors[new].view(np.uint8).reshape(-1, 4))
        except BaseException:
            self._begin_anew()
            raise
        self._count += count
        return True

    def _begin_anew(self) -> None:
        self._taken[:] = False
        self._count = 0


#: Bytes of a color's inks that make one whole number.
_WORDS = {4: np.uint32, 8: np.uint64}
