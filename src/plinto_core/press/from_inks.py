"""A condition from a few numbers: Lab of paper, solids and overprints, dot gain of each ink (cellular Neugebauer)."""

from dataclasses import dataclass, field
from functools import cache
from itertools import product
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pydantic import TypeAdapter, ValidationError

from plinto_core.colorimetry.lab import D50_XYZ, lab_to_xyz, xyz_to_lab
from plinto_core.errors import CharacterizationError
from plinto_core.press.model import GRID_POINTS, ForwardModel, ink_grid

Array = NDArray[np.float64]
Lab = tuple[float, float, float]


@dataclass(frozen=True)
class InkNumbers:
    """What a supplier gives: ICC-absolute Lab (D50) of the paper, of each solid and of overprints (as 'CM').

    `gain_percent` is the gain at the half tone; `spread` the Yule-Nielsen n of the stock (1 hard dots … 2.5 fabric).
    """

    name: str
    paper: Lab
    solids: dict[str, Lab]
    overprints: dict[str, Lab] = field(default_factory=dict)
    gain_percent: dict[str, float] = field(default_factory=dict)
    spread: float = 1.7

    def __post_init__(self) -> None:
        if not 1 <= len(self.solids) <= 6:
            raise CharacterizationError(f"'{self.name}' names {len(self.solids)} solids; one to six inks are meant.")
        if not 1 <= self.spread <= 4 or any(not 0 <= gain <= 45 for gain in self.gain_percent.values()):
            raise CharacterizationError(f"'{self.name}': spread is 1 to 4, dot gain 0 to 45 %.")
        strangers = {letter for inks in self.overprints for letter in inks} | self.gain_percent.keys()
        if strangers - self.solids.keys():
            raise CharacterizationError(
                f"'{self.name}' speaks of {', '.join(sorted(strangers - self.solids.keys()))} and has no solid of it."
            )


#: What inks look like until somebody measures them: enough to draw a chart on the screen.
_GUESSED: dict[str, Lab] = {
    "C": (55, -36, -50), "M": (48, 74, -3), "Y": (89, -5, 93), "K": (16, 0, 0), "O": (65, 58, 70), "G": (55, -65, 30),
    "V": (30, 45, -50), "B": (28, 25, -58), "R": (48, 68, 48),
}  # fmt: skip


def guessed_model(letters: tuple[str, ...]) -> ForwardModel:
    """A forward model by the inks' names alone, for a viewer to draw a chart with."""
    numbers = {}
    for letter in letters:
        lab = _GUESSED.get(letter.upper(), (50.0, 0.0, 0.0))
        light = letter.islower()
        numbers[letter] = (100 - (100 - lab[0]) * 0.4, lab[1] * 0.4, lab[2] * 0.4) if light else lab
    return _neugebauer(letters, lab_to_xyz((95, 0, 0)), {k: lab_to_xyz(v) for k, v in numbers.items()}, {}, {}, 1.7)


@cache
def _reader() -> TypeAdapter[InkNumbers]:
    return TypeAdapter(InkNumbers)


def ink_numbers_from_json(plain: object) -> InkNumbers:
    """Read the numbers; `CharacterizationError` says what is wrong with them."""
    try:
        return _reader().validate_python(plain)
    except ValidationError as error:
        first = error.errors()[0]
        where = " › ".join(str(part) for part in first["loc"]) or "the file"
        raise CharacterizationError(f"The ink numbers cannot be read at {where}: {first['msg']}.") from error


def ink_numbers_to_json(numbers: InkNumbers) -> dict[str, Any]:
    """Plain values, to be saved and handed on."""
    return {k: (list(v) if isinstance(v, tuple) else v) for k, v in numbers.__dict__.items()}


def model_from_inks(numbers: InkNumbers) -> ForwardModel:
    """A forward model: Yule-Nielsen-modified Neugebauer in XYZ over the overprints, given or multiplied."""
    inks = tuple(sorted(numbers.solids, key=lambda letter: ("CMYK".find(letter) % 99, letter)))
    paper = lab_to_xyz(numbers.paper)
    solids = {letter: lab_to_xyz(lab) for letter, lab in numbers.solids.items()}
    given = {frozenset(key): lab_to_xyz(lab) for key, lab in numbers.overprints.items()}
    return _neugebauer(inks, paper, solids, given, numbers.gain_percent, numbers.spread)


def _neugebauer(
    inks: tuple[str, ...], paper: Array, solids: dict[str, Array], given: dict[frozenset[str], Array],
    gain_percent: dict[str, float], spread: float,
) -> ForwardModel:  # fmt: skip
    primaries = []
    for present in product((0, 1), repeat=len(inks)):
        letters = frozenset(letter for letter, on in zip(inks, present, strict=True) if on)
        xyz = given.get(letters)
        if xyz is None:
            # Inks that nobody measured on each other are taken as clear films: their shares of light multiply.
            xyz = paper.copy()
            for letter in letters:
                xyz = xyz * solids[letter] / paper
        primaries.append(xyz)
    n = spread
    rooted = np.maximum(np.array(primaries), 1e-6) ** (1 / n)
    dots = ink_grid(len(inks))
    area = np.empty_like(dots)
    for index, letter in enumerate(inks):
        gain = gain_percent.get(letter, 15.0) / 100
        area[:, index] = np.clip(dots[:, index] + 4 * gain * dots[:, index] * (1 - dots[:, index]), 0, 1)
    weights = np.ones((len(dots), 1))
    for index in range(len(inks)):
        a = area[:, index, None, None]
        weights = (weights[..., None] * np.concatenate([1 - a, a], axis=-1)).reshape(len(dots), -1)
    lab = xyz_to_lab((weights @ rooted) ** n * D50_XYZ / paper)
    lab[0] = (100.0, 0.0, 0.0)
    return ForwardModel(inks, GRID_POINTS[len(inks)], lab.astype(np.float32), paper)
