"""Characterization data: ink values with the color measured for each, and its CGATS text (ISO 28178)."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.lab import xyz_to_lab
from plinto_core.colorimetry.spectra import WAVELENGTHS_NM, light_white, to_d50, weighted
from plinto_core.errors import CharacterizationError
from plinto_core.inks.drive import driven_by_rgb, turned
from plinto_core.inks.names import letters_of

Array = NDArray[np.float64]

#: Of XYZ (0…1): a tenth of what the blackest cloth reflects.
_DARKEST_SUBSTRATE = 1e-4


def device_fields(letters: tuple[str, ...]) -> list[str]:
    """Field names of the ink values: CMYK_C, …, RGB_R, … for printers driven by RGB, or 6CLR_1, … for other ink sets."""
    family = "".join(letters)
    if driven_by_rgb(letters):
        return ["RGB_R", "RGB_G", "RGB_B"]
    if family in ("CMYK", "CMY"):
        return [f"{family}_{letter}" for letter in letters]
    return [f"{len(letters)}CLR_{at}" for at in range(1, len(letters) + 1)]


def colorants(names: tuple[str, ...]) -> list[str]:
    """Head lines that name the inks of numbered fields; nothing for process inks."""
    if device_fields(letters_of(names))[0][:3] in ("CMY", "RGB"):
        return []
    return ['KEYWORD "COLORANTS"', f'COLORANTS "{";".join(names)}"']


def device_columns(device: Array, letters: tuple[str, ...]) -> Array:
    """Ink values (patches, inks) 0…1 as files have them: percent, or R, G, B of 0 to 255."""
    return turned(device) * 255 if driven_by_rgb(letters) else device * 100


#: Keywords that say who measured what with what (ISO 28178, 5.2): they go along with the data wherever it goes.
PROVENANCE = (
    "ORIGINATOR", "CREATED", "MANUFACTURER", "PROD_DATE", "SERIAL", "MATERIAL", "PRINT_CONDITIONS", "INSTRUMENTATION",
    "MEASUREMENT_SOURCE", "MEASUREMENT_CONDITION", "MEASUREMENT_GEOMETRY", "ILLUMINATION_NAME", "OBSERVER_ANGLE",
    "FILTER", "POLARIZATION", "SAMPLE_BACKING", "WEIGHTING_FUNCTION", "COMPUTATIONAL_PARAMETER", "TARGET_TYPE",
    "PROCESSCOLOR_ID",
)  # fmt: skip
#: Keywords of PROVENANCE with what the file said.
Provenance = tuple[tuple[str, str], ...]


def provenance_of(keywords: Mapping[str, str]) -> Provenance:
    """What a file's head says about where its data comes from."""
    return tuple((key, keywords[key]) for key in PROVENANCE if keywords.get(key, "").strip())


@dataclass(frozen=True)
class Measurements:
    """`device` (patches, inks) 0…1; `xyz` (patches, 3), D50, perfect diffuser Y = 1; spectra if there are any.

    `provenance` is what the file, or the instrument, said of itself; nothing is made up where it said nothing.
    """

    inks: tuple[str, ...]
    device: Array
    xyz: Array
    spectra: Array | None = None
    title: str = ""
    provenance: Provenance = ()

    def __post_init__(self) -> None:
        patches = len(self.device)
        if self.device.shape != (patches, len(self.inks)) or self.xyz.shape != (patches, 3):
            raise CharacterizationError(
                f"{self.title or 'The data'} has {self.device.shape} ink values and {self.xyz.shape} colors: "
                "every patch needs one value an ink and one color."
            )

    @property
    def substrate_xyz(self) -> Array:
        """XYZ (3,) of the bare substrate: the mean of the patches without ink."""
        bare = self.device.max(axis=1) <= 1e-6
        if not bare.any():
            raise CharacterizationError(
                f"{self.title or 'The data'} has no patch without ink: measure the bare substrate too."
            )
        substrate = np.asarray(self.xyz[bare].mean(axis=0))
        if substrate.min() < _DARKEST_SUBSTRATE:
            raise CharacterizationError(
                f"The patch without ink of {self.title or 'the data'} is black: no color is relative to such a substrate. "
                "Measure it again, or look whether the columns are what their names say."
            )
        return substrate

    def to_cgats(self) -> str:
        """The data as CGATS text with percent dot (or R, G, B of 0 to 255), XYZ (0…100), Lab and spectra."""
        fields = [
            "SAMPLE_ID",
            *device_fields(letters_of(self.inks)),
            "XYZ_X",
            "XYZ_Y",
            "XYZ_Z",
            "LAB_L",
            "LAB_A",
            "LAB_B",
        ]
        columns = [device_columns(self.device, letters_of(self.inks)), self.xyz * 100, xyz_to_lab(self.xyz)]
        if self.spectra is not None:
            fields += [f"SPECTRAL_NM{nm:.0f}" for nm in WAVELENGTHS_NM]
            columns.append(self.spectra)
        rows = [
            f"{index} " + " ".join(f"{value:.5g}" for value in row) for index, row in enumerate(np.hstack(columns), 1)
        ]
        said = [f'{key} "{_quotable(value)}"' for key, value in self.provenance]
        head = ["CGATS.17", f'DESCRIPTOR "{_quotable(self.title)}"', *said, f"NUMBER_OF_FIELDS {len(fields)}",
                *colorants(self.inks), "BEGIN_DATA_FORMAT", " ".join(fields), "END_DATA_FORMAT",
                f"NUMBER_OF_SETS {len(rows)}", "BEGIN_DATA"]  # fmt: skip
        return "\n".join([*head, *rows, "END_DATA", ""])


def _quotable(text: str) -> str:
    return " ".join(text.replace('"', "'").split())


def under_light(data: Measurements, power: Array) -> Measurements:
    """The data as it looks under a light of relative power (36,), adapted to D50. Needs spectra.

    Raises `CharacterizationError` without them.
    """
    if data.spectra is None:
        raise CharacterizationError(
            f"'{data.title}' has no spectra, and Lab or XYZ hold for the light they were computed for. "
            "Export the spectra too, or leave the illuminant at D50."
        )
    xyz = to_d50(weighted(data.spectra, power), light_white(power))
    # Only the colors hold for that light: without the spectra nobody computes them for D50 again.
    return replace(data, xyz=xyz, spectra=None)
