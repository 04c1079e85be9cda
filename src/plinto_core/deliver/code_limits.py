"""Ink limits in the codes of a file, for each ink and for their sum."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plinto_core.analysis.coverage_meter import CoverageMeter

Codes = NDArray[np.unsignedinteger[Any]]


@dataclass(frozen=True)
class CodeLimits:
    """Largest code of each ink, and of their sum; `top` is the code of full ink (255 or 65535)."""

    caps: tuple[int, ...]
    total: int
    top: int

    @classmethod
    def of(cls, caps: NDArray[np.float64], total: float, depth: int) -> "CodeLimits":
        """Limits as fractions (caps (inks,), total up to the number of inks) in codes of `depth` bits."""
        top = 255 if depth == 8 else 65535
        # A hair above the product, so that a limit of exactly 230 % is not lost to its last digit.
        return cls(tuple(int(v) for v in np.floor(caps * top + 1e-6)), int(np.floor(total * top + 1e-6)), top)

    def lowered(self, codes: int) -> "CodeLimits":
        """The same with every limit that says anything so many codes lower."""
        caps = tuple(cap - codes if cap < self.top else cap for cap in self.caps)
        return CodeLimits(tuple(max(cap, 0) for cap in caps), max(self.total - codes, 0), self.top)

    def hold(self, meter: CoverageMeter) -> bool:
        """Whether everything that was measured is within them."""
        within = all(code <= cap for code, cap in zip(meter.largest_codes, self.caps, strict=True))
        return within and meter.largest_code_sum <= self.total

    def excess(self, meter: CoverageMeter) -> int:
        """By how many codes the worst is over; 0 where they hold."""
        over = [code - cap for code, cap in zip(meter.largest_codes, self.caps, strict=True)]
        return max(*over, meter.largest_code_sum - self.total, 0)


def held_within(codes: Codes, limits: CodeLimits) -> Codes:
    """Codes (..., inks) with every pixel within the limits: an ink cut at its own, a sum shared out evenly, rounded
    down. What is within stays as it is."""
    held = np.minimum(codes, np.array(limits.caps, codes.dtype))
    sums = held.sum(axis=-1, dtype=np.int64)
    over = sums > limits.total
    if over.any():
        part = held[over].astype(np.int64) * limits.total
        held[over] = (part // sums[over][..., None]).astype(codes.dtype)
    return held


def over_the_limit(meter: CoverageMeter, limits: CodeLimits, inks: tuple[str, ...]) -> str:
    """What is over, in words, for a file that is refused."""
    percent = 100 / limits.top
    if meter.largest_code_sum > limits.total:
        what = f"{meter.largest_code_sum * percent:.1f} % of ink where {limits.total * percent:.1f} % are the limit"
    else:
        worst = max(range(len(inks)), key=lambda at: meter.largest_codes[at] - limits.caps[at])
        what = (
            f"{meter.largest_codes[worst] * percent:.1f} % of {inks[worst]} where "
            f"{limits.caps[worst] * percent:.1f} % are the limit"
        )
    return f"The file as it is read back has {what}. Write it as TIFF."
