"""The way of the inks along the grays, from paper to the darkest neutral: found as a whole, for neither black nor total
ink may turn around on it, and no ink may run ahead of itself.

Gray by gray, every black that prints the gray would do, and what is wished for would decide; but what is wished for knows
nothing of the darkest neutral, where limits leave one combination only. So the bounds are found first, of every gray:
the least and the most black that it can have. Seen from the end, no gray may have more black than a darker one can have;
seen from paper, none less than a lighter one needs. Between the two the wish goes its way.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

Array = NDArray[np.float64]

#: Grays, and levels of black, over which the bounds are found.
GRAYS, LEVELS = 96, 29
#: ΔE within which a gray counts as printed.
_PRINTED = 0.1
#: How often the step between two levels is halved, to find where a gray just prints.
_HALVINGS = 6
#: Fraction by which total ink may fall back.
_DIP = 0.015
#: How often the way is smoothed between its bounds, and over how many grays each time.
_SMOOTHINGS, _SOFT = 24, 1.5
#: Over how much L* the ends of an axis are held.
_END_L = 2.5


@dataclass(frozen=True)
class GrayAxis:
    """`lightness` (n,), rising, and the `inks` (n, inks) 0…1 of the neutral of each."""

    lightness: Array
    inks: Array

    def at(self, lightness: Array) -> Array:
        """Inks (m, inks) at L* (m,), those of the ends beyond them."""
        return np.column_stack([np.interp(lightness, self.lightness, ink) for ink in self.inks.T])


@dataclass(frozen=True)
class GrayBounds:
    """Of grays from light to dark: `least` and `most` black (n,) 0…1 that each can have, neither of which turns around,
    and the `others`, the sum of the other inks (n, levels), at each of the black `levels`."""

    least: Array
    most: Array
    levels: Array
    others: Array


def gray_bounds(
    levels: Array, off: Array, others: Array, off_at: Callable[[Array], Array], most_black: float
) -> GrayBounds:
    """Bounds of black along grays from light to dark.

    `off` (n, levels) is the ΔE of each gray printed with so much black, `others` (n, levels) the other inks it takes,
    `off_at` finds the ΔE (2 n,) of all of them twice, with blacks (2 n,), and none may have more than `most_black` 0…1.
    """
    near = np.maximum(_PRINTED, off.min(axis=1) + 0.02)
    prints = off <= near[:, None]
    first, last = prints.argmax(axis=1), len(levels) - 1 - prints[:, ::-1].argmax(axis=1)
    beside = np.maximum(first - 1, 0), np.minimum(last + 1, len(levels) - 1)
    least, most = _edges(levels, np.stack([first, last]), np.stack(beside), near, off_at)
    most = np.minimum(np.minimum.accumulate(most[::-1])[::-1], most_black)
    least = np.minimum(np.maximum.accumulate(least), most)
    return GrayBounds(least, most, levels, np.minimum.accumulate(others - 1e-9 * levels, axis=1))


def _edges(
    levels: Array, inside: NDArray[np.intp], outside: NDArray[np.intp], near: Array, off_at: Callable[[Array], Array]
) -> Array:
    """The blacks (2, n) between a level that prints the gray and the next that does not, at which it is just printed."""
    good, bad = levels[inside], levels[outside]
    for _ in range(_HALVINGS):
        between = (good + bad) / 2
        # Both ends in one call: it costs a thread's waking each time.
        printed = off_at(between.ravel()).reshape(between.shape) <= near
        good, bad = np.where(printed, between, good), np.where(printed, bad, between)
    return np.asarray(good)


def black_along(bounds: GrayBounds, wanted: Array, replaced: float) -> Array:
    """Black (n,) along grays from light to dark, as near to the `wanted` (n,) as order allows.

    `replaced` 0…1 is how far the other inks may fall back where black comes in: with full replacement they should, the
    total in no case.
    """
    # What the darkest takes in all is the most that any takes: else the total would fall back to it.
    end = float(np.clip(wanted[-1], bounds.least[-1], bounds.most[-1]))
    ceiling = end + float(np.interp(end, bounds.levels, bounds.others[-1]))
    needed = [np.interp(-ceiling, -np.minimum.accumulate(o + bounds.levels), bounds.levels) for o in bounds.others]
    least = np.minimum(np.maximum.accumulate(np.maximum(bounds.least, needed)), bounds.most)
    least[-1] = end
    found, room = np.empty(len(wanted)), np.ones(len(wanted))
    black = most_others = most_total = 0.0
    for i, along in enumerate(bounds.others):
        total = np.minimum.accumulate(along + bounds.levels)
        wish = float(wanted[i])
        at_wish = float(np.interp(wish, bounds.levels, along))
        if at_wish < most_others and wish > 0:
            wish -= (1 - replaced) * max(0.0, wish - float(np.interp(-most_others, -along, bounds.levels)))
        # The most black with which the total does not fall back.
        room[i] = float(np.interp(_DIP - most_total, -total, bounds.levels))
        wish = min(wish, room[i])
        black = max(black, min(max(wish, least[i]), bounds.most[i]))
        found[i] = black
        most_others = max(most_others, float(np.interp(black, bounds.levels, along)))
        most_total = max(most_total, float(np.interp(black, bounds.levels, total)))
    # Where the total left no room for more, smoothing must not take it either.
    most = np.minimum(bounds.most, np.minimum.accumulate(np.maximum(room, found)[::-1])[::-1])
    for _ in range(_SMOOTHINGS):
        # What does not turn around still does not when smoothed, nor when cut by bounds that do not.
        found = np.clip(gaussian_filter1d(found, _SOFT, mode="nearest"), least, most)
    return found


def joined(parts: list[GrayAxis]) -> GrayAxis:
    """Axes one above the other as one."""
    lightness = np.concatenate([part.lightness for part in parts])
    inks = np.concatenate([part.inks for part in parts])
    keep = np.concatenate([[True], np.diff(np.maximum.accumulate(lightness)) > 0])
    return GrayAxis(lightness[keep], inks[keep])


def softened(axis: GrayAxis) -> GrayAxis:
    """The axis in even steps of lightness and without corners; its ends stay what they are."""
    even = np.linspace(axis.lightness[0], axis.lightness[-1], 2 * GRAYS)
    along = axis.at(even)
    soft = gaussian_filter1d(along, 2 * _SOFT, axis=0, mode="nearest")
    hold = np.exp(-np.minimum(even - even[0], even[-1] - even) / _END_L)[:, None]
    return GrayAxis(even, hold * along + (1 - hold) * soft)
