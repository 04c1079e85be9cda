"""Lab to inks for one forward model: what is precomputed once, and what a change of black or limit looks up."""

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.ndimage import distance_transform_edt, gaussian_filter, map_coordinates, maximum_filter

from plinto_core.colorimetry.lab import lab_to_lch, lch_to_lab
from plinto_core.colorimetry.straight import lab_to_straight, straight_to_lab
from plinto_core.computed_once import computed_once
from plinto_core.cores import on_its_cores
from plinto_core.gamut.boundary import HUES_DEG, LIGHTNESS, Boundary, in_lab, leaned_on, ridge_of
from plinto_core.gamut.mapping import ChromaCompression, GamutMapping, leaning
from plinto_core.press.model import ForwardModel
from plinto_core.recipe.black import BlackPolicy
from plinto_core.recipe.limits import InkLimits
from plinto_core.separation.black import black_wanted
from plinto_core.separation.bounds import caps_and_total
from plinto_core.separation.darkest import near_darkest
from plinto_core.separation.gray_axis import (
    GRAYS,
    LEVELS,
    GrayAxis,
    GrayBounds,
    black_along,
    gray_bounds,
    joined,
    softened,
    with_knees,
)
from plinto_core.separation.preferences import AXIS_WEIGHT, EXTRA_WEIGHT, OTHER_WEIGHT, extras, preferences
from plinto_core.separation.solve_kernels import follow_rows, solve_rows, start_rows
from plinto_core.separation.tables import InverseTables

Array = NDArray[np.float64]

# The precomputed grid over Lab: every 4 L*, every 8 a* and b*.
_L = np.arange(0, 101, 4.0)
_AB = np.arange(-120, 121, 8.0)
_SHAPE = (len(_L), len(_AB), len(_AB))
#: Black levels for which the precomputed grid knows the chromatic inks.
_BLACK_LEVELS = np.array([0.0, 0.33, 0.67, 1.0])
_FOCUS = np.array([1.0, 1.2, 1.2])
#: The same where inks do not go around the neutrals, as black and red: there hue cannot be held, and what holds it takes
#: the red ink out of every red that is not quite its own; and chroma pulls twice as much, or black would stand in for it.
_FEW_FOCUS = np.array([1.0, 2.4, 0.3])
#: They do not where so many degrees of hue between two neighbors are free; solids of less chroma count as neutral.
_FREE_DEG, _NEUTRAL_C = 200.0, 8.0
#: How much of them is asked about where others on black make it lighter.
_PART_OF_OTHERS = 0.4
#: What a squared distance of an ink from none counts where as little as can be is looked for.
_KNEE_WEIGHT = 0.01
#: Colors, about so many, by which it is seen what such inks print.
_EVERYWHERE = 12_000
#: Lightnesses and straight hues at which the black of the gamut's surface is found.
_HELD_L = np.arange(0, 101, 5.0)
_HELD_HUES_DEG = np.arange(0, 360, 10.0)
#: Degrees above the black point, 90 along the grays, for which it is told.
_ELEVATIONS_DEG = np.arange(0, 91, 3.0)
#: So far below the black point the rays begin, else the point itself would lie on all of them.
_BELOW_L = 0.1
#: By how much, and over which distance, rays are lowered next to the black point, and from which no black point counts.
_BENT_DEG, _BENT_L, _HELD_FAR = 14.0, 5.0, 40.0
#: Straight chroma that no ink reaches.
_FAR = 130.0
#: What lightness, chroma and hue count on the way there; and where a color is not to leave its lightness.
_SLIDING, _LEVEL = np.array([4.0, 0.6, 4.0]), np.array([16.0, 0.6, 4.0])
#: How often the surface is begun again from beside, where it was not found.
_TRIES = 6
#: The dark axis: from how much of other inks in the black on, over how many L*, at which chroma left.
_NO_EXTRAS, _AXIS_L, _AXIS_NEAR_C, _AXIS_STEPS = 0.02, 25.0, 12.0, 65
#: How often an axis is made neutral and softened.
_SOFTENED = 3
#: How firmly near-neutrals have the black that the axis of grays has, and from where they begin to, and do fully.
_AXIS_BLACK_WEIGHT, _NEAR_ENOUGH, _NEAR_FULLY = 1.0, 1e-3, 0.3
#: The power of nearness by which they have its other inks, within some 3 C*. Further out a color has to be free to make up
#: for its black: at 4, black on a ramp of one press fell by 48 % where it falls by 1 now.
_AXIS_OTHERS_POWER = 16.0


