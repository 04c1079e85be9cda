"""What no patch says: inks that a chart never prints on each other, as orange on cyan where a chart goes sector by sector;
and more ink than it prints, where it keeps a limit that its substrate bears.

A smooth fit knows nothing there and says anything: up to a* of 2,000, and a light green for four solids on each other.
Patches predicted from what is measured, by inks as films and the press's own dot gain, hold it.
"""

from dataclasses import dataclass
from itertools import combinations, product

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.lab import xyz_to_lab
from plinto_core.errors import CharacterizationError
from plinto_core.inks.names import letters_of
from plinto_core.measurement.measurements import Measurements
from plinto_core.press.corrected import corrected
from plinto_core.press.from_inks import InkNumbers

Array = NDArray[np.float64]
Inks = tuple[int, ...]

#: Less than this share of an ink's most is too little of it to tell of an overprint.
_SOME = 0.15
#: A single ink this near to its most is its solid.
_SOLID = 0.98
#: For so many inks half dots are looked at too, 243 mixtures for five; of more there would be thousands.
_FEW_INKS = 5
#: As many patches say what dot gain and spread of light are.
_ENOUGH = 300


@dataclass(frozen=True)
class Predicted:
    """Patches that nobody measured: ink values (n, inks) 0…1 and media-relative Lab (n, 3).

    `sets` are the smallest sets of inks that are never printed on each other; `more_ink` says whether inks that are printed
    on each other are not in such amounts.
    """

    device: Array
    lab: Array
    sets: tuple[Inks, ...] = ()
    more_ink: bool = False


def unmeasured_sets(device: Array) -> list[Inks]:
    """Sets of two and more inks, as places, that no patch (n, inks) prints on each other, smaller ones first."""
    inks = device.shape[1]
    present = device >= _SOME * np.maximum(device.max(axis=0), 1e-9)
    masks = np.unique(present @ (1 << np.arange(inks)))
    found = []
    for size in range(2, inks + 1):
        for each in combinations(range(inks), size):
            mask = sum(1 << ink for ink in each)
            if not ((masks & mask) == mask).any():
                found.append(each)
    return found


def more_ink_than_measured(share: Array) -> Array:
    """Mixtures (n, inks) of full (and, of few inks, half) dots that no patch (m, inks) comes up to; both are shares 0…1 of
    each ink's most."""
    inks = share.shape[1]
    mixtures = np.array(list(product((0.0, 0.5, 1.0) if inks <= _FEW_INKS else (0.0, 1.0), repeat=inks)))
    return mixtures[[not (share >= each - _SOME).all(axis=1).any() for each in mixtures]]


def predict_unmeasured(data: Measurements) -> Predicted:
    """Patches for what the data does not print on each other, or not so much of; none where it prints everything.

    Raises `CharacterizationError` where an ink is in no patch, or where two inks are in none together and the data does not
    say enough to predict them. Sets of three and more, and more ink than is measured, are left to the fit then.
    """
    letters, most = letters_of(data.inks), data.device.max(axis=0)
    silent = [name for name, value in zip(data.inks, most, strict=True) if value <= 0]
    if silent:
        raise CharacterizationError(
            f"{data.title or 'The data'} has no patch with any {', '.join(silent)}: leave it out, or print patches of it."
        )
    sets, more = unmeasured_sets(data.device), more_ink_than_measured(data.device / most)
    nothing = Predicted(np.empty((0, len(most))), np.empty((0, 3)))
    if not sets and not len(more):
        return nothing
    places = np.arange(len(most))
    rows = [np.isin(places, each) * level for each in sets for level in (1.0, 0.5)]
    pairs = [each for each in sets if len(each) == 2]
    for each in pairs:
        rows += [np.where(places == ink, 1.0, np.isin(places, each) * 0.5) for ink in each]
    device = np.unique([*rows, *more], axis=0) * most
    try:
        model = corrected(_numbers(data, letters, most), _fewer(data)).model
    except CharacterizationError:
        if pairs:
            raise
        return nothing
    smallest = tuple(each for each in sets if not any(set(other) < set(each) for other in sets))
    # The model has its inks in an order of its own.
    order = [letters.index(letter) for letter in model.inks]
    printed = [not any(each[list(inks)].all() for inks in smallest) for each in more]
    return Predicted(device, model.lab((device / most)[:, order]), smallest, any(printed))


def _numbers(data: Measurements, letters: tuple[str, ...], most: Array) -> InkNumbers:
    """The inks as a supplier would give them, by their solids and what is measured of their overprints."""
    share = data.device / most
    solids, overprints = {}, {}
    for at in np.flatnonzero(((share > _SOLID) | (share < 1e-6)).all(axis=1)):
        present = [letter for letter, dot in zip(letters, share[at], strict=True) if dot > _SOLID]
        lab = tuple(float(value) for value in xyz_to_lab(data.xyz[at]))
        if len(present) == 1:
            solids[present[0]] = lab
        elif present:
            overprints["+".join(present)] = lab
    lacking = [name for name, letter in zip(data.inks, letters, strict=True) if letter not in solids]
    if lacking:
        raise CharacterizationError(
            f"{data.title or 'The data'} prints some inks never on each other, and has no solid of {', '.join(lacking)} by "
            "itself to tell what that would look like: print patches of either."
        )
    paper = tuple(float(value) for value in xyz_to_lab(data.substrate_xyz))
    return InkNumbers(data.title or "The data", paper, solids, overprints)  # type: ignore[arg-type]


def _fewer(data: Measurements) -> Measurements:
    """Of many patches, enough: spread over the chart, in fractions of each ink's most."""
    some = np.linspace(0, len(data.device) - 1, min(len(data.device), _ENOUGH)).astype(int)
    return Measurements(data.inks, data.device[some] / data.device.max(axis=0), data.xyz[some], None, data.title)
