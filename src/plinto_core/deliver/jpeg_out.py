"""Inks as JPEG, written so far below the limit that what a reader decodes holds it (ITU-T T.81)."""

from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from plinto_core.analysis.coverage_meter import CoverageMeter
from plinto_core.deliver.code_limits import CodeLimits, held_within
from plinto_core.deliver.read_back import jpeg_codes
from plinto_core.errors import RecipeError

_TRIES = 8
#: A margin beyond this would be seen in the shadows: such a file is refused.
_MOST_MARGIN_SHARE = 0.12


def write_within(
    path: Path, codes: NDArray[np.uint8], limits: CodeLimits, quality: int, ppi: float, profile: bytes | None,
    inks: tuple[str, ...],
) -> float:  # fmt: skip
    """Write CMYK codes (h, w, 4), lowering what is near the limit until the decoded file holds it.

    Returns the margin in percent of ink. Raises `RecipeError` where it would be seen.
    """
    margin = 0
    for _ in range(_TRIES):
        _write(path, held_within(codes, limits.lowered(margin)) if margin else codes, quality, ppi, profile)
        meter = CoverageMeter(len(inks), 8)
        meter.add(jpeg_codes(path))
        excess = limits.excess(meter)
        if not excess:
            return margin * 100 / limits.top
        margin += excess + 1
        if margin > _MOST_MARGIN_SHARE * limits.total:
            break
    raise RecipeError(
        f"JPEG of quality {quality} blurs the ink by up to {margin * 100 / limits.top:.0f} %, too much to hold "
        f"{limits.total * 100 / limits.top:.0f} % without being seen. Choose a higher quality, or write TIFF."
    )


def write_rgb(path: Path, codes: NDArray[np.uint8], quality: int, ppi: float, profile: bytes | None) -> None:
    """Write R, G, B (h, w, 3) for a printer driven by them, which has no ink limit to hold."""
    _write(path, codes, quality, ppi, profile)


def _write(path: Path, codes: NDArray[np.uint8], quality: int, ppi: float, profile: bytes | None) -> None:
    options: dict[str, Any] = {"icc_profile": profile} if profile else {}
    image = Image.fromarray(codes, "CMYK" if codes.shape[-1] == 4 else "RGB")
    image.save(path, "JPEG", quality=quality, subsampling=0, dpi=(ppi, ppi), **options)
