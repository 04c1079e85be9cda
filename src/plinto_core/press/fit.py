"""From measured patches to a forward model: a smooth fit over ink space."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import RBFInterpolator

from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.colorimetry.lab import D50_XYZ, xyz_to_lab
from plinto_core.errors import CharacterizationError
from plinto_core.press.measurements import Measurements
from plinto_core.press.model import GRID_POINTS, ForwardModel, ink_grid, ink_letters

Array = NDArray[np.float64]

#: Smoothing of the cubic RBF for instrument noise of about 0.1 ΔE; twenty times more already flattens dot gain.
SMOOTHING = 1e-6


@dataclass(frozen=True)
class Fit:
    """A fitted model and how well it predicts patches it has not seen (ΔE00)."""

    model: ForwardModel
    held_out_mean: float
    held_out_p95: float


def _surface(data: Measurements, keep: NDArray[np.bool_]) -> RBFInterpolator:
    lab = xyz_to_lab(data.xyz * D50_XYZ / data.substrate_xyz)
    return RBFInterpolator(data.device[keep], lab[keep], kernel="cubic", degree=2, smoothing=SMOOTHING * keep.sum())


def fit_model(data: Measurements, holdout: float = 0.1) -> Fit:
    """Fit a cubic RBF to media-relative Lab over ink space, and sample it on the model's grid.

    `holdout` is the share of patches kept back, evenly, to judge the fit; the model itself uses all of them.
    Raises `CharacterizationError` when there are too few patches for the ink count.
    """
    inks = data.device.shape[1]
    least = (inks + 1) * (inks + 2)
    if len(data.device) < least:
        raise CharacterizationError(
            f"{data.title or 'The data'} has {len(data.device)} patches; {inks} inks need at least {least}."
        )
    lab = xyz_to_lab(data.xyz * D50_XYZ / data.substrate_xyz)
    held = np.zeros(len(lab), bool)
    held[np.random.default_rng(7).permutation(len(lab))[: round(len(lab) * holdout)]] = True
    # The hull of ink space cannot be predicted from inside it; corners always stay in.
    held &= ~np.all((data.device < 1e-6) | (data.device > 1 - 1e-6), axis=1)
    error = delta_e_2000(_surface(data, ~held)(data.device[held]), lab[held]) if held.any() else np.zeros(1)
    everything = np.ones(len(lab), bool)
    nodes = _surface(data, everything)(ink_grid(inks))
    nodes[0] = (100.0, 0.0, 0.0)
    nodes[:, 0] = np.clip(nodes[:, 0], 0, 100)
    model = ForwardModel(ink_letters(inks), GRID_POINTS[inks], nodes.astype(np.float32), data.substrate_xyz)
    return Fit(model, float(error.mean()), float(np.percentile(error, 95)))
