"""The black that a set of inks ends in: next to the darkest neutral, which is searched from everywhere."""

from itertools import product

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.lab import lab_to_lch
from plinto_core.colorimetry.straight import lab_to_straight
from plinto_core.press.model import ForwardModel
from plinto_core.separation.preferences import AXIS_WEIGHT, extras, preferences
from plinto_core.separation.solve_kernels import solve_rows

Array = NDArray[np.float64]

#: From how many corners of ink space, and places scattered in it, the darkest neutral is searched.
_CORNERS, _SCATTERED = 64, 48
#: In a black neutrality counts far more than the last tenth of lightness.
_NEUTRAL_FIRST = np.array([1.0, 6.0, 6.0])
#: What counts where there is none to speak of: where it is lighter than some color by so much L*.
_NEAREST_TO_BLACK, _NO_NEUTRAL_L = np.array([1.0, 1.0, 1.0]), 25.0
#: What counts where that is paper itself: where even the darkest neutral is lighter than this.
_DARKEST_ANYHOW, _PAPER_L = np.array([1.0, 0.1, 0.1]), 97.0
#: By how much lighter the black is than what is darkest: without and with inks beyond the process colors.
_SPARED_L, _SPARED_EXTRA_L = 0.12, 0.4
#: From how many of the darkest a black is looked for, and by how much (ΔE) one may print it less well.
_TRIES, _PRINTS = 32, 0.1


def near_darkest(model: ForwardModel, caps: Array, total: float) -> Array:
    """Inks (inks,) 0…1 of a neutral next to the darkest, within `caps` (inks,) and `total`, as fractions.

    On the last tenths of lightness the search gives up neutrality, and inks run far for nothing that is seen. Inks
    beyond the process colors are a part of it only where they make it darker by more than that; then it is, of all that
    are dark enough, the one nearest to a black of the process colors alone: nothing could lead to others without a leap.
    """
    extra, spared = extras(model), _SPARED_L
    found = _dark_neutrals(model, caps, total)
    anyhow = _dark_neutrals(model, caps, total, _NEAREST_TO_BLACK)[0]
    neutral_l, anyhow_l = model.lab(np.stack([found[0], anyhow]))[:, 0]
    if neutral_l > anyhow_l + _NO_NEUTRAL_L:
        # Inks like cyan and magenta alone have no gray but paper: their black is the darkest color.
        return np.asarray(anyhow)
    if neutral_l > _PAPER_L:
        # Light inks of one family, pink and yellow alone: each is further from black than paper is, being so colored.
        return np.asarray(_dark_neutrals(model, caps, total, _DARKEST_ANYHOW)[0])
    begin = found[0]
    if extra.any():
        spared = _SPARED_EXTRA_L
        plain = _dark_neutrals(model, np.where(extra, 0.0, caps), total)
        begin = plain[0]
        darkest, process = model.lab(np.stack([found[0], begin]))[:, 0]
        if process <= darkest + _SPARED_EXTRA_L - _SPARED_L:
            found, caps, spared = plain, np.where(extra, 0.0, caps), _SPARED_L
    aim = lab_to_straight(np.array([[model.lab(found[0])[0] + spared, 0.0, 0.0]]))
    starts = np.vstack([begin, found[:_TRIES]])
    aims, wishes = np.repeat(aim, len(starts), axis=0), np.repeat(begin[None], len(starts), axis=0)
    tries = np.empty_like(starts)
    solve_rows(
        model.nodes, model.points, aims, wishes, np.full((1, len(begin)), AXIS_WEIGHT), caps, total, _NEUTRAL_FIRST, starts,
        60, tries,
    )  # fmt: skip
    off = np.linalg.norm(lab_to_straight(model.lab(tries)) - aim, axis=1)
    far = np.where(off < off.min() + _PRINTS, ((tries - begin) ** 2).sum(axis=1), np.inf)
    return np.asarray(tries[np.argmin(far)])


def _dark_neutrals(model: ForwardModel, caps: Array, total: float, focus: Array = _NEUTRAL_FIRST) -> Array:
    """Inks (n, inks) of what searches for the darkest neutral find, the best first.

    Coarse tables have creases on which any one search may stop.
    """
    inks = len(model.inks)
    corners = np.array(list(product((0.0, 1.0), repeat=inks)))[:_CORNERS]
    starts = np.vstack([np.eye(inks), corners, np.random.default_rng(1).random((_SCATTERED, inks))])
    targets, weights = preferences(model, np.ones(len(starts)))
    found = np.empty_like(starts)
    solve_rows(
        model.nodes, model.points, np.zeros((len(starts), 3)), targets, weights[None], caps, total, focus, starts, 40,
        found,
    )  # fmt: skip
    lch = lab_to_lch(lab_to_straight(model.lab(found)))
    return np.asarray(found[np.argsort(lch[:, 0] ** 2 + (focus[1] * lch[:, 1]) ** 2)])
