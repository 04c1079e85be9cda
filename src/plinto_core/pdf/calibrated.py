"""CalGray and CalRGB as profiles (ISO 32000-2, 8.6.5.2 and 8.6.5.3)."""

from typing import Any

import numpy as np
import pikepdf

from plinto_core.colorimetry.adaptation import bradford
from plinto_core.colorimetry.lab import D50_XYZ
from plinto_core.errors import DocumentError
from plinto_core.icc.profile import Header, Profile, write
from plinto_core.icc.values import Description, ParametricCurve, TagValue, Text, Xyz
from plinto_core.pdf.reading import Array, numbers


def cal_profile(family: str, given: Any) -> Profile:
    """A profile that means what the dictionary says, white brought to D50. Raises `DocumentError`."""
    if not isinstance(given, pikepdf.Dictionary):
        raise DocumentError(f"{family} says nothing of its white")
    white = numbers(given.get("/WhitePoint"), f"the white of {family}")
    if len(white) != 3 or (white <= 0).any():
        raise DocumentError(f"the white of {family} is none")
    common: dict[str, TagValue] = {
        "desc": Description({"enUS": family}),
        "cprt": Text("Made by Plinto; free to use."),
        "wtpt": Xyz(D50_XYZ[None]),
    }
    if family == "CalGray":
        curve = ParametricCurve(0, (_gamma(given.get("/Gamma", 1)),))
        return write(Profile(Header("mntr", "GRAY", "XYZ "), {**common, "kTRC": curve}))
    matrix = numbers(given["/Matrix"], "the matrix of CalRGB") if "/Matrix" in given else np.eye(3).ravel()
    gammas = [_gamma(each) for each in given.get("/Gamma", [1, 1, 1])]
    if len(matrix) != 9 or len(gammas) != 3:
        raise DocumentError("CalRGB has a matrix or gammas of the wrong size")
    columns: Array = bradford(white, D50_XYZ) @ matrix.reshape(3, 3).T
    tags: dict[str, TagValue] = {
        **common,
        **{f"{c}XYZ": Xyz(columns[:, at][None]) for at, c in enumerate("rgb")},
        **{f"{c}TRC": ParametricCurve(0, (gammas[at],)) for at, c in enumerate("rgb")},
    }
    return write(Profile(Header("mntr", "RGB ", "XYZ "), tags))


def _gamma(found: Any) -> float:
    try:
        gamma = float(found)
    except (TypeError, ValueError) as error:
        raise DocumentError("a gamma is no number") from error
    if not 0.1 <= gamma <= 20:
        raise DocumentError(f"a gamma of {gamma:g} is none")
    return gamma
