"""A proofing system judged: what a press prints, printed by the proofing printer, and how far the two are apart.

The verdict holds the color differences against tolerances; as they stand here they are those of ISO 12647-7:2016, clause 4
(requirements on the proof print). What that standard asks of prints beyond color (evenness over the sheet, permanence,
gloss, rub resistance) no profile can tell.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.colorimetry.lab import lab_to_lch, xyz_to_lab
from plinto_core.errors import PipelineError
from plinto_core.icc.profile import Profile
from plinto_core.inks.drive import driven_by_rgb, turned
from plinto_core.inks.names import letters_of
from plinto_core.measurement.measurements import Measurements
from plinto_core.pipeline.space import space_of
from plinto_core.route.color_list import MOST_COLORS, ColorList, grid_of
from plinto_core.route.route import Waypoint, travel

Array = NDArray[np.float64]

#: From this much of a channel it is a full one.
_FULL = 0.999
#: Chroma away from the press's own line of grays, up to which what C, M and Y print together is a gray.
_GRAY_CHROMA = 3.0
_COMPOSITE = ("C", "M", "Y")


@dataclass(frozen=True)
class ProofTolerances:
    """What a proof may be off at most: ΔE00, except for hue (ΔH*ab) and grays (ΔCh, the distance in a* and b*).

    Defaults are those of ISO 12647-7:2016, clause 4.
    """

    paper: float = 3.0
    solids: float = 3.0
    solids_hue: float = 2.5
    grays_mean: float = 2.0
    grays_largest: float = 3.5
    outer_mean: float = 2.5
    spots: float = 2.5
    mean: float = 2.5
    p95: float = 5.0


@dataclass(frozen=True)
class Check:
    """One requirement: `tolerance` names it, `figure` in `unit` may be `allowed`; None where no color tells of it."""

    tolerance: str
    what: str
    unit: str
    figure: float | None
    allowed: float
    colors: int

    @property
    def held(self) -> bool | None:
        """Whether it is held; None where it cannot be told."""
        return None if self.figure is None else self.figure <= self.allowed


@dataclass(frozen=True)
class Off:
    """One color of the press and its proof: `values` 0…1, Lab ICC-absolute."""

    color: str
    delta_e: float
    values: tuple[float, ...]
    press_lab: tuple[float, ...]
    proof_lab: tuple[float, ...]


@dataclass(frozen=True)
class ProofJudgement:
    """ΔE00 over all colors, of paper and each solid by themselves, each requirement, and the largest errors."""

    press: str
    proofer: str
    colors: int
    mean: float
    p95: float
    p99: float
    largest: float
    over_three_percent: float
    apart: dict[str, float]
    checks: tuple[Check, ...]
    worst: tuple[Off, ...]

    @property
    def held(self) -> bool | None:
        """Whether all requirements are held; None where none is broken, but one cannot be told."""
        each = [check.held for check in self.checks]
        return False if False in each else None if None in each else True

    @property
    def verdict(self) -> str:
        """In a sentence."""
        broken = [
            f"{each.what} {each.figure:.2f}, {each.allowed:g} allowed" for each in self.checks if each.held is False
        ]
        untold = [each.what for each in self.checks if each.held is None]
        if broken:
            return f"Not within the tolerances: {'; '.join(broken)}."
        if untold:
            return f"Within the tolerances as far as they can be told: no color tells of {', '.join(untold)}."
        return "Within the tolerances."


def judged(
    press: Profile, proofer: Profile, colors: ColorList, tolerances: ProofTolerances = ProofTolerances(),
    spots: ColorList | None = None,
) -> ProofJudgement:  # fmt: skip
    """The press's colors, ICC-absolute, against the proof of them through the proofing printer's profile.

    Paper is proofed too: the printer lays the press's stock on its own. `spots` are the colors (Lab) of spot inks that the
    press prints beside its own, and the proof has to show. Raises `PipelineError`, `IccError`.
    """
    printed, proof = travel(colors, (Waypoint(press, "absolute"), Waypoint(proofer, "absolute")))
    return _judged(press, proofer.name, colors, printed.lab, proof.lab, tolerances, _spots_off(proofer, spots))


def _spots_off(proofer: Profile, spots: ColorList | None) -> Array | None:
    """ΔE00 (n,) from spot inks to their proof; None where there are none."""
    if spots is None:
        return None
    if not spots.is_lab:
        raise PipelineError("Spot inks are colors: choose a list of Lab or spectra, not of a device's values.")
    given, proof = travel(spots, (Waypoint(proofer, "absolute"),))
    return np.asarray(delta_e_2000(given.lab, proof.lab))


def judged_by_measurement(
    press: Profile, proof: Measurements, tolerances: ProofTolerances = ProofTolerances()
) -> ProofJudgement:
    """A proof that was printed and measured, against the colors that the press has for the same numbers.

    Raises `PipelineError` where the measurements are of other channels than the press's, `IccError`.
    """
    names = tuple(f"Patch {at}" for at in range(1, len(proof.device) + 1))
    letters = letters_of(proof.inks)
    rgb = driven_by_rgb(letters)
    colors = ColorList(names, ("R", "G", "B") if rgb else letters, turned(proof.device) if rgb else proof.device)
    printed = travel(colors, (Waypoint(press, "absolute"),))[0]
    return _judged(press, proof.title, colors, printed.lab, xyz_to_lab(proof.xyz), tolerances)


def _judged(
    press: Profile, proofer: str, colors: ColorList, printed: Array, proof: Array, tolerances: ProofTolerances,
    spots_off: Array | None = None,
) -> ProofJudgement:  # fmt: skip
    off = np.asarray(delta_e_2000(printed, proof))
    solids = _solids(colors)
    bare = _bare(colors)
    apart = {"paper": float(off[bare].mean())} if bare.any() else {}
    apart |= {f"solid {ink}": float(off[solid].mean()) for ink, solid in solids.items()}
    mean, p95, p99 = float(off.mean()), *(float(np.percentile(off, at)) for at in (95, 99))
    worst = tuple(
        Off(
            colors.names[at],
            float(off[at]),
            *(tuple(row.tolist()) for row in (colors.values[at], printed[at], proof[at])),
        )
        for at in np.argsort(off)[::-1][:5]
    )
    return ProofJudgement(
        press.name, proofer, len(off), mean, p95, p99, float(off.max()), float((off > 3).mean() * 100), apart,
        _checks(colors, printed, proof, off, tolerances, spots_off), worst,
    )  # fmt: skip


def _checks(
    colors: ColorList, printed: Array, proof: Array, off: Array, tolerances: ProofTolerances, spots_off: Array | None
) -> tuple[Check, ...]:
    bare, solids = _bare(colors), _solids(colors)
    any_solid = np.any(list(solids.values()), axis=0) if solids else np.zeros(len(off), bool)
    chromatic = [solid for ink, solid in solids.items() if ink in _COMPOSITE]
    hued = np.any(chromatic, axis=0) if chromatic else np.zeros(len(off), bool)
    grays = _grays(colors, printed)
    hue = _hue_difference(printed, proof)
    off_gray = np.hypot(*(proof - printed)[:, 1:].T)

    def check(tolerance: str, what: str, unit: str, figures: Array, largest: bool) -> Check:
        figure = None if not len(figures) else float(figures.max() if largest else figures.mean())
        return Check(tolerance, what, unit, figure, getattr(tolerances, tolerance), len(figures))

    all_p95 = Check("p95", "all colors, 95 % within", "ΔE00", float(np.percentile(off, 95)), tolerances.p95, len(off))
    rgb = colors.channels == ("R", "G", "B")
    return (
        check("paper", "paper", "ΔE00", off[bare], True),
        *(() if rgb else (check("solids", "solids, largest", "ΔE00", off[any_solid], True),)),
        *(() if not set(_COMPOSITE) <= set(colors.channels) else (
            check("solids_hue", "hue of C, M and Y, largest", "ΔH*ab", hue[hued], True),
            check("grays_mean", "grays of C, M and Y, mean", "ΔCh", off_gray[grays], False),
            check("grays_largest", "grays of C, M and Y, largest", "ΔCh", off_gray[grays], True),
        )),
        check("outer_mean", "outer gamut, mean", "ΔE00", off[_outer(colors)], False),
        *(() if spots_off is None else (check("spots", "spot inks, largest", "ΔE00", spots_off, True),)),
        check("mean", "all colors, mean", "ΔE00", off, False),
        all_p95,
    )  # fmt: skip


def _bare(colors: ColorList) -> NDArray[np.bool_]:
    values = colors.values
    if colors.channels == ("R", "G", "B"):
        return np.asarray((values >= _FULL).all(axis=1))
    return np.asarray((values <= 1 - _FULL).all(axis=1))


def _outer(colors: ColorList) -> NDArray[np.bool_]:
    """Which rows are of the outer gamut: one of C, M and Y (or R, G and B) full, another one nil, nothing else printed."""
    channels = colors.channels
    three = _COMPOSITE if set(_COMPOSITE) <= set(channels) else ("R", "G", "B")
    if not set(three) <= set(channels):
        return np.zeros(len(colors.values), bool)
    at = [channels.index(each) for each in three]
    chosen = colors.values[:, at]
    others = np.delete(colors.values, at, axis=1)
    surface = (chosen.max(axis=1) >= _FULL) & (chosen.min(axis=1) <= 1 - _FULL)
    return np.asarray(surface & (others <= 1 - _FULL).all(axis=1))


def _solids(colors: ColorList) -> dict[str, NDArray[np.bool_]]:
    """Which rows are a solid of one ink alone; for those inks that have one."""
    if colors.channels == ("R", "G", "B"):
        return {}
    found = {}
    for at, ink in enumerate(colors.channels):
        solid = (colors.values[:, at] >= _FULL) & (np.delete(colors.values, at, axis=1) <= 1 - _FULL).all(axis=1)
        if solid.any():
            found[ink] = solid
    return found


def _grays(colors: ColorList, printed: Array) -> NDArray[np.bool_]:
    """Grays of C, M and Y alone: tints of all three that the press prints as grays of its paper (the paper's own a* and b*
    fading towards black, as ISO 12647-2 has it)."""
    bare = _bare(colors)
    if not set(_COMPOSITE) <= set(colors.channels) or not bare.any():
        return np.zeros(len(printed), bool)
    paper = printed[bare][0]
    three = [colors.channels.index(ink) for ink in _COMPOSITE]
    others = np.delete(colors.values, three, axis=1)
    alone = (others <= 1 - _FULL).all(axis=1) & (colors.values[:, three] > 1 - _FULL).all(axis=1)
    gray = paper[1:] * np.clip(printed[:, :1] / paper[0], 0, 1)
    return np.asarray(alone & (np.hypot(*(printed[:, 1:] - gray).T) <= _GRAY_CHROMA))


def _hue_difference(one: Array, other: Array) -> Array:
    """ΔH*ab (n,) of Lab (n, 3), without sign (ISO/CIE 11664-4)."""
    flat = ((one - other)[:, 1:] ** 2).sum(axis=1)
    chroma = lab_to_lch(one)[:, 1] - lab_to_lch(other)[:, 1]
    return np.asarray(np.sqrt(np.clip(flat - chroma**2, 0, None)))


def proofed_colors(press: Profile, side: int) -> ColorList:
    """A grid of the press's numbers, `side` steps a channel or as many as a list holds, for judging its proof.

    Raises `PipelineError`.
    """
    channels = space_of(press).channels
    return grid_of(channels, min(side, int(MOST_COLORS ** (1 / len(channels)) + 1e-9)))
