"""A condition from a few numbers: Lab of paper, solids and overprints, dot gain of each ink (Neugebauer, Yule-Nielsen)."""

import json
from collections.abc import Iterable
from dataclasses import asdict, dataclass, field
from itertools import combinations, pairwise, product
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator

from plinto_core.colorimetry.lab import D50_XYZ, lab_to_xyz, xyz_to_lab
from plinto_core.errors import CharacterizationError
from plinto_core.plain import read_plain
from plinto_core.press.model import GRID_POINTS, ForwardModel, ink_grid
from plinto_core.press.overprints import films_of
from plinto_core.recipe.curve import LEAST_STEP

Array = NDArray[np.float64]
Lab = tuple[float, float, float]
MOST_INKS = 8
#: Gain of tone value at the half tone where nobody says it, in percent points.
_USUAL_GAIN = 15.0
#: Beyond these a number is no color that was measured of a print.
_MOST_L, _MOST_AB, _LEAST_PAPER_L = 110.0, 200.0, 5.0
#: By how much (Y) an ink may be lighter than its paper, as fluorescent ones are.
_LIGHTER = 1.5
#: What an ink differs from its paper by at least (ΔE*ab).
_LEAST_ON_PAPER = 2.0


@dataclass(frozen=True)
class InkNumbers:
    """What a supplier gives: ICC-absolute Lab (D50) of the paper, of each solid and of overprints (as 'CM').

    `gain_percent` is the gain of tone value at the half tone, as a densitometer has it (ISO 12647-1: Murray-Davies, so
    that light spread in the stock is part of it); `tone_curves` (dot, tone value) pairs in percent in its place.
    `yule_nielsen_n` says how far light spreads in the stock (1 hard dots … 2.5 fabric).
    """

    name: str
    paper: Lab
    solids: dict[str, Lab]
    overprints: dict[str, Lab] = field(default_factory=dict)
    gain_percent: dict[str, float] = field(default_factory=dict)
    yule_nielsen_n: float = 1.7
    tone_curves: dict[str, tuple[tuple[float, float], ...]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        if not 1 <= len(self.solids) <= MOST_INKS:
            raise CharacterizationError(
                f"'{self.name}' names {len(self.solids)} solids; one to eight inks are meant."
            )
        self._check_colors()
        for letter, curve in self.tone_curves.items():
            if not _rises(curve):
                raise CharacterizationError(
                    f"'{self.name}': the tone curve of {letter} has to rise, with dots between 0 and 100 % and tones of 0 "
                    "to 100 %."
                )
        if not 1 <= self.yule_nielsen_n <= 4 or any(not 0 <= gain <= 45 for gain in self.gain_percent.values()):
            raise CharacterizationError(f"'{self.name}': the Yule-Nielsen n is 1 to 4, dot gain 0 to 45 %.")
        named = {letter for inks in self.overprints for letter in self.inks_in(inks)}
        unknown = named | self.gain_percent.keys() | self.tone_curves.keys()
        if unknown - self.solids.keys():
            raise CharacterizationError(
                f"'{self.name}' speaks of {', '.join(sorted(unknown - self.solids.keys()))} and has no solid of it."
            )

    def _check_colors(self) -> None:
        """Raises `CharacterizationError` for what no paper, and no ink on it, looks like."""
        wrong = ""
        paper_y = lab_to_xyz(self.paper)[1]
        for part, lab in {"paper": self.paper, **self.solids, **self.overprints}.items():
            if not (0 <= lab[0] <= _MOST_L and max(abs(lab[1]), abs(lab[2])) <= _MOST_AB):
                told, ab = " ".join(f"{value:g}" for value in lab), f"{-_MOST_AB:g} to {_MOST_AB:g}"
                wrong = f"{part} is given as L*a*b* {told}. L* is 0 to {_MOST_L:g}, a* and b* are {ab}."
            elif part in self.solids and np.linalg.norm(np.subtract(lab, self.paper)) < _LEAST_ON_PAPER:
                wrong = f"{part} looks like the paper and prints nothing. Give its solid's color."
            elif part in self.solids and lab_to_xyz(lab)[1] > _LIGHTER * paper_y:
                wrong = (
                    f"{part} (L* {lab[0]:g}) is far lighter than the paper (L* {self.paper[0]:g}). Inks are reckoned with "
                    "that take light away: on a dark stock give the white underbase as the paper, and the inks as they "
                    "look on it."
                )
            if wrong:
                raise CharacterizationError(f"'{self.name}': {wrong}")
        if self.paper[0] < _LEAST_PAPER_L:
            raise CharacterizationError(
                f"'{self.name}': a paper of L* {self.paper[0]:g} shows no ink. Is its L* in the right place?"
            )

    def inks_in(self, overprint: str) -> tuple[str, ...]:
        """The inks of an overprint's key: letters next to each other ('CM'), or names with '+' between them."""
        return tuple(part.strip() for part in overprint.split("+")) if "+" in overprint else tuple(overprint)

    @property
    def missing_overprints(self) -> tuple[str, ...]:
        """Overprints of two inks that nobody gave, and that are predicted."""
        given = {frozenset(self.inks_in(key)) for key in self.overprints}
        return tuple(
            "+".join(pair) for pair in combinations(in_order(self.solids), 2) if frozenset(pair) not in given
        )


def _rises(curve: tuple[tuple[float, float], ...]) -> bool:
    dots, tones = [dot for dot, _ in curve], [tone for _, tone in curve]
    # Apart from each other, from paper and from the solid: between dots 1e-310 apart a slope has no number.
    apart = all(b - a >= 100 * LEAST_STEP for a, b in pairwise([0.0, *dots, 100.0]))
    return bool(curve) and apart and tones[0] >= 0 and tones[-1] <= 100 and tones == sorted(tones)


def in_order(inks: Iterable[str]) -> tuple[str, ...]:
    """Inks in the order of a model: C, M, Y, K, then the others by letter."""
    return tuple(sorted(inks, key=lambda letter: ("CMYK".find(letter) % 99, letter)))


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
    paper, solids = lab_to_xyz((95, 0, 0)), {k: lab_to_xyz(v) for k, v in numbers.items()}
    # Good enough to look at, and at once: shares of light multiply.
    primaries = []
    for present in _sets(letters):
        xyz = paper.copy()
        for letter in present:
            xyz = xyz * solids[letter] / paper
        primaries.append(xyz)
    return printed(letters, np.array(primaries), np.full((len(letters), 2), [_USUAL_GAIN / 100, 0.0]), 1.7)


def ink_numbers_from_json(plain: object) -> InkNumbers:
    """Read the numbers; `CharacterizationError` says what is wrong with them."""
    if isinstance(plain, dict) and "spread" in plain:
        # What files of before version 0.4.4 call it.
        plain = {"yule_nielsen_n": plain["spread"], **plain}
    return read_plain(InkNumbers, plain, "The ink numbers", CharacterizationError, strict=False)


def ink_numbers_to_json(numbers: InkNumbers) -> dict[str, Any]:
    """Plain values, to be saved and handed on."""
    plain: dict[str, Any] = json.loads(json.dumps(asdict(numbers)))
    return plain


def model_from_inks(numbers: InkNumbers) -> ForwardModel:
    """A forward model of the numbers: overprints as they are given, or predicted (`overprints.films_of`)."""
    inks = in_order(numbers.solids)
    return printed(inks, primaries_of(numbers), tones_of(numbers), numbers.yule_nielsen_n, _curves(numbers, inks))


def primaries_of(numbers: InkNumbers) -> Array:
    """XYZ (2**inks, 3) of paper, solids and every overprint, the first ink varying slowest; given ones as they are."""
    inks = in_order(numbers.solids)
    paper = lab_to_xyz(numbers.paper)
    solids = {letter: lab_to_xyz(lab) for letter, lab in numbers.solids.items()}
    given = {frozenset(numbers.inks_in(key)): lab_to_xyz(lab) for key, lab in numbers.overprints.items()}
    sets = _sets(inks)
    primaries = films_of(paper, solids, given).xyz(sets)
    for at, present in enumerate(sets):
        known = paper if not present else solids[present[0]] if len(present) == 1 else given.get(frozenset(present))
        if known is not None:
            primaries[at] = known
    return primaries


def tones_of(numbers: InkNumbers) -> Array:
    """(inks, 2): gain of tone value at the half tone (fraction), and how far it leans to the dark side (0: evenly).

    Where a tone curve is known, the gain is that of the curve.
    """
    inks = in_order(numbers.solids)
    gains = {letter: numbers.gain_percent.get(letter, _USUAL_GAIN) / 100 for letter in inks}
    gains |= {inks[at]: float(curve(0.5)) - 0.5 for at, curve in _curves(numbers, inks).items()}
    return np.array([[gains[letter], 0.0] for letter in inks])


def _sets(inks: tuple[str, ...]) -> list[tuple[str, ...]]:
    return [
        tuple(letter for letter, on in zip(inks, present, strict=True) if on)
        for present in product((0, 1), repeat=len(inks))
    ]


def _curves(numbers: InkNumbers, inks: tuple[str, ...]) -> dict[int, PchipInterpolator]:
    return {
        inks.index(letter): PchipInterpolator(*np.array([(0.0, 0.0), *curve, (100.0, 100.0)]).T / 100)
        for letter, curve in numbers.tone_curves.items()
    }


def areas(
    dots: Array, primaries: Array, gains: Array, spread: float, curves: dict[int, PchipInterpolator] | None = None
) -> Array:  # fmt: skip
    """Dot areas (n, inks) that print the tone values of gains or curves, with light spread by the stock.

    Tone value is Murray-Davies on the component that the ink absorbs most; with n above 1 a smaller area prints it.
    """
    inks = dots.shape[1]
    found = np.empty_like(dots)
    for index in range(inks):
        solid = primaries[2 ** (inks - 1 - index)]
        component = int((primaries[0] - solid).argmax())
        light, dark = max(primaries[0][component], 1e-6), max(solid[component], 1e-6)
        dot = dots[:, index]
        if curves and index in curves:
            tone = np.asarray(curves[index](dot))
        else:
            gain, lean = gains[index]
            tone = dot + 4 * gain * dot * (1 - dot) * (1 + lean * (2 * dot - 1))
        tone = np.clip(tone, 0, 1)
        left = np.maximum(light - tone * (light - dark), 1e-6) ** (1 / spread)
        span = light ** (1 / spread) - dark ** (1 / spread)
        found[:, index] = np.clip((light ** (1 / spread) - left) / span, 0, 1) if span > 1e-9 else dot
    return found


def mixed(area: Array, primaries: Array, spread: float) -> Array:
    """XYZ (n, 3) of dot areas (n, inks) over the primaries (2**inks, 3): Demichel's shares, Yule and Nielsen's n."""
    weights = np.ones((len(area), 1))
    for index in range(area.shape[1]):
        a = area[:, index, None, None]
        weights = (weights[..., None] * np.concatenate([1 - a, a], axis=-1)).reshape(len(area), -1)
    return np.asarray((weights @ np.maximum(primaries, 1e-6) ** (1 / spread)) ** spread)


def printed(
    inks: tuple[str, ...], primaries: Array, gains: Array, spread: float,
    curves: dict[int, PchipInterpolator] | None = None,
) -> ForwardModel:  # fmt: skip
    """The forward model of primaries (2**inks, 3) XYZ, gains (inks, 2) and light spread."""
    dots = ink_grid(len(inks))
    xyz = mixed(areas(dots, primaries, gains, spread, curves), primaries, spread)
    paper = primaries[0]
    lab = xyz_to_lab(xyz * D50_XYZ / paper)
    lab[0] = (100.0, 0.0, 0.0)
    return ForwardModel(inks, GRID_POINTS[len(inks)], lab.astype(np.float32), paper)
