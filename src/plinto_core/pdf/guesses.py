"""How far apart the guesses of receivers are about numbers that have no profile."""

from itertools import combinations
from typing import Any

import numpy as np

from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.icc import cmm
from plinto_core.icc.standard import rgb_profile
from plinto_core.pdf.state import ColorUse

#: What receivers plausibly take RGB without a profile for.
GUESSED = ("sRGB", "opRGB", "P3")


def spread_of_guesses(uses: list[ColorUse]) -> dict[str, Any]:
    """ΔE00 (mean over colors, and largest) between readings of a document's flat RGB without a profile; {} without any.

    Of each color the two readings count that are furthest apart. Pictures are told by how many they are: `pictures`.
    """
    untagged = [use for use in uses if use.space.family == "DeviceRGB" and not use.in_mask]
    flat = sorted({use.values for use in untagged if use.values})
    pictures = len({use.picture.key for use in untagged if use.picture is not None and not use.picture.is_mask})
    if not flat:
        return {"colors": 0, "pictures": pictures} if pictures else {}
    values = np.clip(np.array(flat), 0, 1)
    read = [cmm.to_lab(rgb_profile(name), values) for name in GUESSED]
    off = np.max([delta_e_2000(one, other) for one, other in combinations(read, 2)], axis=0)
    return {
        "colors": len(flat), "pictures": pictures, "between": list(GUESSED),
        "mean": round(float(off.mean()), 1), "largest": round(float(off.max()), 1),
    }  # fmt: skip
