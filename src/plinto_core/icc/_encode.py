"""Tag values to tag bytes, in the type that the profile's version asks for."""

import struct
from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike

from plinto_core.icc.values import (
    AnyCurve,
    Colorants,
    Curve,
    CurveLut,
    Description,
    Numbers,
    ParametricCurve,
    ProfileSequence,
    TableLut,
    TagValue,
    Text,
    Unknown,
    Xyz,
)


def encode(value: TagValue, major_version: int) -> bytes:  # noqa: PLR0911 - one return a type
    """The bytes of a tag; descriptions become 'desc' up to version 3 and 'mluc' from version 4 on."""
    match value:
        case Unknown():
            return value.data
        case Text():
            return b"text\0\0\0\0" + value.text.encode("latin-1", "replace") + b"\0"
        case Description():
            return _mluc(value) if major_version >= 4 else _desc(value)
        case Xyz():
            return b"XYZ \0\0\0\0" + _fixed(value.values)
        case Numbers():
            return b"sf32\0\0\0\0" + _fixed(value.values)
        case Curve() | ParametricCurve():
            return _curve(value)
        case TableLut():
            return _table_lut(value)
        case CurveLut():
            return _curve_lut(value)
        case ProfileSequence():
            return _pseq(value, major_version)
        case Colorants():
            return _clrt(value)


def pad(data: bytes) -> bytes:
    """Up to the next multiple of four bytes (ICC.1:2022, 7.3.1)."""
    return data + b"\0" * (-len(data) % 4)


def _fixed(values: ArrayLike) -> bytes:
    return np.rint(np.asarray(values, np.float64).ravel() * 65536).astype(">i4").tobytes()


def _codes(values: ArrayLike, width: int) -> bytes:
    top = 255 if width == 1 else 65535
    return bytes(np.rint(np.clip(values, 0, 1) * top).astype(f">u{width}").tobytes())


def _desc(value: Description) -> bytes:
    text = value.text.encode("ascii", "replace") + b"\0"
    # ASCII, then an empty Unicode text and an empty 67-byte script text (ICC.1:2001-04, 6.5.17).
    return b"desc\0\0\0\0" + struct.pack(">I", len(text)) + text + bytes(8 + 3 + 67)


def _mluc(value: Description) -> bytes:
    texts = {locale: text.encode("utf-16-be") for locale, text in (value.by_locale or {"enUS": ""}).items()}
    records, body = b"", b""
    for locale, text in texts.items():
        offset = 16 + 12 * len(texts) + len(body)
        records += locale.encode("latin-1")[:4].ljust(4) + struct.pack(">II", len(text), offset)
        body += text
    return b"mluc\0\0\0\0" + struct.pack(">II", len(texts), 12) + records + body


def _curve(value: AnyCurve) -> bytes:
    if isinstance(value, ParametricCurve):
        return b"para\0\0\0\0" + struct.pack(">HH", value.kind, 0) + _fixed(value.parameters)
    head = b"curv\0\0\0\0" + struct.pack(">I", len(value.values))
    if len(value.values) == 1:
        return head + struct.pack(">H", round(float(value.values[0]) * 256))
    return head + _codes(value.values, 2)


def _table_lut(value: TableLut) -> bytes:
    channels_in, channels_out = value.inputs.shape[0], value.outputs.shape[0]
    width = value.bits // 8
    head = (b"mft1" if width == 1 else b"mft2") + bytes(4)
    head += bytes([channels_in, channels_out, value.grid.shape[0], 0]) + _fixed(value.matrix)
    if width == 2:
        head += struct.pack(">HH", value.inputs.shape[1], value.outputs.shape[1])
    return head + _codes(value.inputs, width) + _codes(value.grid, width) + _codes(value.outputs, width)


def _curves(curves: Sequence[AnyCurve]) -> bytes:
    return b"".join(pad(_curve(curve)) for curve in curves)


def _curve_lut(value: CurveLut) -> bytes:
    pcs_side = len(value.b_curves)
    device_side = len(value.a_curves) if value.a_curves is not None else pcs_side
    channels_in, channels_out = (device_side, pcs_side) if value.to_pcs else (pcs_side, device_side)
    parts: list[bytes | None] = [_curves(value.b_curves), None, None, None, None]
    if value.matrix is not None:
        parts[1] = _fixed(np.concatenate([value.matrix[:, :3].ravel(), value.matrix[:, 3]]))
    if value.m_curves is not None:
        parts[2] = _curves(value.m_curves)
    if value.grid is not None:
        points = bytes(value.grid.shape[:-1]).ljust(16, b"\0")
        parts[3] = pad(points + bytes([value.grid_bytes, 0, 0, 0]) + _codes(value.grid, value.grid_bytes))
    if value.a_curves is not None:
        parts[4] = _curves(value.a_curves)
    offsets, body = [], b""
    for part in parts:
        offsets.append(32 + len(body) if part is not None else 0)
        body += part or b""
    head = (b"mAB " if value.to_pcs else b"mBA ") + bytes(4) + bytes([channels_in, channels_out, 0, 0])
    return head + struct.pack(">5I", *offsets) + body


def _clrt(value: Colorants) -> bytes:
    body = b"clrt\0\0\0\0" + struct.pack(">I", len(value.names))
    for name, codes in zip(value.names, value.pcs_codes, strict=True):
        body += name.encode("ascii", "replace")[:31].ljust(32, b"\0") + np.rint(codes).astype(">u2").tobytes()
    return body


def _pseq(value: ProfileSequence, major_version: int) -> bytes:
    body = b"pseq\0\0\0\0" + struct.pack(">I", len(value.steps))
    for step in value.steps:
        body += step.manufacturer + step.model + step.attributes.to_bytes(8, "big") + step.technology
        for name in (step.manufacturer_name, step.model_name):
            body += pad(_mluc(name)) if major_version >= 4 else _desc(name)
    return body
