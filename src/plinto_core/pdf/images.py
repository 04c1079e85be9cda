"""Pictures of a document: decoded, converted, averaged down, written (ISO 32000-2, 8.9)."""

import hashlib
import io
import tempfile
import zlib
from collections.abc import Callable
from dataclasses import dataclass
from itertools import combinations
from pathlib import Path
from typing import Any

import imagecodecs
import numpy as np
import pikepdf
from numpy.typing import NDArray
from pikepdf import Array, Name, Pdf, Stream
from PIL import Image

from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.deliver.code_limits import CodeLimits
from plinto_core.deliver.jpeg_out import write_within
from plinto_core.errors import DocumentError, RecipeError
from plinto_core.pdf.function import unpacked
from plinto_core.pdf.meaning import Meaning
from plinto_core.pdf.reading import cause, numbers, pairs, whole
from plinto_core.pdf.space import DocumentSpace, component_spans
from plinto_core.pdf.spool import Spool
from plinto_core.policy.conversion import Codes, Conversion, baked, lab_as_rgb
from plinto_core.policy.rule import DeliveryRule

MOST_SAMPLES = 1_200_000_000
_TOO_MUCH = "takes more memory than one may"
_LOSSY = ("/DCTDecode", "/JPXDecode")
#: As many bytes of a color as fit into one whole number.
_PACKED_BYTES = 8
#: Pixels a side of what a picture is recognized by.
_SAMPLE_SIDE = 32
_BILEVEL = ("/CCITTFaxDecode", "/JBIG2Decode")


@dataclass(frozen=True)
class Written:
    """A picture as it is written: the stream, and what became of it, in words."""

    stream: Any
    said: str


def filters_of(found: Any) -> list[str]:
    """Names of the filters, the outermost first."""
    given = found.get("/Filter")
    if given is None:
        return []
    return [str(each) for each in given] if isinstance(given, Array) else [str(given)]


def decoded(found: Any, space: DocumentSpace) -> NDArray[Any]:
    """Codes (h, w, channels) uint8 or uint16 as they are stored, before Decode. Raises `DocumentError`."""
    width, height = whole(found, "/Width", "a picture"), whole(found, "/Height", "a picture")
    if width < 1 or height < 1 or width * height * max(space.channels, 1) > MOST_SAMPLES:
        raise DocumentError(f"a picture of {width} × {height} pixels is larger than can be worked on")
    filters = filters_of(found)
    try:
        if filters and filters[-1] in _LOSSY:
            data = _up_to_last(found, filters)
            pixels = (
                imagecodecs.jpeg8_decode(data) if filters[-1] == "/DCTDecode" else imagecodecs.jpeg2k_decode(data)
            )
            return _fitting(pixels, width, height, space.channels)
        if filters and filters[-1] in _BILEVEL:
            raise DocumentError(f"a picture packed by {filters[-1][1:]} can only stay, or change its palette")
        raw = bytes(found.read_bytes())
    except DocumentError:
        raise
    except pikepdf.PdfError as error:
        why = _TOO_MUCH if "bad_alloc" in str(error) else f"cannot be unpacked ({cause(error)})"
        raise DocumentError(f"a picture of {width} × {height} pixels {why}") from error
    except MemoryError as error:
        raise DocumentError(f"a picture of {width} × {height} pixels {_TOO_MUCH}") from error
    except (RuntimeError, ValueError) as error:
        # The codecs raise subclasses of these.
        raise DocumentError(f"a picture of {width} × {height} pixels cannot be decoded ({error})") from error
    return _rows(raw, width, height, space.channels, whole(found, "/BitsPerComponent", "a picture", 8))


def _up_to_last(found: Any, filters: list[str]) -> bytes:
    raw = bytes(found.read_raw_bytes())
    if len(filters) == 1:
        return raw
    before = pikepdf.Stream(Pdf.new(), raw)
    before.Filter = Array([Name(name) for name in filters[:-1]])
    parms = found.get("/DecodeParms")
    if isinstance(parms, Array):
        before.DecodeParms = Array(list(parms)[:-1])
    return bytes(before.read_bytes())