def precompute(model: ForwardModel) -> InverseTables:
    """Solve the model backwards over Lab × black, without limits; about a second, worth keeping on disk."""
    count = len(model.inks)
    # A walk to every node would take four times as long and find the same: every second one is walked to, the others
    # start between those.
    at = np.stack(np.meshgrid(*[np.arange(size) / 2 for size in _SHAPE], indexing="ij")).reshape(3, -1)
    grid = lab_to_straight(np.stack(np.meshgrid(_L, _AB, _AB, indexing="ij"), axis=-1).reshape(-1, 3))
    levels = []
    for level in _BLACK_LEVELS if model.black_index is not None else _BLACK_LEVELS[:1]:
        coarse = _walked(model, (_L[::2], _AB[::2]), level)
        starts = np.stack([map_coordinates(coarse[..., k], at, order=1, mode="nearest") for k in range(count)], -1)
        targets, weights = preferences(model, np.full(len(grid), level))
        out = np.empty((len(grid), count))
        solve_rows(
            model.nodes, model.points, grid, targets, weights[None], np.ones(count), float(count), _FOCUS, starts, 4, out,
        )  # fmt: skip
        levels.append(out.reshape(*_SHAPE, count))
    tables = np.stack(levels)
    black = model.black_index
    gray = tables[-1, ..., black] if black is not None else np.zeros(_SHAPE)
    # Creases of the largest black run along the neutrals, where eyes are keenest: round them a little.
    gray = gaussian_filter(gray, 0.6, mode="nearest")
    return InverseTables(tables.astype(np.float32), gray.astype(np.float32))


def _walked(model: ForwardModel, axes: tuple[Array, Array], level: float) -> Array:
    """Inks (L, a, b, inks) at a grid over Lab, by walks from one color to each node, with so much black wished for."""
    count = len(model.inks)
    grid = np.stack(np.meshgrid(axes[0], axes[1], axes[1], indexing="ij"), axis=-1)
    aims = lab_to_straight(grid).reshape(-1, 3)
    begin = np.full(count, 0.3)
    targets, weights = preferences(model, np.full(len(aims), level))
    out = np.empty((len(aims), count))
    follow_rows(
        model.nodes, model.points, aims, targets, weights, np.ones(count), float(count), _FOCUS,
        lab_to_straight(model.lab(begin)), begin, 10, 12, out,
    )  # fmt: skip
    return out.reshape(*grid.shape[:-1], count)


def go_around(model: ForwardModel) -> bool:
    """Whether the solids' hues go around the neutrals, as those of C, M and Y do, and of black and red do not."""
    lch = lab_to_lch(lab_to_straight(model.lab(np.eye(len(model.inks)))))
    hues = np.sort(lch[lch[:, 1] > _NEUTRAL_C, 2])
    return len(hues) > 0 and float(np.diff(hues, append=hues[0] + 360).max()) < _FREE_DEG


