"""A condition from numbers, moved by a few measured patches: a control strip in the place of a chart."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.colorimetry.lab import D50_XYZ, lab_to_xyz, xyz_to_lab
from plinto_core.errors import CharacterizationError
from plinto_core.inks.names import letters_of
from plinto_core.measurement.measurements import Measurements
from plinto_core.press.from_inks import (
    InkNumbers,
    areas,
    in_order,
    mixed,
    model_from_inks,
    primaries_of,
    printed,
    tones_of,
)
from plinto_core.press.model import ForwardModel, ink_grid

Array = NDArray[np.float64]

_LEAST_PATCHES = 6
#: How far ink numbers are to be trusted against a measurement: gains and leaning as fractions, n, and Lab of what is left.
_GAIN_TRUST, _LEAN_TRUST, _SPREAD_TRUST = 0.1, 0.4, 0.5
#: What is left over is smooth over half of ink space, and an instrument repeats itself within about this (ΔE*ab).
_REACH, _NOISE, _LEFT = 0.6, 0.3, 2.0
_CORNER = 0.995


@dataclass(frozen=True)
class Corrected:
    """The moved model, and mean ΔE00 of the patches before and after."""

    model: ForwardModel
    patches: int
    before: float
    after: float


def corrected(numbers: InkNumbers, measured: Measurements) -> Corrected:
    """Move the model of `numbers` to measured patches of the same inks (ICC-absolute, any number from six on).

    Paper, solids and overprints among them replace the numbers; gains, how they lean, and the spread of light are fitted,
    held to the numbers as far as the patches say nothing; what is left is spread smoothly over ink space. Raises
    `CharacterizationError`.
    """
    inks = in_order(numbers.solids)
    letters = letters_of(measured.inks)
    if set(letters) != set(inks):
        raise CharacterizationError(f"The patches are of {', '.join(letters)}, and the numbers of {', '.join(inks)}.")
    if len(measured.device) < _LEAST_PATCHES:
        raise CharacterizationError(
            f"{len(measured.device)} patches are too few to move anything; six are the least."
        )
    dots = measured.device[:, [letters.index(letter) for letter in inks]]
    wanted = xyz_to_lab(measured.xyz)
    before = _absolute(model_from_inks(numbers), dots)
    primaries = primaries_of(_with_corners(numbers, inks, dots, wanted))
    count = len(inks)
    start = np.concatenate([tones_of(numbers).ravel(), [numbers.yule_nielsen_n]])
    trust = np.concatenate([np.tile([_GAIN_TRUST, _LEAN_TRUST], count), [_SPREAD_TRUST]])

    def lab(values: Array) -> Array:
        spread = float(values[-1])
        return xyz_to_lab(mixed(areas(dots, primaries, values[:-1].reshape(-1, 2), spread), primaries, spread))

    def off(values: Array) -> Array:
        return np.concatenate([(lab(values) - wanted).ravel(), (values - start) / trust])

    low = np.concatenate([np.tile([-0.1, -1.0], count), [1.0]])
    high = np.concatenate([np.tile([0.48, 1.0], count), [4.0]])
    best = least_squares(off, np.clip(start, low + 1e-6, high - 1e-6), bounds=(low, high)).x
    gains, spread = best[:-1].reshape(-1, 2), float(best[-1])
    model = printed(inks, primaries, gains, spread)
    model = _moved(model, dots, wanted, lab(best))
    after = _absolute(model, dots)
    return Corrected(
        model, len(dots), float(delta_e_2000(wanted, before).mean()), float(delta_e_2000(wanted, after).mean())
    )


def _absolute(model: ForwardModel, dots: Array) -> Array:
    return np.asarray(model.to_absolute(model.lab(dots)))


def _with_corners(numbers: InkNumbers, inks: tuple[str, ...], dots: Array, wanted: Array) -> InkNumbers:
    """The numbers with paper, solids and overprints as they were measured."""
    paper, solids, overprints = numbers.paper, dict(numbers.solids), dict(numbers.overprints)
    known = {frozenset(numbers.inks_in(key)): key for key in overprints}
    full = (dots > _CORNER) | (dots < 1 - _CORNER)
    for at in np.flatnonzero(full.all(axis=1)):
        present = tuple(letter for letter, dot in zip(inks, dots[at], strict=True) if dot > 0.5)
        lab = (float(wanted[at, 0]), float(wanted[at, 1]), float(wanted[at, 2]))
        if not present:
            paper = lab
        elif len(present) == 1:
            solids[present[0]] = lab
        else:
            overprints[known.get(frozenset(present), "+".join(present))] = lab
    return replace(numbers, paper=paper, solids=solids, overprints=overprints)


def _moved(model: ForwardModel, dots: Array, wanted: Array, fitted: Array) -> ForwardModel:
    """The model with what is left over spread smoothly (a Gaussian process' mean), and nothing added to the bare paper."""
    left = wanted - fitted

    def near(one: Array, other: Array) -> Array:
        apart = ((one[:, None, :] - other[None, :, :]) ** 2).sum(axis=-1)
        return np.asarray(_LEFT**2 * np.exp(-apart / (2 * _REACH**2)))

    among = near(dots, dots) + _NOISE**2 * np.eye(len(dots))
    weights = np.linalg.solve(among, left)
    nodes = ink_grid(len(model.inks))
    added = np.vstack([near(part, dots) @ weights for part in np.array_split(nodes, max(1, len(nodes) // 20_000))])
    absolute = np.asarray(model.to_absolute(model.nodes)) + added
    absolute[0] = model.to_absolute(model.nodes[:1])[0]
    relative = xyz_to_lab(lab_to_xyz(absolute) * D50_XYZ / model.white_xyz)
    relative[0] = (100.0, 0.0, 0.0)
    return replace(model, nodes=relative.astype(np.float32))