def _fitting(pixels: NDArray[Any], width: int, height: int, channels: int) -> NDArray[Any]:
    pixels = pixels[..., None] if pixels.ndim == 2 else pixels
    if pixels.shape[2] == channels + 1 and channels in (1, 3):
        # Opacity inside JPEG 2000, which SMaskInData may point to; colors are the others.
        pixels = pixels[..., :channels]
    if pixels.shape != (height, width, channels):
        raise DocumentError(
            f"a picture says {width} × {height} of {channels} channels and has {pixels.shape[1]} × {pixels.shape[0]} "
            f"of {pixels.shape[2]}"
        )
    if pixels.dtype not in (np.uint8, np.uint16):
        raise DocumentError(f"a picture has samples of {pixels.dtype}")
    return np.ascontiguousarray(pixels)


def _rows(raw: bytes, width: int, height: int, channels: int, bits: int) -> NDArray[Any]:
    if bits not in (1, 2, 4, 8, 16):
        raise DocumentError(f"a picture has {bits} bits a channel, which is none of a PDF")
    stride = (width * channels * bits + 7) // 8
    # What is missing at the end reads as zeros, as every reader does.
    raw = raw[: stride * height].ljust(stride * height, b"\0")
    if bits == 8:
        return np.frombuffer(raw, np.uint8).reshape(height, width, channels)
    if bits == 16:
        return np.frombuffer(raw, ">u2").reshape(height, width, channels).astype(np.uint16)
    per_row = stride * 8 // bits
    codes = unpacked(raw, bits, per_row * height).astype(np.uint8).reshape(height, per_row)
    return np.ascontiguousarray(codes[:, : width * channels].reshape(height, width, channels))


def decoding(found: Any, space: DocumentSpace, bits: int) -> NDArray[np.float64]:
    """Value at the lowest and at the highest code of each channel (channels, 2)."""
    given = found.get("/Decode")
    if isinstance(given, Array) and len(given) == 2 * space.channels:
        return pairs(given, "a picture's decoding")
    if space.family == "Indexed":
        return np.array([[0.0, 2.0**bits - 1]])
    return component_spans(space)


def distinct(codes: NDArray[Any]) -> tuple[NDArray[Any], NDArray[np.intp]]:
    """Each color of a picture (h, w, channels) once, and which one every pixel has."""
    flat = codes.reshape(-1, codes.shape[2])
    packed = np.zeros(len(flat), np.uint64)
    for channel in flat.T if flat.shape[1] * codes.dtype.itemsize <= _PACKED_BYTES else ():
        packed = packed << np.uint64(8 * codes.dtype.itemsize) | channel
    if flat.shape[1] * codes.dtype.itemsize > _PACKED_BYTES:
        known, back = np.unique(flat, axis=0, return_inverse=True)
        return known, back.ravel()
    _, first, back = np.unique(packed, return_index=True, return_inverse=True)
    return flat[first], back.ravel()


