"""Colors as numbers: XYZ, Lab, LCh, differences, adaptation, spectra."""

from plinto_core.colorimetry.adaptation import bradford
from plinto_core.colorimetry.difference import delta_e_76, delta_e_2000
from plinto_core.colorimetry.lab import D50_XYZ, lab_to_lch, lab_to_xyz, lch_to_lab, xyz_to_lab

__all__ = [
    "D50_XYZ",
    "bradford",
    "delta_e_76",
    "delta_e_2000",
    "lab_to_lch",
    "lab_to_xyz",
    "lch_to_lab",
    "xyz_to_lab",
]
