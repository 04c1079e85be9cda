"""What characterization data says of a press: substrate, solids, dot gain, total ink, fit, wrong patches."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.lab import xyz_to_lab
from plinto_core.inks.names import letters_of, name_of
from plinto_core.measurement.measurements import Measurements
from plinto_core.press.fit import Fit, fit_model

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Characterization:
    """Lab is ICC-absolute, D50. `ramps` holds, for each ink, (dot, tone value) pairs as fractions (Murray-Davies on
    the component that the ink absorbs most); `gain_50` the gain at the half tone, in percent points; `wrong_patches`
    are ink values with ΔE00 to what the others say; `stops_at` the
    largest percent of each ink without a solid."""

    title: str
    inks: tuple[str, ...]
    patches: int
    substrate_lab: tuple[float, ...]
    solids_lab: dict[str, tuple[float, ...]]
    ramps: dict[str, tuple[tuple[float, float], ...]]
    gain_50: dict[str, float]
    most_ink_percent: float
    fit: Fit
    notes: tuple[str, ...]
    wrong_patches: tuple[tuple[tuple[float, ...], float], ...] = ()
    stops_at: tuple[tuple[str, float], ...] = ()


def characterize(
    data: Measurements, notes: list[str], holdout: float = 0.1, smoothing: float | None = None
) -> Characterization:
    """Fit the data, name its wrong patches, and read the press off it. Raises `CharacterizationError`."""
    fit = fit_model(data, holdout, smoothing, drop_outliers=True)
    letters = letters_of(data.inks)
    most = data.device.max(axis=0)
    short = tuple((letter, float(value) * 100) for letter, value in zip(letters, most, strict=True) if value < 0.995)
    if short:
        told = ", ".join(f"{value:.0f} % of {letter}" for letter, value in short)
        notes = [*notes, f"The chart stops at {told}: nothing above is known, so limits start there."]
    if fit.unmeasured:
        told = ", ".join(" on ".join(map(name_of, each)) for each in fit.unmeasured)
        notes = [*notes, f"No patch prints {told}: what that looks like is predicted, not measured."]
    if fit.more_ink:
        total = float(data.device.sum(axis=1).max()) * 100
        notes = [
            *notes,
            f"No patch has more than {total:.0f} % of ink: what more looks like is predicted, not measured.",
        ]
    ramps = {letter: tone_ramp(data, index) for index, letter in enumerate(letters)}
    solids = {}
    for index, letter in enumerate(letters):
        alone = np.delete(data.device, index, axis=1).max(axis=1, initial=0) < 1e-6
        solid = alone & (data.device[:, index] > 0.995)
        if solid.any():
            solids[letter] = _tuple(xyz_to_lab(data.xyz[solid].mean(axis=0)))
    gains = {}
    for letter, ramp in ramps.items():
        if ramp:
            dots, tones = np.array(ramp).T
            gains[letter] = float(np.interp(0.5, dots, tones) - 0.5) * 100
    return Characterization(
        data.title, letters, len(data.device), _tuple(xyz_to_lab(data.substrate_xyz)), solids, ramps, gains,
        float(data.device.sum(axis=1).max()) * 100, fit, tuple(notes),
        tuple((tuple(map(float, data.device[index])), error) for index, error in fit.outliers), short,
    )  # fmt: skip


def _tuple(lab: Array) -> tuple[float, ...]:
    return tuple(round(float(value), 2) for value in lab)


def tone_ramp(data: Measurements, ink: int) -> tuple[tuple[float, float], ...]:
    """(dot, tone value) of one ink's ramp from paper to solid; empty where the data has no ramp (ISO 12647-1, 3.28)."""
    alone = np.delete(data.device, ink, axis=1).max(axis=1, initial=0) < 1e-6
    dots, xyz = data.device[alone, ink], data.xyz[alone]
    order = np.argsort(dots)
    dots, xyz = dots[order], xyz[order]
    if len(dots) < 4 or dots[-1] < 0.995:
        return ()
    fall = xyz[0] - xyz[-1]
    component = int(fall.argmax())
    if fall[component] < 0.02:
        return ()
    tone = (xyz[0, component] - xyz[:, component]) / fall[component]
    return tuple((round(float(d), 4), round(float(t), 4)) for d, t in zip(dots, tone, strict=True))


__all__ = ["Characterization", "characterize", "tone_ramp"]
