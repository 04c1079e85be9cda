"""LittleCMS for more channels than imagecodecs passes on: the same library, called directly.

imagecodecs names no layout beyond four channels, and ships the LittleCMS that it calls; this module calls that one.
"""

import ctypes
import ctypes.util
from functools import cache
from pathlib import Path

import imagecodecs
import numpy as np

from plinto_core.errors import IccError
from plinto_core.icc.values import Array

# Bits of a pixel format (lcms2.h): floating point, color space, channels; zero bytes a value are double precision.
_FLOAT, _SPACE, _CHANNELS = 22, 16, 3
_SPACE_CODES = {"GRAY": 3, "RGB ": 4, "CMY ": 5, "CMYK": 6, "XYZ ": 9, "Lab ": 10} | {
    f"{count:X}CLR": 14 + count for count in range(1, 16)
}


@cache
def _library() -> ctypes.CDLL:
    beside = Path(imagecodecs.__file__).parent.parent / "imagecodecs.libs"
    shipped = sorted(beside.glob("liblcms2*"))
    name = str(shipped[0]) if shipped else ctypes.util.find_library("lcms2")
    if name is None:
        raise IccError("profiles of more than four inks need the LittleCMS library (liblcms2); install it")
    library = ctypes.CDLL(name)
    library.cmsOpenProfileFromMem.restype = ctypes.c_void_p
    library.cmsOpenProfileFromMem.argtypes = [ctypes.c_char_p, ctypes.c_uint32]
    library.cmsCreateTransform.restype = ctypes.c_void_p
    library.cmsCreateTransform.argtypes = (*(ctypes.c_void_p, ctypes.c_uint32) * 2, ctypes.c_uint32, ctypes.c_uint32)
    library.cmsDoTransform.argtypes = [ctypes.c_void_p] * 3 + [ctypes.c_uint32]
    library.cmsDoTransform.restype = None
    for name in ("cmsDeleteTransform", "cmsCloseProfile"):
        getattr(library, name).argtypes = [ctypes.c_void_p]
    return library


def _format(space: str, channels: int) -> int:
    return 1 << _FLOAT | _SPACE_CODES[space] << _SPACE | channels << _CHANNELS


def transform(
    values: Array, source: tuple[bytes, str], target: tuple[bytes, str], out: tuple[str, int], intent: int, flags: int
) -> Array:
    """Values (n, channels in), in LittleCMS' scale, to (n, channels out); `out` is space and channels.

    Raises `IccError` where there is no such transform.
    """
    lcms = _library()
    flat = np.ascontiguousarray(values, np.float64)
    result = np.empty((len(flat), out[1]))
    opened = [lcms.cmsOpenProfileFromMem(raw, len(raw)) for raw, _ in (source, target)]
    made = None
    try:
        if all(opened):
            made = lcms.cmsCreateTransform(
                opened[0], _format(source[1], flat.shape[1]), opened[1], _format(*out), intent, flags
            )
        if not made:
            raise IccError(f"LittleCMS cannot build the transform from {source[1].strip()} to {out[0].strip()}")
        lcms.cmsDoTransform(made, flat.ctypes.data, result.ctypes.data, len(flat))
    finally:
        if made:
            lcms.cmsDeleteTransform(made)
        for profile in opened:
            if profile:
                lcms.cmsCloseProfile(profile)
    return result
