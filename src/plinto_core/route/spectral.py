"""The colors of a route under another light: spectra of lists and of prints, and how far a match falls apart.

Two colors that look alike under D50 need not do so under the shop's lamps. Where both have spectra, they are seen under a
second light, what is left of their difference under D50 taken out (CIE 15:2018, special metamerism index: change in
illuminant).
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.interpolate import RBFInterpolator

from plinto_core.colorimetry.lab import xyz_to_lab
from plinto_core.colorimetry.spectra import ILLUMINANTS, illuminant_power, light_white, reflectance_to_xyz, weighted
from plinto_core.errors import CharacterizationError, PipelineError
from plinto_core.icc.profile import Profile
from plinto_core.icc.values import Text
from plinto_core.inks.drive import driven_by_rgb, turned
from plinto_core.inks.names import letters_of
from plinto_core.measurement.cgats import read_measurements
from plinto_core.measurement.measurements import Measurements
from plinto_core.press.fit import SMOOTHING
from plinto_core.press.grid_kernels import evaluate_rows
from plinto_core.route.station import Station

Array = NDArray[np.float64]

#: Nodes along each ink, by the number of inks: light of one wavelength bends less over ink than Lab does.
_POINTS = {1: 65, 2: 33, 3: 17, 4: 9, 5: 7, 6: 5, 7: 4, 8: 3}
_LEAST = 1e-6
_MOST_PATCHES = 2500


@dataclass(frozen=True)
class SpectralPrint:
    """Spectra of a print by its inks: `nodes` (points**inks, 36) float32 are square roots of reflectance, in which paper
    between dots adds up more nearly (as Yule and Nielsen's n of 2 has it)."""

    inks: int
    by_rgb: bool
    nodes: NDArray[np.float32]

    def spectra(self, values: Array) -> Array:
        """Reflectance (n, 36) of ink values, or of R, G, B, 0…1 (n, channels)."""
        values = np.ascontiguousarray(turned(values) if self.by_rgb else values)
        out = np.empty((len(values), self.nodes.shape[1]))
        evaluate_rows(self.nodes, _POINTS[self.inks], self.inks, np.clip(values, 0, 1), out)
        return np.asarray(out**2)


def spectral_print(data: Measurements) -> SpectralPrint:
    """Spectra between measured patches. Raises `CharacterizationError` for data without spectra, or too little of it."""
    if data.spectra is None:
        raise CharacterizationError(f"'{data.title}' has no spectra: export them with the measurements.")
    inks = data.device.shape[1]
    if len(data.device) < (inks + 1) * (inks + 2):
        raise CharacterizationError(f"'{data.title}' has too few patches to tell of spectra between them.")
    # The work grows with the cube of the patches, and of a large chart an even part tells as much.
    kept = np.random.default_rng(7).permutation(len(data.device))[:_MOST_PATCHES]
    surface = RBFInterpolator(
        data.device[kept], np.sqrt(np.clip(data.spectra[kept], _LEAST, None)), kernel="cubic", degree=1,
        smoothing=SMOOTHING * len(kept),
    )  # fmt: skip
    axes = np.meshgrid(*[np.linspace(0, 1, _POINTS[inks])] * inks, indexing="ij")
    nodes = surface(np.stack(axes, axis=-1).reshape(-1, inks))
    return SpectralPrint(
        inks, driven_by_rgb(letters_of(data.inks)), np.clip(nodes, np.sqrt(_LEAST), 1.2).astype(np.float32)
    )


def print_of(profile: Profile) -> SpectralPrint:
    """The spectra that travel in a profile with its measurements. Raises `PipelineError` where there are none."""
    text = profile.tags.get("targ")
    try:
        if not isinstance(text, Text):
            raise CharacterizationError("no measurements travel in it")
        return _print_of(text.text, profile.name, profile.header.channels)
    except CharacterizationError as error:
        raise PipelineError(
            f"'{profile.name}' does not tell of spectra ({str(error).rstrip('.')}). Under another light than D50 only "
            "conditions that were measured with spectra can be compared."
        ) from error


@lru_cache(maxsize=8)
def _print_of(text: str, name: str, channels: int) -> SpectralPrint:
    # The last few are kept: a list is sorted and paged again and again.
    data, _notes = read_measurements(text.encode(), name)
    if data.device.shape[1] != channels:
        raise CharacterizationError("the measurements in it are of other inks")
    return spectral_print(data)


def spectra_at(station: Station) -> Array:
    """Reflectance (n, 36) of the colors at a station: as measured, or as its inks print; NaN for the colors of a list that
    came without. Raises `PipelineError` where none has any."""
    if station.spectra is not None:
        return station.spectra
    if station.profile is None or station.channels == ("L*", "a*", "b*"):
        raise PipelineError(
            f"'{station.name}' has colors without spectra, and nobody knows how these look under another light. Import "
            "the list with spectra (CGATS or CxF), or compare two columns of measured conditions."
        )
    return print_of(station.profile).spectra(station.values)


def seen_under(light: str, one: ArrayLike, other: ArrayLike) -> tuple[Array, Array]:
    """Lab (n, 3) of two sets of reflectances (n, 36) under a light, each against the light's own white.

    What the second differs from the first under D50 is taken out of it by a factor on X, Y and Z, so that all that is left
    is what the light does. Raises `PipelineError` for a light that is not among `ILLUMINANTS`.
    """
    if light not in ILLUMINANTS:
        raise PipelineError(f"'{light}' is no light that is known here; choose {', '.join(ILLUMINANTS)}.")
    power = illuminant_power(light)
    first, second = np.asarray(one, np.float64), np.asarray(other, np.float64)
    matched = reflectance_to_xyz(first) / np.clip(reflectance_to_xyz(second), _LEAST, None)
    white = light_white(power)
    return xyz_to_lab(weighted(first, power), white), xyz_to_lab(weighted(second, power) * matched, white)


def under_light(light: str, one: Station, other: Station) -> tuple[Array, Array]:
    """Lab (n, 3) of two stations under a light, as `seen_under`; under D50 they are what the route says.

    Raises `PipelineError` where one of them has no spectra.
    """
    if light == "D50":
        return one.lab, other.lab
    return seen_under(light, spectra_at(one), spectra_at(other))
