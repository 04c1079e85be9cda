"""From measured patches to a forward model: a smooth fit over ink space, its smoothness chosen by leaving out."""

from dataclasses import dataclass, field, replace
from itertools import product

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.colorimetry.lab import D50_XYZ, xyz_to_lab
from plinto_core.errors import CharacterizationError
from plinto_core.inks.names import letters_of
from plinto_core.measurement.measurements import Measurements
from plinto_core.press.left_out import Leaving, LeftOut, leaving_at
from plinto_core.press.model import GRID_POINTS, ForwardModel, ink_grid
from plinto_core.press.surface import Surface, surface_through
from plinto_core.press.unmeasured import predict_unmeasured

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

#: Smoothing of the cubic RBF for instrument noise of about 0.1 ΔE; twenty times more already flattens dot gain.
SMOOTHING = 1e-6
#: What is tried when the data itself is to say how smooth.
_TRIED = (1e-8, 1e-7, 1e-6, 1e-5, 1e-4, 1e-3)
#: A patch this far from what its neighbors say (ΔE00), and this many times the spread, is named as wrong.
_OUTLIER_LEAST, _OUTLIER_SPREADS, _MOST_OUTLIERS = 2.5, 12.0, 40
_CORNER_LENIENCE = 6.0
#: From how many inks on the grid is so coarse that its own error is larger than the instrument's.
_BALANCED_INKS = 5


@dataclass(frozen=True)
class Tried:
    """A smoothing and what it gives: mean ΔE00 of patches left out and of patches seen, and the bending of the surface
    (its energy, as a share of the least smoothed one's)."""

    smoothing: float
    left_out: float
    seen: float
    bending: float


@dataclass(frozen=True)
class Fit:
    """A fitted model and how well it predicts patches it has not seen (ΔE00).

    `smoothing` was used; `tried` says what others would have given, where left-out patches chose it.
    `outliers` are (patch index, ΔE00 to what the others say) of patches set aside as wrong. `unmeasured` are the smallest
    sets of inks, as letters, that no patch prints on each other, and `more_ink` says whether none prints as much as they
    can have: what they make is predicted.
    """

    model: ForwardModel
    held_out_mean: float
    held_out_p95: float
    smoothing: float = SMOOTHING
    tried: tuple[Tried, ...] = ()
    outliers: tuple[tuple[int, float], ...] = field(default=())
    unmeasured: tuple[tuple[str, ...], ...] = ()
    more_ink: bool = False


def relative_lab(data: Measurements) -> Array:
    """Media-relative Lab (patches, 3) of the data."""
    return xyz_to_lab(data.xyz * D50_XYZ / data.substrate_xyz)


def choose_smoothing(leaving: Leaving, measured: int) -> tuple[float, tuple[Tried, ...]]:
    """The smoothing under which left-out patches are predicted best, and what each that was tried gave; the first
    `measured` patches count."""
    tried, lab = [], leaving.values
    for smoothing in _TRIED:
        left = leaving.at(smoothing)
        surface = lab - smoothing * len(lab) * left.weights
        # Native-space energy of the cubic spline: weights against the kernel, summed over L*, a*, b*.
        energy = float(np.abs((left.weights * surface).sum()))
        errors = delta_e_2000(lab, left.predicted())[:measured]
        tried.append(Tried(smoothing, float(errors.mean()), float(delta_e_2000(lab, surface).mean()), energy))
    stiffest = max(each.bending for each in tried) or 1.0
    found = tuple(replace(each, bending=each.bending / stiffest) for each in tried)
    return min(found, key=lambda each: each.left_out).smoothing, found


def corners_of(device: Array) -> Mask:
    """Which patches (n, inks) are corners of what the chart knows: every ink none or as much as it ever has."""
    return np.asarray(np.all((device < 1e-6) | (device > device.max(axis=0) - 1e-6), axis=1))


def find_outliers(device: Array, left: LeftOut, measured: int) -> tuple[tuple[int, float], ...]:
    """Of the first `measured` patches those that contradict all others, the worst first: found one by one, since a wrong
    one spoils its neighbors."""
    # The corners of ink space are extrapolated from all others, so they have to be much further off to be called wrong.
    trust = np.where(corners_of(device), 1 / _CORNER_LENIENCE, 1.0)
    trust[measured:] = 0.0
    good = np.ones(len(device), bool)
    found: list[tuple[int, float]] = []
    while len(found) < _MOST_OUTLIERS:
        errors = np.where(good, delta_e_2000(left.values, left.predicted()) * trust, 0.0)
        limit = max(_OUTLIER_LEAST, _OUTLIER_SPREADS * float(np.median(errors[:measured][good[:measured]])))
        worst = int(errors.argmax())
        if errors[worst] <= limit:
            break
        found.append((worst, float(errors[worst] / trust[worst])))
        good[worst] = False
        left = left.without(worst)
    return tuple(found)


