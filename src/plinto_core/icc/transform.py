"""LittleCMS over any number of profiles and channels: a transform is made once, kept, and shared by threads.

imagecodecs ships the LittleCMS that is called here, directly, for it names no layout beyond four channels and makes every
transform anew.
"""

import ctypes
import ctypes.util
import weakref
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache, lru_cache
from pathlib import Path
from typing import Any

import imagecodecs
import numpy as np
from numpy.typing import NDArray

from plinto_core.errors import IccError
from plinto_core.icc.profile import INTENTS

# Bits of a pixel format (lcms2.h): floating point, color space, channels, bytes a value; no bytes are double precision.
_FLOAT, _SPACE, _CHANNELS = 22, 16, 3
_SPACE_CODES = {"GRAY": 3, "RGB ": 4, "CMY ": 5, "CMYK": 6, "XYZ ": 9, "Lab ": 10} | {
    f"{count:X}CLR": 14 + count for count in range(1, 16)
}
_NO_OPTIMIZE, _NO_CACHE, _BPC = 0x0100, 0x0040, 0x2000
#: Transforms kept: those of a screen with several views and figures of two conditions, and some to spare.
_KEPT = 48


@cache
def library() -> ctypes.CDLL:
    """The LittleCMS that imagecodecs ships, or the system's. Raises `IccError` where there is none."""
    beside = Path(imagecodecs.__file__).parent.parent / "imagecodecs.libs"
    shipped = sorted(beside.glob("liblcms2*"))
    name = str(shipped[0]) if shipped else ctypes.util.find_library("lcms2")
    if name is None:
        raise IccError("profiles need the LittleCMS library (liblcms2); install it")
    lcms = ctypes.CDLL(name)
    lcms.cmsOpenProfileFromMem.restype = ctypes.c_void_p
    lcms.cmsOpenProfileFromMem.argtypes = [ctypes.c_char_p, ctypes.c_uint32]
    lcms.cmsCreateMultiprofileTransform.restype = ctypes.c_void_p
    lcms.cmsCreateMultiprofileTransform.argtypes = [
        ctypes.POINTER(ctypes.c_void_p), ctypes.c_uint32, *[ctypes.c_uint32] * 4,
    ]  # fmt: skip
    lcms.cmsDoTransform.argtypes = [ctypes.c_void_p] * 3 + [ctypes.c_uint32]
    lcms.cmsDoTransform.restype = None
    lcms.cmsReadTag.argtypes, lcms.cmsReadTag.restype = [ctypes.c_void_p, ctypes.c_uint32], ctypes.c_void_p
    lcms.cmsEvalToneCurveFloat.argtypes = [ctypes.c_void_p, ctypes.c_float]
    lcms.cmsEvalToneCurveFloat.restype = ctypes.c_float
    for name in ("cmsDetectBlackPoint", "cmsDetectDestinationBlackPoint"):
        getattr(lcms, name).argtypes = [ctypes.c_void_p, ctypes.c_void_p, ctypes.c_uint32, ctypes.c_uint32]
        getattr(lcms, name).restype = ctypes.c_int
    for name in ("cmsDeleteTransform", "cmsCloseProfile"):
        getattr(lcms, name).argtypes = [ctypes.c_void_p]
    return lcms


def _format(space: str, channels: int, kind: np.dtype[Any]) -> int:
    if space not in _SPACE_CODES:
        raise IccError(f"the color space '{space}' is not one LittleCMS transforms here")
    size = _SPACE_CODES[space] << _SPACE | channels << _CHANNELS
    return size | 1 << _FLOAT if kind == np.float64 else size | kind.itemsize


class Transform:
    """A chain of profiles as one step, `source` space and channels in, `target` out; safe to share between threads."""

    def __init__(
        self, profiles: tuple[bytes, ...], source: tuple[str, int], target: tuple[str, int], kinds: tuple[str, str],
        intent: int, bpc: bool,
    ) -> None:  # fmt: skip
        lcms = library()
        self._channels, self._kinds = (source[1], target[1]), tuple(np.dtype(kind) for kind in kinds)
        formats = _format(*source, self._kinds[0]), _format(*target, self._kinds[1])
        opened = [lcms.cmsOpenProfileFromMem(raw, len(raw)) for raw in profiles]
        # Without its one-pixel cache a transform has no state, so that threads may share it.
        flags = _NO_OPTIMIZE | _NO_CACHE | (_BPC if bpc else 0)
        made = None
        if all(opened):
            handles = (ctypes.c_void_p * len(opened))(*opened)
            made = lcms.cmsCreateMultiprofileTransform(handles, len(opened), *formats, intent, flags)
        for profile in opened:
            if profile:
                lcms.cmsCloseProfile(profile)
        if not made:
            raise IccError(
                f"LittleCMS cannot go from {source[0].strip()} to {target[0].strip()} with the {INTENTS[intent]} intent: a "
                "profile on the way has no usable table for it. Choose another intent."
            )
        self._handle = made
        weakref.finalize(self, lcms.cmsDeleteTransform, made)

    def apply(self, values: NDArray[Any]) -> NDArray[Any]:
        """Values (n, channels in), in LittleCMS' scale where they are float64, to (n, channels out)."""
        flat = np.ascontiguousarray(values, self._kinds[0])
        if flat.ndim != 2 or flat.shape[1] != self._channels[0]:
            raise IccError(f"{flat.shape[-1]} values a color were given, and {self._channels[0]} are meant")
        out = np.empty((len(flat), self._channels[1]), self._kinds[1])
        # The interpreter is free meanwhile: several threads run several pieces of a picture.
        library().cmsDoTransform(self._handle, flat.ctypes.data, out.ctypes.data, len(flat))
        return out


@lru_cache(_KEPT)
def transform(
    profiles: tuple[bytes, ...], source: tuple[str, int], target: tuple[str, int], kinds: tuple[str, str], intent: int,
    bpc: bool,
) -> Transform:  # fmt: skip
    """The transform through these profiles' bytes, kept from the last time where it is still there."""
    return Transform(profiles, source, target, kinds, intent, bpc)


def black_points(source: bytes, target: bytes, intent: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """XYZ (3,) of the blacks that compensation between two profiles brings together. Raises `IccError`."""
    lcms = library()
    found = []
    for raw, detect in ((source, lcms.cmsDetectBlackPoint), (target, lcms.cmsDetectDestinationBlackPoint)):
        with _opened(raw) as profile:
            black = np.zeros(3)
            detect(black.ctypes.data, profile, intent, 0)
            found.append(black)
    return found[0], found[1]


def curve_values(raw: bytes, tag: str, codes: int) -> NDArray[np.float32]:
    """What a curve of a profile makes of 0…1 in so many even steps, (codes,). Raises `IccError`."""
    lcms = library()
    with _opened(raw) as profile:
        curve = lcms.cmsReadTag(profile, int.from_bytes(tag.encode(), "big"))
        if not curve:
            raise IccError(f"LittleCMS cannot read the curve '{tag}'")
        steps = (np.arange(codes) * (65535 // (codes - 1))).astype(np.float32) / np.float32(65535)
        return np.array([lcms.cmsEvalToneCurveFloat(curve, step) for step in steps.tolist()], np.float32)


@contextmanager
def _opened(raw: bytes) -> Iterator[int]:
    lcms = library()
    opened = lcms.cmsOpenProfileFromMem(raw, len(raw))
    if not opened:
        raise IccError("LittleCMS cannot open the profile")
    try:
        yield opened
    finally:
        lcms.cmsCloseProfile(opened)
