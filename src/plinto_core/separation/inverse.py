"""Lab to inks for one forward model: what is precomputed once, and what a change of black or limit looks up."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.ndimage import distance_transform_edt, gaussian_filter, map_coordinates

from plinto_core.colorimetry.lab import lab_to_lch, lch_to_lab
from plinto_core.computed_once import computed_once
from plinto_core.errors import RecipeError
from plinto_core.gamut.boundary import HUES_DEG, LIGHTNESS, Boundary
from plinto_core.press.model import ForwardModel
from plinto_core.separation.black import BlackPolicy
from plinto_core.separation.solve_kernels import follow_rows, solve_rows, start_rows

Array = NDArray[np.float64]

# The precomputed grid over Lab: every 4 L*, every 8 a* and b*.
_L = np.arange(0, 101, 4.0)
_AB = np.arange(-120, 121, 8.0)
_SHAPE = (len(_L), len(_AB), len(_AB))
#: Black levels for which the precomputed grid knows the chromatic inks.
_BLACK_LEVELS = np.array([0.0, 0.33, 0.67, 1.0])
_FOCUS = np.array([1.0, 1.2, 1.2])
#: How often the surface is begun again from beside, where it was not found.
_TRIES = 6
#: How strongly the black target counts against a squared ΔE of the color: it biases colors by about 0.001 ΔE.
_BLACK_WEIGHT = 0.1
_OTHER_WEIGHT = 1e-4
#: Inks beyond the process colors are for what those cannot reach: they cost more, a bias of about 0.01 ΔE.
_EXTRA_WEIGHT = 1e-2


@dataclass(frozen=True)
class InkLimits:
    """Total ink in percent of one ink, and a limit for single inks by their letter."""

    total_percent: float
    per_ink_percent: tuple[tuple[str, float], ...] = ()

    def __post_init__(self) -> None:
        if not 50 <= self.total_percent <= 800:
            raise RecipeError(f"A total ink of {self.total_percent:g} % cannot print; choose 50 to 800 %.")
        for ink, limit in self.per_ink_percent:
            if not 0 <= limit <= 100:
                raise RecipeError(f"The limit of ink {ink} is {limit:g} %; choose 0 to 100 %.")

    def caps(self, inks: tuple[str, ...]) -> Array:
        """Largest value (inks,) 0…1 of each ink. RecipeError for a letter the condition does not have."""
        limits = dict(self.per_ink_percent)
        strangers = sorted(limits.keys() - set(inks))
        if strangers:
            raise RecipeError(f"There is no ink {', '.join(strangers)} here; this condition has {', '.join(inks)}.")
        return np.array([limits.get(ink, 100.0) / 100 for ink in inks])

    def without(self, inks: tuple[str, ...]) -> "InkLimits":
        """The same limits with these inks taken away."""
        others = tuple(pair for pair in self.per_ink_percent if pair[0] not in inks)
        return InkLimits(self.total_percent, (*others, *((ink, 0.0) for ink in inks)))


@dataclass(frozen=True)
class InverseTables:
    """Over a Lab grid: `inks` (levels, L, a, b, inks) for four black levels, and `gray_component` (L, a, b)."""

    inks: NDArray[np.float32]
    gray_component: NDArray[np.float32]


def precompute(model: ForwardModel) -> InverseTables:
    """Solve the model backwards over Lab × black, without limits; about a second, worth keeping on disk."""
    count = len(model.inks)
    grid = np.stack(np.meshgrid(_L, _AB, _AB, indexing="ij"), axis=-1).reshape(-1, 3)
    levels = []
    begin = np.full(count, 0.3)
    origin = model.lab(begin)
    for level in _BLACK_LEVELS if model.black_index is not None else _BLACK_LEVELS[:1]:
        targets, weights = _preferences(model, np.full(len(grid), level))
        out = np.empty((len(grid), count))
        follow_rows(
            model.nodes, model.points, grid, targets, weights, np.ones(count), float(count), _FOCUS,
            origin, begin, 10, 12, out,
        )  # fmt: skip
        levels.append(out.reshape(*_SHAPE, count))
    tables = np.stack(levels)
    black = model.black_index
    gray = tables[-1, ..., black] if black is not None else np.zeros(_SHAPE)
    # Creases of the largest black run along the neutrals, where eyes are keenest: round them a little.
    gray = gaussian_filter(gray, 0.6, mode="nearest")
    return InverseTables(tables.astype(np.float32), gray.astype(np.float32))


def _preferences(model: ForwardModel, black: Array) -> tuple[Array, Array]:
    targets = np.zeros((len(black), len(model.inks)))
    process = {"C", "M", "Y"} <= set(model.inks)
    weights = np.array([_EXTRA_WEIGHT if process and ink not in "CMYK" else _OTHER_WEIGHT for ink in model.inks])
    if model.black_index is not None:
        targets[:, model.black_index] = black
        weights[model.black_index] = _BLACK_WEIGHT
    return targets, weights


class Inverse:
    """Lab to inks with a black policy and limits; exact to the solver, no interpolation in the result."""

    def __init__(self, model: ForwardModel, tables: InverseTables, black: BlackPolicy, limits: InkLimits) -> None:
        self.model, self.tables, self.black, self.limits = model, tables, black, limits
        self.caps = limits.caps(model.inks)
        if model.black_index is not None:
            # "Black at most" is a cap on the ink, not only on the wish for it.
            ceiling = black.maximum_percent / 100
            self.caps[model.black_index] = min(self.caps[model.black_index], ceiling)
        self.total = min(limits.total_percent / 100, float(len(model.inks)))

    def inks(self, lab: ArrayLike, rounds: int = 10) -> Array:
        """Media-relative Lab (..., 3) to inks (..., inks) 0…1 within the limits.

        Aims outside the gamut go to the nearest color, hue held more firmly than lightness, lightness more
        firmly than chroma.
        """
        lab = np.asarray(lab, np.float64)
        aims = np.ascontiguousarray(lab.reshape(-1, 3)).copy()
        # Darker than black is asked for as black: else the search buys darkness with a color cast.
        # Chromatic darks can lie below the neutral black, by about a third of their chroma.
        floor = self.black_point_lab[0] - 0.35 * np.hypot(aims[:, 1], aims[:, 2])
        np.maximum(aims[:, 0], floor, out=aims[:, 0])
        place = _places(aims)
        wanted = self._black_wanted(aims, place)
        targets, weights = _preferences(self.model, wanted)
        return self._solve(aims, targets, weights, self._starts(place, wanted), rounds).reshape(
            *lab.shape[:-1], len(self.model.inks)
        )

    def inks_near(self, lab: Array, wanted: Array, weight: float) -> Array:
        """Of the inks that print reachable Lab (n, 3), those nearest to `wanted` (n, inks), whatever the black policy.

        `weight` is what a squared distance of an ink (0…1) counts against a squared ΔE.
        """
        return self._solve(lab, wanted, np.full(wanted.shape[1], weight), wanted, 10)

    def _solve(
        self, aims: Array, targets: Array, weights: Array, starts: Array, rounds: int, focus: Array = _FOCUS
    ) -> Array:
        out = np.empty((len(aims), len(self.model.inks)))
        solve_rows(
            self.model.nodes, self.model.points, aims, targets, weights, self.caps, self.total, focus, starts, rounds,
            out,
        )  # fmt: skip
        return out

    def _black_wanted(self, aims: Array, place: Array, *, keep_others: bool = True) -> Array:
        black = self.model.black_index
        if black is None:
            return np.zeros(len(aims))
        gray = map_coordinates(self.tables.gray_component, place, order=1, mode="nearest")
        alone = np.zeros(len(self.model.inks))
        alone[black] = self.caps[black]
        solid, darkest = self.model.lab(alone)[0], self.black_point_lab[0]
        # The ramp begins half its length before solid black alone gives out, so that it has no edge.
        begin = solid + 0.5 * (solid - darkest)
        t = np.clip((begin - aims[:, 0]) / max(begin - darkest, 1.0), 0, 1)
        wanted = self.black.target(gray, t * t * (3 - 2 * t), self.black_point_inks[black])
        if not keep_others:
            return wanted
        lightness, scale = self._black_scale
        return np.asarray(wanted * np.interp(aims[:, 0], lightness, scale))

    @computed_once
    def _black_scale(self) -> tuple[Array, Array]:
        """By L* (rising), the factor on the wanted black that keeps the other inks from falling back.

        Black that rises faster than the shadows need would thin out the chromatic inks just before the black
        point asks for all of them again; that dip shows as a band. Full replacement means it, so it may.
        """
        levels = np.linspace(0, 1, 33)
        lightness = np.linspace(100, self.black_point_lab[0], 48)
        neutrals = np.column_stack([lightness, np.zeros((48, 2))])
        wanted = self._black_wanted(neutrals, _places(neutrals), keep_others=False)
        others = self._other_inks_by_black(neutrals, levels)
        correction = min(1.0, (100 - self.black.amount_percent) / 25)
        scale = np.ones(48)
        most = 0.0
        for i in range(48):
            along = others[i]
            at_wanted = float(np.interp(wanted[i], levels, along))
            if at_wanted < most and wanted[i] > 0:
                kept = float(np.interp(-most, -along, levels))
                scale[i] = 1 - correction * max(0.0, 1 - kept / wanted[i])
            most = max(most, at_wanted)
        return lightness[::-1], gaussian_filter(scale, 1.0, mode="nearest")[::-1]

    def _other_inks_by_black(self, neutrals: Array, levels: Array) -> Array:
        """Sum of all inks but black, (neutrals, levels), falling along the levels, with black held at each."""
        count = len(self.model.inks)
        black = self.model.black_index
        aims = np.repeat(neutrals, len(levels), axis=0)
        targets, weights = _preferences(self.model, np.tile(levels, len(neutrals)))
        weights[black] = 1e5
        place = _places(aims)
        out = np.empty((len(aims), count))
        solve_rows(
            self.model.nodes, self.model.points, aims, targets, weights, np.ones(count), float(count), _FOCUS,
            self._starts(place, targets[:, black]), 10, out,
        )  # fmt: skip
        others = (out.sum(axis=1) - out[:, black]).reshape(len(neutrals), len(levels))
        return np.minimum.accumulate(others - 1e-9 * levels, axis=1)

    def _starts(self, place: Array, wanted: Array) -> Array:
        levels = self.tables.inks
        where = np.vstack([np.clip(wanted, 0, 1) * (len(levels) - 1), place]).T
        out = np.empty((len(where), levels.shape[-1]))
        start_rows(levels, np.ascontiguousarray(where), out)
        return out

    @computed_once
    def black_point_inks(self) -> Array:
        """Inks (inks,) of the darkest neutral within limits and policy."""
        inks = len(self.model.inks)
        out = np.empty((1, inks))
        targets, weights = _preferences(self.model, np.ones(1))
        # Neutrality counts far more than the last tenth of lightness.
        focus = np.array([1.0, 6.0, 6.0])
        follow_rows(
            self.model.nodes, self.model.points, np.zeros((1, 3)), targets, weights, self.caps, self.total,
            focus, self.model.lab(np.zeros(inks)), np.zeros(inks), 25, 40, out,
        )  # fmt: skip
        return np.asarray(out[0])

    @computed_once
    def black_point_lab(self) -> Array:
        """Media-relative Lab (3,) of the darkest neutral within limits and policy."""
        return np.asarray(self.model.lab(self.black_point_inks))

    @computed_once
    def surface_inks(self) -> Array:
        """Inks (lightnesses, hues, inks) of the furthest colors at the lightnesses and hues of a `Boundary`."""
        L, h = np.meshgrid(LIGHTNESS, HUES_DEG, indexing="ij")
        # Far out on the hue, lightness and hue held hard: the search slides to the gamut's edge.
        aims = lch_to_lab(np.stack([L, np.full_like(L, 115.0), h], axis=-1))
        begin = self._starts(_places(aims.reshape(-1, 3)), np.zeros(L.size))
        inks = self._slide(aims, begin).reshape(*L.shape, -1)
        for _ in range(_TRIES):
            reached = _reached_lightness(self.model.lab(inks))
            short = ~reached & _enclosed(reached)
            if not short.any():
                break
            # A press whose small dots print unevenly has ledges on which the search stops: on from beside them.
            turns = np.concatenate([reached] * 3, axis=1)
            row, column = distance_transform_edt(~turns, return_distances=False, return_indices=True)
            middle = slice(len(HUES_DEG), 2 * len(HUES_DEG))
            beside = inks[row[:, middle], column[:, middle] % len(HUES_DEG)]
            inks[short] = self._slide(aims[short], beside[short])
        return inks

    def _slide(self, aims: Array, starts: Array) -> Array:
        """Inks (n, inks) as far out towards aims (..., 3) as lightness and hue allow."""
        aims = aims.reshape(-1, 3)
        targets, weights = _preferences(self.model, np.zeros(len(aims)))
        return self._solve(aims, targets, 0.01 * weights, starts, 12, np.array([4.0, 0.6, 4.0]))

    @computed_once
    def boundary(self) -> Boundary:
        """How much chroma these limits reach at every lightness and hue."""
        reached = lab_to_lch(self.model.lab(self.surface_inks))
        # Lightnesses the press cannot have at all end far from where they were asked for.
        chroma = np.where(_reached_lightness(reached), reached[..., 1], 0.0)
        return Boundary(gaussian_filter(chroma, 0.5, mode=("nearest", "wrap")))


def _reached_lightness(lab: Array) -> NDArray[np.bool_]:
    """Whether colors (lightnesses, hues, 3) are as light as the lightnesses of a `Boundary` ask."""
    return np.asarray(np.abs(lab[..., 0] - LIGHTNESS[:, None]) < 4)


def _enclosed(reached: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """What has something reached above and below it, or on both sides."""
    lightness = np.logical_or.accumulate(reached) & np.logical_or.accumulate(reached[::-1])[::-1]
    return np.asarray(lightness | (np.roll(reached, 1, axis=1) & np.roll(reached, -1, axis=1)))


def _places(aims: Array) -> Array:
    """Grid coordinates (3, n) of Lab aims (n, 3)."""
    return np.stack([aims[:, 0] / 4, (aims[:, 1] + 120) / 8, (aims[:, 2] + 120) / 8])
