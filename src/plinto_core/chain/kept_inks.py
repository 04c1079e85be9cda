"""CMYK artwork for another press: what stays pure (black text, solids, chosen overprints)."""

from collections.abc import Callable
from itertools import product

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.errors import RecipeError
from plinto_core.icc.profile import Profile
from plinto_core.pipeline.pipeline import Pipeline
from plinto_core.pipeline.space import space_of
from plinto_core.press.model import ForwardModel

Array = NDArray[np.float64]

_STEPS = 129
#: Tints of the target's ink among which the nearest is looked for.
_TINTS = 2001
#: A dot this small is none: half a code of 16 bit.
_NOTHING = 0.5 / 65535


class KeptInks:
    """Colors made of exactly one of the `sets` of inks (as 'K', 'C', 'MY') are made of these inks again.

    Each ink has a tone curve that keeps its look: the tint that prints nearest (ΔE00) to what `wanted`, device values
    (n, channels) to the Lab (n, 3) wanted on the substrate, asks for; and a solid stays as solid as `caps` (inks,) let
    it. Without `wanted` the numbers stay. Bare substrate stays bare.
    """

    def __init__(
        self, sets: tuple[str, ...], source: Profile, model: ForwardModel, caps: Array,
        wanted: Callable[[Array], Array] | None,
    ) -> None:  # fmt: skip
        self._source_inks = space_of(source).channels
        self._target_inks = model.inks
        both = set(self._source_inks) & set(self._target_inks)
        unknown = sorted({letter for each in sets for letter in each} - both)
        if unknown:
            raise RecipeError(
                f"{', '.join(unknown)} cannot be kept: only {', '.join(sorted(both))} are on both sides."
            )
        self._sets = [frozenset(each) for each in sets]
        letters = sorted({letter for each in sets for letter in each})
        self._curves = {
            letter: self._tone(letter, model, caps, wanted) if wanted else self._same(letter, caps)
            for letter in letters
        }

    def _same(self, letter: str, caps: Array) -> Array:
        return np.asarray(np.minimum(np.linspace(0, 1, _STEPS), caps[self._target_inks.index(letter)]))

    def _tone(
        self, letter: str, model: ForwardModel, caps: Array, wanted: Callable[[Array], Array]
    ) -> Array:  # fmt: skip
        steps = np.linspace(0, 1, _STEPS)
        ramp = np.zeros((_STEPS, len(self._source_inks)))
        ramp[:, self._source_inks.index(letter)] = steps
        target = self._target_inks.index(letter)
        made = np.zeros((_TINTS, len(self._target_inks)))
        made[:, target] = np.linspace(0, caps[target], _TINTS)
        apart = delta_e_2000(np.asarray(wanted(ramp))[:, None], model.lab(made)[None])
        tone = np.maximum.accumulate(made[apart.argmin(axis=1), target])
        tone[0], tone[-1] = 0.0, caps[target]
        return np.asarray(tone)

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

    def around(self, line: Pipeline, device: Array) -> Array:
        """Source values (..., channels) through `line` to inks (..., inks), the kept ones in their place."""
        found = line.apply(device)
        flat = self.apply(device.reshape(-1, device.shape[-1]), found.reshape(-1, found.shape[-1]))
        return flat.reshape(found.shape)

    def _rows(self, present: NDArray[np.bool_]) -> list[tuple[NDArray[np.bool_], frozenset[str]]]:
        found = []
        for pattern in product((False, True), repeat=len(self._source_inks)):
            kept = frozenset(letter for letter, on in zip(self._source_inks, pattern, strict=True) if on)
            if kept in self._sets or not kept:
                found.append(((present == pattern).all(axis=1), kept))
        return found
