"""Inks of a table agree with their neighbors, and print what they printed before."""

import numpy as np
import pytest

from plinto_core.colorimetry import delta_e_2000
from plinto_core.recipe.black import BlackPolicy
from plinto_core.recipe.limits import InkLimits
from plinto_core.separation.inverse import Inverse
from plinto_core.separation.settle import smooth_ink_lut


@pytest.fixture(scope="module")
def tables(condition):
    """An inverse, and over Lab at every 4 L* and 8 a* and b* the Lab, the inks, and the settled inks."""
    known = condition("halden-silk-150")
    inverse = Inverse(known.model, known.tables, BlackPolicy(45, 30, 96), InkLimits(320))
    opponent = np.arange(-96, 97, 8.0)
    lab = np.stack(np.meshgrid(np.arange(0, 101, 4.0), opponent, opponent, indexing="ij"), axis=-1)
    inks = inverse.inks(lab, rounds=16)
    return inverse, lab, inks, smooth_ink_lut(inverse, lab, inks)


def halfway_error(inverse, inks):
    """ΔE00 between what the mean of two neighbors along b* prints and the mean of what they print."""
    printed = inverse.model.lab(inks)
    between = inverse.model.lab((inks[:, :, 1:] + inks[:, :, :-1]) / 2)
    return delta_e_2000(between, (printed[:, :, 1:] + printed[:, :, :-1]) / 2)


def test_neighbors_agree_and_colors_stay(tables):
    inverse, _, inks, settled = tables
    moved = delta_e_2000(inverse.model.lab(settled), inverse.model.lab(inks))
    assert moved.mean() < 0.01 and moved.max() < 0.3
    before, after = (halfway_error(inverse, each) for each in (inks, settled))
    assert np.percentile(after, 99.5) < 0.65 * np.percentile(before, 99.5)
    assert after.max() < 0.5 * before.max()
    black = [np.abs(np.diff(each[..., 3], axis=2)).max() for each in (inks, settled)]
    assert black[1] < 0.6 * black[0], "black jumps between neighbors"


def test_limits_hold_and_grays_keep_their_black(tables):
    _, lab, inks, settled = tables
    assert settled.min() >= 0 and settled[..., 3].max() <= 0.96 + 1e-9 and settled.sum(axis=-1).max() <= 3.2 + 1e-9
    gray = np.hypot(lab[..., 1], lab[..., 2]) == 0
    np.testing.assert_array_equal(settled[gray], inks[gray])
