"""One color followed down the line: what it is after every station."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.lab import lab_to_lch

Array = NDArray[np.float64]

#: Differences in L* below this are not worth a word, twice that in chroma.
_NOTICED = 3.0


@dataclass(frozen=True)
class Trace:
    """One color after every station; Lab media-relative except `source_lab` in the absolute intent.

    `want_lab` is what is wanted after white and black were matched, `aim_lab` what the Aim station makes of it (the
    same, unless it compresses), `print_lab` what the inks print: the step at which a color is lost is seen.
    `delta_e` is ΔE00 between what was wanted (the adjusted source after white and black were matched) and the
    print. All arrays (n, channels).
    """

    device: Array
    source_lab: Array
    adjusted: Array
    adjusted_lab: Array
    want_lab: Array
    aim_lab: Array
    inks: Array
    print_lab: Array
    delta_e: Array

    @property
    def out_of_reach(self) -> str:
        """For a single color: what was wanted and no ink can give, in words; '' where the print follows."""
        wanted, printed = (lab_to_lch(lab)[0] for lab in (self.want_lab, self.print_lab))
        parts = []
        if wanted[0] - printed[0] > _NOTICED:
            parts.append(f"lighter by {wanted[0] - printed[0]:.0f} L*")
        if printed[0] - wanted[0] > _NOTICED:
            parts.append(f"darker by {printed[0] - wanted[0]:.0f} L*")
        if wanted[1] - printed[1] > 2 * _NOTICED:
            parts.append(f"stronger by {wanted[1] - printed[1]:.0f} C*")
        return f"wanted {' and '.join(parts)} than these inks can print" if parts else ""