class Inverse:
    """Lab to inks with a black policy and limits; exact to the solver, no interpolation in the result."""

    def __init__(self, model: ForwardModel, tables: InverseTables, black: BlackPolicy, limits: InkLimits) -> None:
        self.model, self.tables, self.black, self.limits = model, tables, black, limits
        self.caps, self.total = caps_and_total(limits, black, model.inks)
        self._around = go_around(model)
        self._focus = _FOCUS if self._around else _FEW_FOCUS

    def inks(self, lab: ArrayLike, rounds: int = 10, hue: float = 1.0) -> Array:
        """Media-relative Lab (..., 3) to inks (..., inks) 0…1 within the limits.

        Aims outside the gamut go to the nearest color, hue held more firmly than lightness, lightness more
        firmly than chroma; `hue` is by how much as firmly as usual.
        """
        lab = np.asarray(lab, np.float64)
        aims = np.ascontiguousarray(lab.reshape(-1, 3)).copy()
        # Darker than black is asked for as black: else the search buys darkness with a color cast.
        # Chromatic darks can lie below the neutral black, by about a third of their chroma.
        floor = self.black_point_lab[0] - 0.35 * np.hypot(aims[:, 1], aims[:, 2])
        np.maximum(aims[:, 0], floor, out=aims[:, 0])
        place = _places(aims)
        straight = lab_to_straight(aims)
        near = np.exp(-((np.hypot(aims[:, 1], aims[:, 2]) / _AXIS_NEAR_C) ** 2))
        wanted = np.maximum(self._black_wanted(aims, place, near), self._black_held(straight))
        found = self._with_black(straight, place, wanted, rounds, hue)
        self._follow_grays(aims, straight, found, near, wanted, rounds)
        return found.reshape(*lab.shape[:-1], len(self.model.inks))

    def _with_black(self, straight: Array, place: Array, wanted: Array, rounds: int, hue: float = 1.0) -> Array:
        targets, weights = preferences(self.model, wanted)
        focus = self._focus * [1.0, 1.0, hue]
        return self._solve(straight, targets, weights, self._starts(place, wanted), rounds, focus)

    def _follow_grays(
        self, aims: Array, straight: Array, found: Array, near: Array, wanted: Array, rounds: int
    ) -> None:
        """Lead inks (n, inks) found for colors `near` (n,) 0…1 to the grays along their axis, in place."""
        axis = self._gray_axis
        if axis is None:
            return
        rows = (near > _NEAR_ENOUGH) & (aims[:, 0] < axis.lightness[-1])
        if not rows.any():
            return
        firm = near[rows, None] ** (1 if self._extras_in_black else _AXIS_OTHERS_POWER)
        wish = found[rows] + firm * (axis.at(aims[rows, 0]) - found[rows])
        loose = np.where(extras(self.model), EXTRA_WEIGHT, OTHER_WEIGHT)
        if self._extras_in_black:
            loose[:] = AXIS_WEIGHT
        weights = loose + firm * (np.maximum(loose, AXIS_WEIGHT) - loose)
        if self.model.black_index is not None:
            black = self.model.black_index
            wish[:, black] += np.minimum(near[rows] / _NEAR_FULLY, 1) * (wanted[rows] - wish[:, black])
            weights[:, black] = _AXIS_BLACK_WEIGHT
        found[rows] = self._solve(straight[rows], wish, weights, wish, rounds)

    @computed_once
    def _gray_axis(self) -> GrayAxis | None:
        """From the darkest neutral up; None where there is but one way to print a gray.

        Inks beyond the process colors, where they are a part of that black, are asked for only where the process colors
        give out, and would change places with them within two L*. So every ink goes straight from what it is in the
        middle grays to what it is in the black.
        """
        parts = []
        if self._extras_in_black:
            share = np.linspace(1, 0, _AXIS_STEPS)[:, None]
            inks = share * self._near_darkest + (1 - share) * self._middle
            lightness = np.maximum.accumulate(self.model.lab(inks)[:, 0])
            parts.append(GrayAxis(lightness + 1e-9 * np.arange(_AXIS_STEPS), inks))
        if self.model.black_index is not None and len(self.model.inks) > 1:
            neutrals, _bounds = self._gray_bounds
            parts.append(GrayAxis(neutrals[::-1, 0], self._held(neutrals, self._gray_black)[::-1]))
        if not parts or (len(parts) < 2 and not self._others_lighten):
            return parts[0] if parts else None
        axis = softened(joined(parts))
        # What makes the straight way neutral is a part of it, and comes in as softly.
        for _ in range(_SOFTENED):
            neutrals = lab_to_straight(np.column_stack([axis.lightness, np.zeros((len(axis.lightness), 2))]))
            weights = np.full(len(self.model.inks), AXIS_WEIGHT)
            axis = softened(GrayAxis(axis.lightness, self._solve(neutrals, axis.inks, weights, axis.inks, 16)))
        return axis

    @computed_once
    def darkest_lab(self) -> Array:
        """Lab (3,) of the darkest neutral: that of the black point, at a tenth of its cost."""
        return self.model.lab(self._near_darkest)

    @property
    def darkest_l(self) -> float:
        """Its L*."""
        return float(self.darkest_lab[0])

    @property
    def _extras_in_black(self) -> bool:
        """Whether inks beyond the process colors are a part of the darkest neutral."""
        extra = extras(self.model)
        return bool(extra.any() and self._near_darkest[extra].max() >= _NO_EXTRAS)

    @property
    def _middle_l(self) -> float:
        """The gray from which on the way to a black with extra inks goes straight."""
        return float(min(self.darkest_l + _AXIS_L, 90.0))

    @computed_once
    def _middle(self) -> Array:
        """Inks (inks,) of that gray."""
        begin = np.array([[self._middle_l, 0.0, 0.0]])
        if self.model.black_index is None:
            return np.asarray(self._with_black(lab_to_straight(begin), _places(begin), np.zeros(1), 16)[0])
        return np.asarray(self._held(begin, self._gray_black[-1:])[0])

    def inks_near(self, lab: Array, wanted: Array, weight: float) -> Array:
        """Of the inks that print reachable Lab (n, 3), those nearest to `wanted` (n, inks), whatever the black policy.

        `weight` is what a squared distance of an ink (0…1) counts against a squared ΔE.
        """
        return self._solve(lab_to_straight(lab), wanted, np.full(wanted.shape[1], weight), wanted, 10)

    def _solve(
        self, aims: Array, targets: Array, weights: Array, starts: Array, rounds: int, focus: Array | None = None
    ) -> Array:
        focus = self._focus if focus is None else focus
        out = np.empty((len(aims), len(self.model.inks)))
        solve_rows(
            self.model.nodes, self.model.points, aims, targets, np.atleast_2d(weights), self.caps, self.total, focus,
            starts, rounds, out,
        )  # fmt: skip
        return out

    def _black_wanted(self, aims: Array, place: Array, near: Array) -> Array:
        """Black (n,) that the policy asks for: what `_policy_black` says, and on the grays what their axis has."""
        if self.model.black_index is None or len(self.model.inks) == 1:
            return self._policy_black(aims, place)
        wanted = self._policy_black(aims, place) * np.interp(aims[:, 0], *self._gray_scale)
        return np.asarray(np.clip(wanted + near * np.interp(aims[:, 0], *self._gray_shift), 0, 1))

    def _policy_black(self, aims: Array, place: Array) -> Array:
        """Black (n,) that the policy alone asks for, color by color."""
        black = self.model.black_index
        if black is None:
            return np.zeros(len(aims))
        gray = map_coordinates(self.tables.gray_component, place, order=1, mode="nearest")
        alone = np.zeros(len(self.model.inks))
        alone[black] = self.caps[black]
        solid, darkest = self.model.lab(alone)[0], self.darkest_l
        # The ramp begins half its length before solid black alone gives out, so that it has no edge.
        begin = solid + 0.5 * (solid - darkest)
        t = np.clip((begin - aims[:, 0]) / max(begin - darkest, 1.0), 0, 1)
        return black_wanted(self.black, gray, t * t * (3 - 2 * t), self._most_black)

    def _black_held(self, straight: Array) -> Array:
        """Black (n,) that colors in straight coordinates (n, 3) keep on their way from the gamut's surface to black.

        On the surface black is not free: a strong, dark green is dark by black alone. Just inside, the policy could drop
        it for a third ink, and would ask for it again towards black. So it stays as high as it was where the line from
        the black point through the color leaves the gamut.
        """
        if self.model.black_index is None or self.caps[self.model.black_index] == 0:
            return np.zeros(len(straight))
        lch = lab_to_lch(straight)
        elevation = _elevation_deg(lch, self.black_point_lab[0])
        # Ramps of one color to black bend up there, and would leave what was held.
        far = np.hypot(lch[:, 0] - self.black_point_lab[0], lch[:, 1])
        elevation = np.maximum(elevation - np.minimum(_BENT_DEG * np.exp(-far / _BENT_L), 90 - elevation), 0)
        steps = elevation / _ELEVATIONS_DEG[1], lch[:, 2] / _HELD_HUES_DEG[1]
        held = map_coordinates(self._surface_black, np.stack(steps), order=1, mode="nearest")
        # No more than the black point has, the nearer the less: else it would have to be given up there.
        end = self.black_point_inks[self.model.black_index]
        return np.asarray(np.minimum(held, end + (1 - end) * np.minimum(far / _HELD_FAR, 1) ** 2))

    @computed_once
    def _surface_black(self) -> Array:
        """The least black of the surface, by elevation above the black point and straight hue, which closes the circle."""
        L, h = np.meshgrid(_HELD_L, _HELD_HUES_DEG, indexing="ij")
        inks = self._furthest(L, h)
        lch = lab_to_lch(lab_to_straight(self.model.lab(inks)))
        reached = (np.abs(lch[..., 0] - L) < 2) & (lch[..., 1] > 1)
        elevation = _elevation_deg(lch, self.black_point_lab[0])
        table = np.zeros((len(_ELEVATIONS_DEG), len(_HELD_HUES_DEG)))
        for at, rows in enumerate(reached.T):
            if rows.any():
                order = np.argsort(elevation[rows, at])
                black = inks[rows, at, self.model.black_index][order]
                table[:, at] = np.interp(_ELEVATIONS_DEG, elevation[rows, at][order], black)
        # Rays that come to lie lower on their way to black must not lose what they held, nor those between two of these;
        # nor those that turn to a hue beside. Where inks beyond the process colors stand in for black in one hue, the next
        # has nothing to do with it.
        table = np.maximum.accumulate(table[::-1])[::-1]
        beside = 1 if extras(self.model).any() else 3
        table = maximum_filter(table, (3, beside), mode=("nearest", "wrap"))
        table = gaussian_filter(table, 1.1, mode=("nearest", "wrap"))
        return np.column_stack([table, table[:, 0]])

    @computed_once
    def _gray_black(self) -> Array:
        """The black (n,) of the neutrals of `_gray_bounds`."""
        neutrals, bounds = self._gray_bounds
        # Full replacement means that other inks fall back, so they may.
        replaced = 1 - min(1.0, (100 - self.black.amount_percent) / 25)
        return black_along(bounds, self._policy_black(neutrals, _places(neutrals)), replaced)

    @computed_once
    def _gray_scale(self) -> tuple[Array, Array]:
        """By L* (n,), rising, the factor (n,) on what the policy alone wants that keeps it from asking for more than
        the grays can have."""
        neutrals, _bounds = self._gray_bounds
        wanted = self._policy_black(neutrals, _places(neutrals))
        scale = np.where(wanted > 0, np.minimum(self._gray_black / np.maximum(wanted, 1e-9), 1), 1.0)
        return neutrals[::-1, 0], gaussian_filter(scale, 1.0, mode="nearest")[::-1]

    @computed_once
    def _gray_shift(self) -> tuple[Array, Array]:
        """By L* (n,), rising, what is then still missing (n,) from the black of the axis of grays."""
        axis = self._gray_axis
        if axis is None:
            return np.array([0.0]), np.array([0.0])
        neutrals = np.column_stack([axis.lightness, np.zeros((len(axis.lightness), 2))])
        wanted = self._policy_black(neutrals, _places(neutrals)) * np.interp(axis.lightness, *self._gray_scale)
        return axis.lightness, axis.inks[:, self.model.black_index] - wanted

    @computed_once
    def _gray_bounds(self) -> tuple[Array, GrayBounds]:
        """Lab (n, 3) of neutrals from paper to black, or to where the way to a black with extra inks begins, and what
        bounds their black."""
        dark = self._middle_l if self._extras_in_black else self.darkest_l
        neutrals = np.column_stack([np.linspace(100, dark, GRAYS), np.zeros((GRAYS, 2))])
        most = float(self._near_darkest[self.model.black_index]) if self._extras_in_black else 1.0
        black = self.model.black_index
        cap, knees = float(self.caps[black]), self._others_lighten
        levels = (
            with_knees(cap, self._knees(neutrals)[:, black])
            if knees
            else np.tile(np.linspace(0, cap, LEVELS), (GRAYS, 1))
        )
        off, inks = self._held_off(np.repeat(neutrals, levels.shape[1], axis=0), levels.ravel())
        others = inks.sum(axis=1) - inks[:, black]
        twice = np.tile(neutrals, (2, 1))
        bounds = gray_bounds(
            levels, off.reshape(GRAYS, -1), others.reshape(GRAYS, -1), lambda held: self._held_off(twice, held)[0],
            most, knees=knees,
        )  # fmt: skip
        return neutrals, bounds

    @property
    def _others_lighten(self) -> bool:
        """Whether a part of the other process inks makes the most of black no darker: where it sticks badly on them."""
        alone = np.zeros((2, len(self.model.inks)))
        alone[:, self.model.black_index] = self.caps[self.model.black_index]
        others = self._process_caps.copy()
        others[self.model.black_index] = 0.0
        alone[1] += _PART_OF_OTHERS * others
        lone, joint = self.model.lab(alone)[:, 0]
        return bool(alone[0].any() and joint > lone)

    @property
    def _most_black(self) -> float:
        """The most black that the darkest neutral can have, 0…1."""
        if self._extras_in_black:
            return float(self._near_darkest[self.model.black_index])
        return float(self._gray_bounds[1].most[-1]) if len(self.model.inks) > 1 else 1.0

    def _knees(self, neutrals: Array) -> Array:
        """Inks (n, inks) of neutrals (n, 3) with as little of the others as there can be.

        Where black sticks badly on other inks, more of these makes a dark gray lighter, and many a black prints it with
        some or other; with few of them one black does, which lies between two levels.
        """
        black = self.model.black_index
        alone = np.zeros((65, len(self.model.inks)))
        alone[:, black] = np.linspace(0, self.caps[black], 65)
        starts = np.zeros((len(neutrals), len(self.model.inks)))
        starts[:, black] = np.interp(-neutrals[:, 0], -self.model.lab(alone)[:, 0], alone[:, black])
        weights = np.full(len(self.model.inks), _KNEE_WEIGHT)
        weights[black] = OTHER_WEIGHT * _KNEE_WEIGHT
        out = np.empty_like(starts)
        solve_rows(
            self.model.nodes, self.model.points, lab_to_straight(neutrals), starts, weights[None], self._process_caps,
            self._process_total, _FOCUS, starts, 16, out,
        )  # fmt: skip
        return out

    def _held_off(self, aims: Array, black: Array) -> tuple[Array, Array]:
        """By how much, ΔE (n,), Lab aims (n, 3) are missed that are printed with so much black (n,), and the inks."""
        found = self._held(aims, black)
        return np.linalg.norm(lab_to_straight(self.model.lab(found)) - lab_to_straight(aims), axis=1), found

    def _held(self, aims: Array, black: Array) -> Array:
        """Inks (n, inks) of Lab aims (n, 3) from the process colors and so much black (n,)."""
        targets, weights = preferences(self.model, black)
        weights[self.model.black_index] = 1e5
        out = np.empty((len(aims), len(self.model.inks)))
        solve_rows(
            self.model.nodes, self.model.points, lab_to_straight(aims), targets, weights[None], self._process_caps,
            self._process_total, _FOCUS, self._starts(_places(aims), black), 16, out,
        )  # fmt: skip
        return out

    @property
    def _process_caps(self) -> Array:
        """The limits (inks,) without the inks beyond the process colors."""
        return np.where(extras(self.model), 0.0, self.caps)

    @property
    def _process_total(self) -> float:
        """The total that the grays of process colors can have."""
        return min(self.total, float(self._near_darkest.sum())) if self._extras_in_black else self.total

    def _starts(self, place: Array, wanted: Array) -> Array:
        levels = self.tables.inks
        where = np.vstack([np.clip(wanted, 0, 1) * (len(levels) - 1), place]).T
        out = np.empty((len(where), levels.shape[-1]))
        on_its_cores(start_rows, len(where), levels, np.ascontiguousarray(where), out)
        return out

    @computed_once
    def black_point_inks(self) -> Array:
        """Inks (inks,) of the darkest neutral within limits and policy."""
        axis = self._gray_axis
        return self._near_darkest if axis is None else np.asarray(axis.inks[0])

    @computed_once
    def black_point_lab(self) -> Array:
        """Media-relative Lab (3,) of the darkest neutral within limits and policy."""
        return np.asarray(self.model.lab(self.black_point_inks))

    @computed_once
    def _near_darkest(self) -> Array:
        return near_darkest(self.model, self.caps, self.total)

    @computed_once
    def surface_inks(self) -> Array:
        """Inks (lightnesses, hues, inks) of the furthest colors at the lightnesses and straight hues of a `Boundary`."""
        L, h = np.meshgrid(LIGHTNESS, HUES_DEG, indexing="ij")
        inks = self._furthest(L, h)
        aims = lch_to_lab(np.stack([L, np.full_like(L, _FAR), h], axis=-1))
        # Where much more chroma lies some way below, the search leaves its lightness for it: once more from the neutrals.
        slid = ~_reached_lightness(self.model.lab(inks)) & ((self.darkest_l + 4 < L) & (L < 99))
        if slid.any():
            beside = straight_to_lab(lch_to_lab(np.stack([L[slid], np.full(slid.sum(), 4.0), h[slid]], axis=-1)))
            starts = self._starts(_places(beside), np.zeros(len(beside)))
            inks[slid] = self._slide(aims[slid], starts, _LEVEL)
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

    def _furthest(self, L: Array, hue_deg: Array) -> Array:
        """Inks (..., inks) of the strongest colors at lightnesses and straight hues (...)."""
        # Far out on the hue, lightness and hue held hard: the search slides to the gamut's edge.
        aims = lch_to_lab(np.stack([L, np.full_like(L, _FAR), hue_deg], axis=-1))
        inside = straight_to_lab(lch_to_lab(np.stack([L, np.full_like(L, _FAR / 2), hue_deg], axis=-1)))
        begin = self._starts(_places(inside.reshape(-1, 3)), np.zeros(L.size))
        return self._slide(aims, begin).reshape(*L.shape, -1)

    def _slide(self, aims: Array, starts: Array, firm: Array = _SLIDING) -> Array:
        """Inks (n, inks) as far out towards straight aims (..., 3) as lightness and hue, held so firmly, allow."""
        aims = aims.reshape(-1, 3)
        targets, weights = preferences(self.model, np.zeros(len(aims)))
        return self._solve(aims, targets, 0.01 * weights, starts, 12, firm)

    def mapping_from(self, source: Boundary, style: ChromaCompression) -> GamutMapping:
        """How a source's colors, its boundary in straight coordinates, come to lie in what these limits reach."""
        found = self._clip(lch_to_lab(source.ridge), self._focus * [1.0, style.cusp_shift, 1.0])
        shift = leaning(source, lab_to_straight(self.model.lab(found)))
        target = (
            self.straight_boundary
            if self._around
            else leaned_on(lab_to_straight(self.model.lab(self.everywhere_inks)))
        )
        return GamutMapping(source, target, style, shift)

    @property
    def everywhere_inks(self) -> Array:
        """Inks (n, inks) from everywhere within the limits, of a few inks."""
        steps = max(3, int(_EVERYWHERE ** (1 / len(self.caps))))
        axes = [np.linspace(0, cap, min(steps, 65)) for cap in self.caps]
        inks = np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1).reshape(-1, len(axes))
        return np.asarray(inks[inks.sum(axis=1) <= self.total + 1e-9])

    def _clip(self, aims: Array, focus: Array) -> Array:
        """Inks (n, inks) of the printable colors nearest to straight aims (n, 3), whatever the black policy."""
        targets, weights = preferences(self.model, np.zeros(len(aims)))
        starts = self._starts(_places(straight_to_lab(aims * [1.0, 0.5, 0.5])), np.zeros(len(aims)))
        return self._solve(aims, targets, weights, starts, 16, focus)

    @computed_once
    def boundary(self) -> Boundary:
        """How much CIELAB chroma these limits reach at every lightness and hue."""
        return in_lab(self.straight_boundary)

    @computed_once
    def straight_boundary(self) -> Boundary:
        """The same in the straight coordinates that colors are mapped in."""
        reached = lab_to_lch(lab_to_straight(self.model.lab(self.surface_inks)))
        # Lightnesses the press cannot have at all end far from where they were asked for.
        chroma = np.where(_reached_lightness(reached), reached[..., 1], 0.0)
        # Where a search still stopped on a ledge, both its neighbors in hue know better.
        beside = np.minimum(np.roll(chroma, 1, axis=1), np.roll(chroma, -1, axis=1))
        chroma = np.where(chroma < 0.7 * beside, beside, chroma)
        return Boundary(gaussian_filter(chroma, 0.4, mode=("nearest", "wrap")), ridge_of(reached))


def _elevation_deg(lch: Array, black_l: float) -> Array:
    """How steeply the line from just below the black point, which so counts as gray, to colors L*, C*, h (..., 3) rises,
    0…90 degrees."""
    return np.degrees(np.arctan2(np.maximum(lch[..., 0] - black_l, 0) + _BELOW_L, lch[..., 1]))


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
