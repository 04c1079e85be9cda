"""Characterization data: ink values with the color measured for each, and its CGATS text (ISO 28178)."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.lab import xyz_to_lab
from plinto_core.colorimetry.spectra import WAVELENGTHS_NM
from plinto_core.errors import CharacterizationError

Array = NDArray[np.float64]

#: Ink names by the letter that stands for them in field names and on the screen.
INK_LETTERS = {"Cyan": "C", "Magenta": "M", "Yellow": "Y", "Black": "K"}


@dataclass(frozen=True)
class Measurements:
    """`device` (patches, inks) 0…1; `xyz` (patches, 3), D50, perfect diffuser Y = 1; spectra if there are any."""

    inks: tuple[str, ...]
    device: Array
    xyz: Array
    spectra: Array | None = None
    title: str = ""

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
        return np.asarray(self.xyz[bare].mean(axis=0))

    def to_cgats(self) -> str:
        """The data as CGATS text with percent dot, XYZ (0…100), Lab and spectra."""
        letters = "".join(INK_LETTERS.get(ink, ink[0]) for ink in self.inks)
        fields = [
            "SAMPLE_ID",
            *(f"{letters}_{c}" for c in letters),
            "XYZ_X",
            "XYZ_Y",
            "XYZ_Z",
            "LAB_L",
            "LAB_A",
            "LAB_B",
        ]
        columns = [self.device * 100, self.xyz * 100, xyz_to_lab(self.xyz)]
        if self.spectra is not None:
            fields += [f"SPECTRAL_NM{nm:.0f}" for nm in WAVELENGTHS_NM]
            columns.append(self.spectra)
        rows = [
            f"{index} " + " ".join(f"{value:.5g}" for value in row) for index, row in enumerate(np.hstack(columns), 1)
        ]
        head = ["CGATS.17", f'DESCRIPTOR "{self.title}"', 'ORIGINATOR "Plinto, simulated instrument"',
                'INSTRUMENTATION "simulated, D50, 2 degree"', f"NUMBER_OF_FIELDS {len(fields)}",
                "BEGIN_DATA_FORMAT", " ".join(fields), "END_DATA_FORMAT",
                f"NUMBER_OF_SETS {len(rows)}", "BEGIN_DATA"]  # fmt: skip
        return "\n".join([*head, *rows, "END_DATA", ""])
