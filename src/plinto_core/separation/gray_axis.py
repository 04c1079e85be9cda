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
#: By how much less than the knee more levels are.
_BELOW_KNEE = np.array([0.0, 0.004, 0.012, 0.025])
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
    and the `others`, the sum of the other inks (n, levels), at the black `levels` (n, levels) of each.
    `knees` says that there are more of these below the knees (see `with_knees`)."""

    least: Array
    most: Array
    levels: Array
    others: Array
    knees: bool


def gray_bounds(
    levels: Array, off: Array, others: Array, off_at: Callable[[Array], Array], most_black: float, *, knees: bool
) -> GrayBounds:
    """Bounds of black along grays from light to dark.

    `off` (n, levels) is the ΔE of each gray printed with so much black, one of its `levels` (n, levels), rising,
    `others` (n, levels) the other inks it takes,
    `off_at` finds the ΔE (2 n,) of all of them twice, with blacks (2 n,), and none may have more than `most_black` 0…1.
    """
    near = np.maximum(_PRINTED, off.min(axis=1) + 0.02)
    prints, end = off <= near[:, None], levels.shape[1] - 1
    first, last = prints.argmax(axis=1), end - prints[:, ::-1].argmax(axis=1)
    beside = np.maximum(first - 1, 0), np.minimum(last + 1, end)
    least, most = _edges(levels, np.stack([first, last]), np.stack(beside), near, off_at)
    most = np.minimum(np.minimum.accumulate(most[::-1])[::-1], most_black)
    least = np.minimum(np.maximum.accumulate(least), most)
    if knees:
        # What was found at a level between that does not print the gray says nothing of the way past it.
        column = np.arange(levels.shape[1])
        told = np.where(prints | (column < first[:, None]) | (column > last[:, None]), column, 0)
        others = np.take_along_axis(others, np.maximum.accumulate(told, axis=1), axis=1)
    return GrayBounds(least, most, levels, np.minimum.accumulate(others - 1e-9 * levels, axis=1), knees)


def _edges(
    levels: Array, inside: NDArray[np.intp], outside: NDArray[np.intp], near: Array, off_at: Callable[[Array], Array]
) -> Array:
    """The blacks (2, n) between a level that prints the gray and the next that does not, at which it is just printed."""
    rows = np.arange(len(levels))
    good, bad = levels[rows, inside], levels[rows, outside]
    for _ in range(_HALVINGS):
        between = (good + bad) / 2
        # Both ends in one call: it costs a thread's waking each time.
        printed = off_at(between.ravel()).reshape(between.shape) <= near
        good, bad = np.where(printed, between, good), np.where(printed, bad, between)
    return np.asarray(good)


def with_knees(most_black: float, knees: Array) -> Array:
    """Levels of black (n, levels), rising from 0 to `most_black`, with more of them just below each of the `knees` (n,),
    where the other inks fall off steeply."""
    even = np.linspace(0, most_black, LEVELS)
    below = np.clip(knees[:, None] - _BELOW_KNEE, 0, most_black)
    levels = np.sort(np.concatenate([np.tile(even, (len(knees), 1)), below], axis=1), axis=1)
    return np.asarray(levels + 1e-9 * np.arange(levels.shape[1]))


def black_along(bounds: GrayBounds, wanted: Array, replaced: float) -> Array:
    """Black (n,) along grays from light to dark, as near to the `wanted` (n,) as order allows.

    `replaced` 0…1 is how far the other inks may fall back where black comes in: with full replacement they should, the
    total in no case.
    """
    # What the darkest takes in all is the most that any takes: else the total would fall back to it.
    end = float(np.clip(wanted[-1], bounds.least[-1], bounds.most[-1]))
    if bounds.knees:
        # Those of the next level that prints it: below, they rise steeply.
        above = min(int(np.searchsorted(bounds.levels[-1], end)), bounds.levels.shape[1] - 1)
        ceiling = end + float(bounds.others[-1, above])
    else:
        ceiling = end + float(np.interp(end, bounds.levels[-1], bounds.others[-1]))
    needed = [
        np.interp(-ceiling, -np.minimum.accumulate(others + levels), levels)
        for others, levels in zip(bounds.others, bounds.levels, strict=True)
    ]
    least = np.minimum(np.maximum.accumulate(np.maximum(bounds.least, needed)), bounds.most)
    least[-1] = end
    found, room = np.empty(len(wanted)), np.ones(len(wanted))
    black = most_others = most_total = 0.0
    for i, (along, levels) in enumerate(zip(bounds.others, bounds.levels, strict=True)):
        total = np.minimum.accumulate(along + levels)
        wish = float(wanted[i])
        at_wish = float(np.interp(wish, levels, along))
        if at_wish < most_others and wish > 0:
            wish -= (1 - replaced) * max(0.0, wish - float(np.interp(-most_others, -along, levels)))
        # The most black with which the total does not fall back.
        room[i] = float(np.interp(_DIP - most_total, -total, levels))
        wish = min(wish, room[i])
        black = max(black, min(max(wish, least[i]), bounds.most[i]))
        found[i] = black
        most_others = max(most_others, float(np.interp(black, levels, along)))
        most_total = max(most_total, float(np.interp(black, levels, total)))
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