def _thinned(pixels: NDArray[Any]) -> NDArray[Any]:
    """Pixels (h, w, channels) at even places, about a thousand of them."""
    down, across = (max(1, side // _SAMPLE_SIDE) for side in pixels.shape[:2])
    return pixels[down // 2 :: down, across // 2 :: across].copy()


def packed_gray(pdf: Pdf, plane: NDArray[np.uint8], found: Any) -> Any:
    """A gray picture (h, w) with the masks of another one."""
    made = Stream(pdf, zlib.compress(np.ascontiguousarray(plane).tobytes(), 1))
    made["/Type"], made["/Subtype"], made["/Filter"] = Name.XObject, Name.Image, Name.FlateDecode
    made["/Width"], made["/Height"], made["/BitsPerComponent"] = plane.shape[1], plane.shape[0], 8
    made["/ColorSpace"] = Name.DeviceGray
    for key in ("/SMask", "/Mask", "/Interpolate", "/OC"):
        if key in found and not (key == "/Mask" and isinstance(found[key], Array)):
            made[key] = found[key]
    return made


class Pictures:
    """Writes the pictures of one document."""

    def __init__(self, pdf: Pdf, meaning: Meaning, rule: DeliveryRule, spool: Spool) -> None:
        self._pdf, self._meaning, self._rule, self._spool = pdf, meaning, rule, spool
        #: What one and the same picture becomes under each space it is placed in: a sample of written codes.
        self.appearances: dict[str, dict[DocumentSpace, NDArray[np.uint8]]] = {}

    def drift(self, lab: Callable[[NDArray[np.float64]], NDArray[np.float64]]) -> float | None:
        """The most (mean ΔE00 over a picture) that appearances of one picture differ; None where each has one only.

        `lab` gives the printed Lab (n, 3) of written values (n, channels) 0…1.
        """
        found: list[float] = []
        for placed in self.appearances.values():
            labs = [lab(sample.reshape(-1, sample.shape[-1]) / 255.0) for sample in placed.values()]
            found += [float(delta_e_2000(one, other).mean()) for one, other in combinations(labs, 2)]
        return max(found, default=None)

    def _over(self, ppi: float) -> bool:
        most = self._rule.most_ppi
        return most is not None and ppi > most * 1.005

    def converted(
        self, found: Any, space: DocumentSpace, conversion_of: Any, target: Any, ppi: float, total: float
    ) -> Written:  # fmt: skip
        """The picture in the destination, which has `target` as its space object and `total` percent of ink at most.

        `conversion_of` gives the conversion from a profile. Raises `DocumentError`, `PolicyError`.
        """
        filters = filters_of(found)
        bits = whole(found, "/BitsPerComponent", "a picture", 8)
        lossy = bool(filters) and filters[-1] in _LOSSY
        if space.channels == 1 and bits <= 8 and not lossy and (not self._over(ppi) or bits == 1):
            return Written(self._by_palette(found, space, conversion_of, target, bits), "By its palette")
        stored = decoded(found, space)
        top = (
            255.0
            if stored.dtype == np.uint8 and bits >= 8
            else 65535.0
            if stored.dtype == np.uint16
            else 2.0**bits - 1
        )
        written, letters = self._codes(stored, space, decoding(found, space, bits), top, conversion_of)
        thin = _thinned(stored)
        name = hashlib.sha256(np.ascontiguousarray(thin).tobytes() + str(stored.shape).encode()).hexdigest()
        self.appearances.setdefault(name, {})[space] = _thinned(written)
        mask = _key_mask(found, stored)
        said = ""
        if self._over(ppi):
            share = float(self._rule.most_ppi or ppi) / ppi
            written = averaged(written, share)
            said = f"To {self._rule.most_ppi:g} ppi"
        made = self._stream(written, target, letters, total)
        self._dress(made, found, mask, conversion_of, space)
        return Written(made, said)

    def averaged_down(self, found: Any, space: DocumentSpace, ppi: float, total: float = 0.0) -> Written | None:
        """The same colors in fewer pixels; None where there is nothing to do.

        `total` is the most ink in percent where the picture's CMYK is the destination's own.
        """
        filters = filters_of(found)
        bits = whole(found, "/BitsPerComponent", "a picture", 8)
        if not self._over(ppi) or bits < 8 or space.family == "Indexed" or (filters and filters[-1] in _BILEVEL):
            return None
        stored = decoded(found, space)
        if stored.dtype == np.uint16:
            stored = np.rint(stored / 257.0).astype(np.uint8)
        share = float(self._rule.most_ppi or ppi) / ppi
        mask = _key_mask(found, stored)
        letters = ("C", "M", "Y", "K") if space.kind == "CMYK" and total and "/Decode" not in found else ()
        made = self._stream(averaged(stored, share), found.get("/ColorSpace"), letters, total)
        if "/Decode" in found:
            made["/Decode"] = found["/Decode"]
        self._dress(made, found, mask, None, space)
        return Written(made, f"To {self._rule.most_ppi:g} ppi")

    def _by_palette(self, found: Any, space: DocumentSpace, conversion_of: Any, target: Any, bits: int) -> Any:
        """The same codes, whose meaning is written as a palette: no pixel is touched."""
        codes = np.arange(2**bits)
        if space.family == "Indexed" and space.palette is not None:
            codes = codes[: max(len(space.palette), 1)] if "/Decode" not in found else codes
        low, high = decoding(found, space, bits)[0]
        values = (low + codes / (2.0**bits - 1) * (high - low))[:, None]
        source, device = self._meaning.of(space, values)
        inks = np.rint(conversion_of(source).values(device) * 255).astype(np.uint8)
        made = self._spool.stream(bytes(found.read_raw_bytes()))
        for key, value in dict(found).items():
            if key not in ("/ColorSpace", "/Decode", "/Length", "/Intent"):
                made[key] = value
        made["/ColorSpace"] = Array([Name.Indexed, target, len(inks) - 1, pikepdf.String(inks.tobytes())])
        return made

    def _codes(
        self, stored: NDArray[Any], space: DocumentSpace, spans: NDArray[np.float64], top: float, conversion_of: Any
    ) -> tuple[NDArray[np.uint8], tuple[str, ...]]:
        if space.channels == 1:
            codes = np.arange(int(top) + 1)
            values = (spans[0, 0] + codes / top * (spans[0, 1] - spans[0, 0]))[:, None]
            source, device = self._meaning.of(space, values)
            conversion = conversion_of(source)
            table = np.rint(conversion.values(device) * 255).astype(np.uint8)
            return table[np.minimum(stored[..., 0], int(top))], conversion.letters
        if space.kind == "Lab":
            return self._lab(stored, spans, top, conversion_of(lab_as_rgb()))
        if space.kind == "spot":
            return self._tints(stored, space, spans, top, conversion_of)
        source, _ = self._meaning.of(space, np.zeros((1, space.channels)))
        conversion = conversion_of(source)
        if not self._meaning.keeps_values:
            link = baked(
                lambda values: conversion.values(self._meaning.of(space, values)[1]), conversion.letters,
                f"{source.digest} {space.label}", space.channels,
            )  # fmt: skip
            return link.inks_of(_plain(stored, spans, top), 8).astype(np.uint8, copy=False), conversion.letters
        return conversion.codes(_plain(stored, spans, top)), conversion.letters

    @staticmethod
    def _lab(
        stored: NDArray[Any], spans: NDArray[np.float64], top: float, conversion: Conversion
    ) -> tuple[NDArray[np.uint8], tuple[str, ...]]:
        codes = np.arange(int(top) + 1)[:, None] / top
        lab = spans[:, 0] + codes * (spans[:, 1] - spans[:, 0])
        scaled = np.clip((lab + [0, 128, 128]) / [100, 255, 255], 0, 1)  # noqa: RUF005
        tables = np.rint(scaled * 65535).astype(np.uint16)
        pixels = np.stack([tables[stored[..., at], at] for at in range(3)], axis=-1)
        return conversion.codes(pixels), conversion.letters

    def _tints(
        self, stored: NDArray[Any], space: DocumentSpace, spans: NDArray[np.float64], top: float, conversion_of: Any
    ) -> tuple[NDArray[np.uint8], tuple[str, ...]]:
        known, back = distinct(stored)
        source, device = self._meaning.of(space, spans[:, 0] + known / top * (spans[:, 1] - spans[:, 0]))
        conversion = conversion_of(source)
        table = np.rint(conversion.values(device) * 255).astype(np.uint8)
        return table[back].reshape(*stored.shape[:2], -1), conversion.letters

    def _stream(self, codes: NDArray[np.uint8], target: Any, letters: tuple[str, ...], total: float) -> Any:
        height, width, channels = codes.shape
        if self._rule.compression == "jpeg" and channels in (1, 3, 4) and min(width, height) >= 16:
            made = self._spool.stream(_jpeg(codes, letters, total, self._rule.jpeg_quality))
            made["/Filter"] = Name.DCTDecode
            if channels == 4:
                # The writer turns four channels round, as its marker says.
                made["/Decode"] = Array([1, 0] * 4)
        else:
            made = self._spool.packed(codes)
        made["/Type"], made["/Subtype"] = Name.XObject, Name.Image
        made["/Width"], made["/Height"], made["/BitsPerComponent"] = width, height, 8
        made["/ColorSpace"] = target
        return made

    def _dress(self, made: Any, found: Any, mask: Any, conversion_of: Any, space: DocumentSpace) -> None:
        """What else a picture carries: masks, and how it is to be drawn."""
        for key in ("/SMask", "/Interpolate", "/OC", "/StructParent", "/Metadata", "/Name", "/SMaskInData"):
            if key in found:
                made[key] = found[key]
        if mask is not None:
            made["/Mask"] = self._pdf.make_indirect(_stencil(self._pdf, mask))
        elif isinstance(found.get("/Mask"), Stream):
            made["/Mask"] = found["/Mask"]
        soft = found.get("/SMask")
        if conversion_of is not None and isinstance(soft, Stream) and "/Matte" in soft:
            source, device = self._meaning.of(space, numbers(soft["/Matte"], "a soft mask's matte")[None])
            another = self._spool.stream(bytes(soft.read_raw_bytes()))
            for key, value in dict(soft).items():
                if key != "/Length":
                    another[key] = value
            another["/Matte"] = Array([round(float(v), 5) for v in conversion_of(source).values(device)[0]])
            made["/SMask"] = another


def _plain(stored: NDArray[Any], spans: NDArray[np.float64], top: float) -> Codes:
    """Codes of the whole range of 8 or 16 bit, with 0 for the lowest value of each channel."""
    whole = np.iinfo(stored.dtype).max
    if top == whole and np.array_equal(spans, np.tile([0.0, 1.0], (len(spans), 1))):
        return stored
    if top == whole and np.array_equal(spans, np.tile([1.0, 0.0], (len(spans), 1))):
        turned: Codes = np.invert(stored)
        return turned
    codes = np.arange(int(top) + 1)[:, None] / top
    tables = np.rint(np.clip(spans[:, 0] + codes * (spans[:, 1] - spans[:, 0]), 0, 1) * whole).astype(stored.dtype)
    planes: Codes = np.stack([tables[stored[..., at], at] for at in range(len(spans))], axis=-1)
    return planes


def averaged(codes: NDArray[np.uint8], share: float) -> NDArray[np.uint8]:
    """Codes (h, w, channels) in `share` (< 1) of the pixels each way: weighted means, so that no limit is passed."""
    height, width, channels = codes.shape
    size = max(1, round(width * share)), max(1, round(height * share))
    planes = [
        np.asarray(Image.fromarray(np.ascontiguousarray(codes[..., at])).resize(size, Image.Resampling.HAMMING))
        for at in range(channels)
    ]
    return np.stack(planes, axis=-1)


def _jpeg(codes: NDArray[np.uint8], letters: tuple[str, ...], total: float, quality: int) -> bytes:
    if codes.shape[2] == 4 and letters and total < 400:
        limits = CodeLimits.of(np.ones(4), total / 100, 8)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "picture.jpg"
            try:
                write_within(path, codes, limits, quality, 72, None, letters)
            except RecipeError as error:
                raise DocumentError(f"{error}") from error
            return path.read_bytes()
    mode = {1: "L", 3: "RGB", 4: "CMYK"}[codes.shape[2]]
    out = io.BytesIO()
    image = Image.fromarray(codes[..., 0] if mode == "L" else codes, mode)
    image.save(out, "JPEG", quality=quality, subsampling=0)
    return out.getvalue()


def _key_mask(found: Any, stored: NDArray[Any]) -> NDArray[np.bool_] | None:
    """Which pixels a color key leaves out (8.9.6.4)."""
    given = found.get("/Mask")
    if not isinstance(given, Array) or len(given) != 2 * stored.shape[2]:
        return None
    bounds = pairs(given, "a picture's color key").astype(int)
    return np.asarray(((stored >= bounds[:, 0]) & (stored <= bounds[:, 1])).all(axis=2))


def _stencil(pdf: Pdf, mask: NDArray[np.bool_]) -> Any:
    made = Stream(pdf, zlib.compress(np.packbits(mask, axis=1).tobytes(), 6))
    made["/Type"], made["/Subtype"], made["/ImageMask"] = Name.XObject, Name.Image, True
    made["/Width"], made["/Height"], made["/BitsPerComponent"] = mask.shape[1], mask.shape[0], 1
    made["/Filter"] = Name.FlateDecode
    return made
