"""RGB working spaces by name, written as version 4 matrix profiles from their published primaries."""

from dataclasses import dataclass
from functools import cache

import numpy as np

from plinto_core.colorimetry.adaptation import bradford
from plinto_core.colorimetry.lab import D50_XYZ, lab_to_xyz
from plinto_core.icc import cmm
from plinto_core.icc.profile import Header, Profile, parse, write
from plinto_core.icc.values import Array, Curve, CurveLut, Description, Numbers, ParametricCurve, TagValue, Text, Xyz

_D65 = (0.3127, 0.3290)
_SRGB_CURVE = ParametricCurve(3, (2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045))


@dataclass(frozen=True)
class RgbSpace:
    """Chromaticities of red, green, blue and white, and the curve from code to light."""

    title: str
    primaries: tuple[tuple[float, float], ...]
    white: tuple[float, float] | None
    curve: ParametricCurve


RGB_SPACES = {
    # IEC 61966-2-1
    "sRGB": RgbSpace("sRGB", ((0.64, 0.33), (0.30, 0.60), (0.15, 0.06)), _D65, _SRGB_CURVE),
    # ISO 12640-4 / IEC 61966-2-5
    "opRGB": RgbSpace("opRGB", ((0.64, 0.33), (0.21, 0.71), (0.15, 0.06)), _D65, ParametricCurve(0, (563 / 256,))),
    # ISO 22028-2; its white is D50 itself
    "ROMM": RgbSpace(
        "ROMM RGB",
        ((0.7347, 0.2653), (0.1596, 0.8404), (0.0366, 0.0001)),
        None,
        ParametricCurve(3, (1.8, 1.0, 0.0, 1 / 16, 16 * 0.001953)),
    ),
    # SMPTE EG 432-1 primaries with the curve of IEC 61966-2-1
    "P3": RgbSpace("P3, D65 display", ((0.68, 0.32), (0.265, 0.69), (0.15, 0.06)), _D65, _SRGB_CURVE),
}


def _xyz(xy: tuple[float, float]) -> Array:
    return np.array([xy[0] / xy[1], 1.0, (1 - xy[0] - xy[1]) / xy[1]])


@cache
def rgb_profile(name: str) -> Profile:
    """The profile of 'sRGB', 'opRGB', 'ROMM' or 'P3'. KeyError for another name."""
    space = RGB_SPACES[name]
    white = _xyz(space.white) if space.white else D50_XYZ
    columns = np.column_stack([_xyz(xy) for xy in space.primaries])
    adapt = bradford(white)
    colorants = adapt @ (columns * np.linalg.solve(columns, white))
    return write(
        Profile(
            Header("mntr", "RGB ", "XYZ "),
            {
                "desc": Description({"enUS": space.title}),
                "cprt": Description({"enUS": "Made by Plinto; free to use."}),
                "wtpt": Xyz(D50_XYZ[None]),
                "chad": Numbers(adapt.ravel()),
                **{f"{c}XYZ": Xyz(colorants[:, i][None]) for i, c in enumerate("rgb")},
                **{f"{c}TRC": space.curve for c in "rgb"},
            },
        )
    )


@cache
def gray_profile() -> Profile:
    """A gray space with the sRGB curve, for gray pictures."""
    return write(
        Profile(
            Header("mntr", "GRAY", "XYZ "),
            {
                "desc": Description({"enUS": "Gray, sRGB curve"}),
                "cprt": Text("Made by Plinto; free to use."),
                "wtpt": Xyz(D50_XYZ[None]),
                "kTRC": _SRGB_CURVE,
            },
        )
    )


#: Entries of a tone curve that is made of another profile's lightness; nodes a side of a table that is.
_ENTRIES, _NODES = 4096, 33


@cache
def _gray_as_rgb(raw: bytes) -> Profile:
    gray = parse(raw)
    # Paper is at 0 where the gray is an ink.
    ends = cmm.to_lab(gray, [[0.0], [1.0]], "absolute")
    described: dict[str, TagValue] = {
        "desc": Description({"enUS": gray.name}),
        "cprt": Description({"enUS": "Made by Plinto."}),
        "wtpt": Xyz(lab_to_xyz(ends[[ends[:, 0].argmax()]])),
    }
    curve = gray.tags.get("kTRC")
    if not isinstance(curve, Curve | ParametricCurve):
        return write(Profile(Header("mntr", "RGB ", "Lab "), {**described, "A2B0": _along_the_diagonal(gray)}))
    if gray.header.pcs == "Lab ":
        # Its curve leads to L*, that of an RGB profile to luminance.
        lab = cmm.to_lab(gray, np.linspace(0, 1, _ENTRIES)[:, None])
        curve = Curve(np.clip(lab_to_xyz(lab)[:, 1], 0, 1))
    columns = np.column_stack([_xyz(xy) for xy in RGB_SPACES["ROMM"].primaries])
    colorants = columns * np.linalg.solve(columns, D50_XYZ)
    return write(
        Profile(
            Header("mntr", "RGB ", "XYZ "),
            {
                **described,
                **{f"{c}XYZ": Xyz(colorants[:, i][None]) for i, c in enumerate("rgb")},
                **{f"{c}TRC": curve for c in "rgb"},
            },
        )
    )


def _along_the_diagonal(gray: Profile) -> CurveLut:
    """A table that says of three equal codes what a gray profile's own table says of one; such a gray may have a tint."""
    ramp = np.linspace(0, 1, _ENTRIES)
    lab = cmm.to_lab(gray, ramp[:, None])
    # Nodes stand evenly along the way that the color goes, so that it is straight between any two.
    way = np.concatenate([[0.0], np.cumsum(np.sqrt((np.diff(lab, axis=0) ** 2).sum(axis=1)) + 1e-6)])
    way /= way[-1]
    axis = np.linspace(0, 1, _NODES)
    mean = np.mean(np.meshgrid(axis, axis, axis, indexing="ij"), axis=0)
    nodes = np.stack([np.interp(mean, way, lab[:, k]) for k in range(3)], axis=-1)
    return CurveLut(
        True, (Curve(),) * 3, grid=(nodes + np.array([0, 128, 128])) / [100, 255, 255], a_curves=(Curve(way),) * 3
    )


def gray_as_rgb(gray: Profile) -> Profile:
    """An RGB profile under which three equal codes mean what one code means under `gray`.

    Gray artwork goes down the line as RGB of equal codes. Raises `IccError` for one with neither curve nor table.
    """
    return _gray_as_rgb(gray.raw)
