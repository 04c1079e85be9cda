"""CMYK artwork for another press: what stays pure (black text, solids, chosen overprints)."""

from itertools import product

import numpy as np
from numpy.typing import NDArray

from plinto_core.errors import RecipeError
from plinto_core.icc import cmm
from plinto_core.icc.profile import Profile
from plinto_core.press.ink_names import ink_letters
from plinto_core.press.model import ForwardModel

Array = NDArray[np.float64]

_STEPS = 65
#: A dot this small is none: half a code of 16 bit.
_NOTHING = 0.5 / 65535


class KeptInks:
    """Colors made of exactly one of the `sets` of inks (as 'K', 'C', 'MY') are made of these inks again.

    Each ink has a tone curve that keeps its look: the same share of the way from bare substrate to its solid,
    and a solid stays as solid as `caps` (inks,) let it. Bare substrate stays bare.
    """

    def __init__(self, sets: tuple[str, ...], source: Profile, model: ForwardModel, caps: Array) -> None:
        self._source_inks = ink_letters(source.header.channels)
        self._target_inks = model.inks
        both = set(self._source_inks) & set(self._target_inks)
        strangers = sorted({letter for each in sets for letter in each} - both)
        if strangers:
            raise RecipeError(
                f"{', '.join(strangers)} cannot be kept: only {', '.join(sorted(both))} are on both sides."
            )
        self._sets = [frozenset(each) for each in sets]
        letters = sorted({letter for each in sets for letter in each})
        self._curves = {letter: self._tone(letter, source, model, caps) for letter in letters}

    def _tone(self, letter: str, source: Profile, model: ForwardModel, caps: Array) -> Array:
        steps = np.linspace(0, 1, _STEPS)
        ramp = np.zeros((_STEPS, len(self._source_inks)))
        ramp[:, self._source_inks.index(letter)] = steps
        wanted = _depth(cmm.to_lab(source, ramp))
        target = self._target_inks.index(letter)
        made = np.zeros((_STEPS, len(self._target_inks)))
        made[:, target] = steps * caps[target]
        return np.interp(wanted, _depth(model.lab(made)), made[:, target])

    def apply(self, device: Array, inks: Array) -> Array:
        """Inks (n, inks) as found for source values (n, channels), with the kept ones in their place."""
        present = device > _NOTHING
        out = inks.copy()
        for rows, kept in self._rows(present):
            out[rows] = 0.0
            for letter in kept:
                values = device[rows, self._source_inks.index(letter)]
                tone = np.interp(values, np.linspace(0, 1, _STEPS), self._curves[letter])
                out[rows, self._target_inks.index(letter)] = tone
        return out

    def _rows(self, present: NDArray[np.bool_]) -> list[tuple[NDArray[np.bool_], frozenset[str]]]:
        found = []
        for pattern in product((False, True), repeat=len(self._source_inks)):
            kept = frozenset(letter for letter, on in zip(self._source_inks, pattern, strict=True) if on)
            if kept in self._sets or not kept:
                found.append(((present == pattern).all(axis=1), kept))
        return found


def _depth(lab: Array) -> Array:
    """Share of the way from the first color of a ramp to its last, rising."""
    away = np.maximum.accumulate(np.linalg.norm(lab - lab[0], axis=1))
    # Where a ramp plugs before its end, a hair of slope keeps the end the end.
    return np.asarray(away / max(float(away[-1]), 1e-9) + np.linspace(0, 1e-9, len(lab)))
