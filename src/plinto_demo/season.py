"""The season's colors with four spots, and two routes that they are followed along."""

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import fsolve

from plinto_core.colorimetry.lab import xyz_to_lab
from plinto_core.colorimetry.spectra import WAVELENGTHS_NM, reflectance_to_xyz
from plinto_core.policy.spots import Spot, spots_of
from plinto_core.recipe import Intent
from plinto_core.route.color_list import ColorList, typed_list
from plinto_demo.inks import BLUE, CYAN, MAGENTA, ORANGE, YELLOW, Ink

Array = NDArray[np.float64]

SEASON_NAME = "Season, Night Garden"
#: Twelve colors as L*, a*, b* (D50); four of them are mixed as spot inks.
SEASON = """\
Night 10 2 -17
Petal, spot 56 76 -16
Bloom blue, spot 45 28 -72
Ember, spot 69 38 63
Lantern red 55 58 42
Moth dust 76 8 27
Dusk 45 19 -20
Reed 62 -27 46
Paper 95 0 2
Lake green, spot 39 -34 9
Wing gray 58 0 2
Seed husk 43 18 30
"""

#: What the four spots are mixed of; the others are known as colors only.
PIGMENTS: dict[str, tuple[Ink, ...]] = {
    "Petal, spot": (MAGENTA, BLUE),
    "Bloom blue, spot": (BLUE, CYAN),
    "Ember, spot": (ORANGE,),
    "Lake green, spot": (CYAN, YELLOW),
}

#: Routes by name: steps as a condition's slug with intent and black point compensation.
ROUTES: tuple[tuple[str, tuple[tuple[str, Intent, bool], ...]], ...] = (
    ("Press through proofer", (("tern-news-45", "relative", True), ("halden-silk-150", "absolute", False))),
    ("Six-ink look", (("sateen-reactive", "perceptual", True),)),
)


def season_list() -> ColorList:
    """The season's list: its spots with spectra, as if measured."""
    colors = typed_list(SEASON)
    assert colors is not None
    spectra = np.full((len(colors.names), len(WAVELENGTHS_NM)), np.nan)
    for row, name in enumerate(colors.names):
        if name in PIGMENTS:
            spectra[row] = mixed(PIGMENTS[name], colors.values[row])
    return ColorList(colors.names, colors.channels, colors.values, spectra)


def season_spots() -> tuple[Spot, ...]:
    """The season's spot inks by their own color."""
    colors = season_list()
    return tuple(each for each in spots_of(colors.names, colors.values) if each.name in PIGMENTS)


def mixed(pigments: tuple[Ink, ...], lab: Array) -> Array:
    """Reflectance (36,) of a mix that has this Lab (D50, 2°): the pigments' bands on white, with three broad absorptions
    by which a color mixer would bring it home."""
    start = 0.88 * np.prod([ink.transmittance(1 / len(pigments)) for ink in pigments], axis=0)
    broad = np.exp(-(((WAVELENGTHS_NM - np.array([[450.0], [545.0], [620.0]])) / 60) ** 2))

    def spectrum(density: Array) -> Array:
        return np.asarray(np.clip(start * 10.0 ** -(density @ broad), 1e-4, 1.0))

    return spectrum(fsolve(lambda density: xyz_to_lab(reflectance_to_xyz(spectrum(density))) - lab, np.zeros(3)))
