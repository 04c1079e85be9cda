"""Judging a profile: round trip, neutrality, dot gain, ink laid down, smoothness, gamut."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.colorimetry.lab import lab_to_lch, lab_to_xyz, xyz_to_lab
from plinto_core.errors import CharacterizationError
from plinto_core.gamut.boundary import Boundary
from plinto_core.gamut.volume import volume
from plinto_core.icc.profile import Profile
from plinto_core.icc.values import CurveLut, TableLut
from plinto_core.inks.drive import inks_to_lab, lab_to_inks
from plinto_core.measurement.measurements import Measurements
from plinto_core.press.model import ForwardModel, model_from_profile, must_have_way_back
from plinto_core.recipe.black import BLACK_PRESETS
from plinto_core.recipe.limits import InkLimits
from plinto_core.separation.inverse import Inverse, precompute
from plinto_core.separation.tables import InverseTables

Array = NDArray[np.float64]

_STEPS = 51


@dataclass(frozen=True)
class Judgement:
    """Figures of an output profile, relative colorimetric unless said otherwise.

    `gray_axis` is (L* asked, L*, a*, b* printed) rows, white to black; `max_neutral_chroma` the largest chroma on it, paper
    and black included; `gain` for each ink (dot, tone value) rows; `most_ink_percent` the largest total in its tables.
    `round_trip_map` is the mean ΔE00 by lightness (10 rows, dark first) and hue (24 columns), -1 where nothing prints;
    `against_data` mean, 99th percentile and worst ΔE00 of A2B against measurements.
    """

    name: str
    version: str
    inks: tuple[str, ...]
    round_trip_mean: float
    round_trip_p99: float
    round_trip_worst: float
    gray_axis: tuple[tuple[float, ...], ...]
    max_neutral_chroma: float
    gain: dict[str, tuple[tuple[float, float], ...]]
    most_ink_percent: float
    black_lab: tuple[float, ...]
    gray_inks: tuple[tuple[float, ...], ...]
    roughness: float
    gamut_volume: float
    round_trip_map: tuple[tuple[float, ...], ...]
    against_data: tuple[float, float, float] | None


def judge(
    profile: Profile, tables: InverseTables | None = None, colors: int = 20_000, data: Measurements | None = None
) -> Judgement:
    """Judge an output profile, against measurements too if there are any. Raises `IccError` for other profiles."""
    model = model_from_profile(profile)
    must_have_way_back(profile)
    black = lab_to_inks(profile, [[0.0, 0.0, 0.0]])
    black_lab = inks_to_lab(profile, black)[0]
    axis = np.zeros((_STEPS, 3))
    axis[:, 0] = np.linspace(100, float(black_lab[0]), _STEPS)
    inks = lab_to_inks(profile, axis)
    printed = inks_to_lab(profile, inks)
    sent, error = _round_trip(profile, colors)
    steps = np.diff(inks * 255, axis=0)
    rough = np.abs(steps[1:-1]) - (np.abs(steps[:-2]) + np.abs(steps[2:]))
    return Judgement(
        name=profile.name,
        version=".".join(map(str, profile.header.version)),
        inks=model.inks,
        round_trip_mean=float(error.mean()),
        round_trip_p99=float(np.percentile(error, 99)),
        round_trip_worst=float(error.max()),
        gray_axis=tuple(
            (round(float(a), 2), *(round(float(v), 3) for v in p)) for a, p in zip(axis[:, 0], printed, strict=True)
        ),
        max_neutral_chroma=float(np.hypot(printed[:, 1], printed[:, 2]).max()),
        gain=_gain(profile, model),
        most_ink_percent=_most_ink(profile),
        black_lab=tuple(round(float(v), 2) for v in black_lab),
        gray_inks=tuple(tuple(round(float(v), 4) for v in row) for row in inks),
        roughness=max(float(rough.max()), 0.0),
        gamut_volume=volume(gamut_of(model, tables)),
        round_trip_map=_map_of(sent, error),
        against_data=_against(profile, data) if data else None,
    )


def _map_of(lab: Array, error: Array) -> tuple[tuple[float, ...], ...]:
    lch = lab_to_lch(lab)
    row = np.clip((lch[:, 0] / 10).astype(int), 0, 9)
    column = np.clip((lch[:, 2] / 15).astype(int), 0, 23)
    counts, sums = np.zeros((10, 24)), np.zeros((10, 24))
    np.add.at(counts, (row, column), 1)
    np.add.at(sums, (row, column), error)
    means = np.where(counts > 0, sums / np.maximum(counts, 1), -1.0)
    return tuple(tuple(round(float(v), 3) for v in each) for each in means)


def _against(profile: Profile, data: Measurements) -> tuple[float, float, float]:
    if data.device.shape[1] != profile.header.channels:
        raise CharacterizationError(
            f"'{data.title}' has {data.device.shape[1]} inks and '{profile.name}' {profile.header.channels}."
        )
    error = delta_e_2000(inks_to_lab(profile, data.device, "absolute"), xyz_to_lab(data.xyz))
    return float(error.mean()), float(np.percentile(error, 99)), float(error.max())


def gamut_of(
    model: ForwardModel, tables: InverseTables | None = None, total_percent: float | None = None
) -> Boundary:
    """The gamut of a forward model, with all the ink it can take unless a total is given."""
    total = total_percent or 100.0 * len(model.inks)
    return Inverse(model, tables or precompute(model), BLACK_PRESETS["gcr"], InkLimits(total)).boundary


def _round_trip(profile: Profile, colors: int) -> tuple[Array, Array]:
    """Lab (n, 3) that the profile's own separation prints, and ΔE00 (n,) of B2A then A2B for each."""
    random = np.random.default_rng(31)
    lab = random.random((colors, 3)) * [90, 180, 180] + [8, -90, -90]
    # What its own separation printed once is inside its gamut; these colors are sent round.
    inside = inks_to_lab(profile, lab_to_inks(profile, lab))
    return inside, np.asarray(delta_e_2000(inks_to_lab(profile, lab_to_inks(profile, inside)), inside))


def _gain(profile: Profile, model: ForwardModel) -> dict[str, tuple[tuple[float, float], ...]]:
    dots = np.linspace(0, 1, 21)
    found = {}
    for index, ink in enumerate(model.inks):
        ramp = np.zeros((21, len(model.inks)))
        ramp[:, index] = dots
        xyz = lab_to_xyz(inks_to_lab(profile, ramp))
        fall = xyz[0] - xyz[-1]
        component = int(fall.argmax())
        tone = (xyz[0, component] - xyz[:, component]) / max(float(fall[component]), 1e-6)
        found[ink] = tuple((round(float(d), 3), round(float(t), 4)) for d, t in zip(dots, tone, strict=True))
    return found


def _most_ink(profile: Profile) -> float:
    """Largest sum in the tables that lead to inks, read from the tables themselves; 0 for a printer driven by RGB."""
    most = 0.0
    if profile.header.space == "RGB ":
        return most
    for tag, value in profile.tags.items():
        if tag.startswith("B2A") and isinstance(value, TableLut | CurveLut) and value.grid is not None:
            most = max(most, float(value.grid.sum(axis=-1).max()))
    return most * 100