def fit_model(
    data: Measurements, holdout: float = 0.1, smoothing: float | None = SMOOTHING, *, drop_outliers: bool = False
) -> Fit:
    """Fit a cubic RBF to media-relative Lab over ink space, and sample it on the model's grid.

    `holdout` is the share of patches kept back, evenly, to judge the fit through tables as a profile holds them; the model
    itself uses all of them.
    `smoothing` None lets the patches choose. Raises `CharacterizationError` when there are too few patches.
    """
    inks = data.device.shape[1]
    least = (inks + 1) * (inks + 2)
    if len(data.device) < least:
        raise CharacterizationError(
            f"{data.title or 'The data'} has {len(data.device)} patches; {inks} inks need at least {least}."
        )
    predicted = predict_unmeasured(data)
    # What is predicted comes behind what is measured, which alone is judged.
    count = len(data.device)
    device, lab = np.vstack([data.device, predicted.device]), np.vstack([relative_lab(data), predicted.lab])
    tried: tuple[Tried, ...] = ()
    good = np.ones(len(lab), bool)
    outliers: tuple[tuple[int, float], ...] = ()
    if smoothing is None:
        leaving = Leaving(device, lab)
        if drop_outliers and (outliers := find_outliers(device, leaving.at(SMOOTHING), count)):
            good[[index for index, _ in outliers]] = False
            leaving = Leaving(device[good], lab[good])
        smoothing, tried = choose_smoothing(leaving, int(good[:count].sum()))
    elif drop_outliers:
        outliers = find_outliers(device, leaving_at(device, lab, smoothing), count)
        good[[index for index, _ in outliers]] = False
    held = np.zeros(len(lab), bool)
    held[np.random.default_rng(7).permutation(count)[: round(count * holdout)]] = True
    # The hull of ink space cannot be predicted from inside it; corners always stay in.
    held[:count] &= ~corners_of(data.device)
    held &= good
    names = letters_of(data.inks), GRID_POINTS[inks]
    error = np.zeros(1)
    if held.any():
        seen = _nodes(
            surface_through(device[~held & good], lab[~held & good], smoothing),
            inks,
            _nodes_around(device[held], GRID_POINTS[inks]),
        )
        error = delta_e_2000(ForwardModel(*names, _as_written(seen), data.substrate_xyz).lab(device[held]), lab[held])
    nodes = _nodes(surface_through(device[good], lab[good], smoothing), inks)
    model = ForwardModel(*names, nodes.astype(np.float32), data.substrate_xyz, data.inks)
    unmeasured = tuple(tuple(names[0][ink] for ink in each) for each in predicted.sets)
    told = float(error.mean()), float(np.percentile(error, 95))
    return Fit(model, *told, smoothing, tried, outliers, unmeasured, predicted.more_ink)


def _nodes(surface: Surface, inks: int, wanted: Mask | None = None) -> Array:
    """Lab (points**inks, 3) at the model's nodes; only those `wanted` are right, where they are told."""
    grid = ink_grid(inks)
    if wanted is None:
        nodes = surface.at(grid)
    else:
        nodes = np.zeros((len(grid), 3))
        nodes[wanted] = surface.at(grid[wanted])
    nodes = _balanced(nodes, inks) if inks >= _BALANCED_INKS else nodes
    nodes[0] = (100.0, 0.0, 0.0)
    nodes[:, 0] = np.clip(nodes[:, 0], 0, 100)
    return nodes


def _balanced(nodes: Array, inks: int) -> Array:
    """Nodes moved so far that straight lines between them err to both sides alike.

    Between two nodes a distance h apart a line through values of f'' errs by h² f'' / 12 on the mean, always to one side.
    With few nodes an ink that is more than the instrument's noise. Ends stay: bare and solid are measured.
    """
    points = GRID_POINTS[inks]
    grid = nodes.reshape(*[points] * inks, 3)
    out = grid.copy()
    for ink in range(inks):
        along, moved = np.moveaxis(grid, ink, 0), np.moveaxis(out, ink, 0)
        moved[1:-1] -= (along[:-2] - 2 * along[1:-1] + along[2:]) / 12
    return out.reshape(-1, 3)


def _nodes_around(device: Array, points: int) -> Mask:
    """Which nodes the values (n, inks) lie between, and their neighbors along each ink, which move them."""
    inks = device.shape[1]
    used = np.zeros((points,) * inks, bool)
    cell = np.clip((device * (points - 1)).astype(int), 0, points - 2)
    for corner in product((0, 1), repeat=inks):
        used[tuple((cell + corner).T)] = True
    around = used.copy()
    for ink in range(inks):
        along, grown = np.moveaxis(used, ink, 0), np.moveaxis(around, ink, 0)
        grown[1:] |= along[:-1]
        grown[:-1] |= along[1:]
    return around.ravel()


def _as_written(nodes: Array) -> NDArray[np.float32]:
    """Nodes as a profile's 16-bit table holds them (ICC.1:2022, table 12)."""
    scale, offset = 65535 / np.array([100.0, 255.0, 255.0]), np.array([0.0, 128.0, 128.0])
    return np.asarray(np.rint((nodes + offset) * scale) / scale - offset, np.float32)
