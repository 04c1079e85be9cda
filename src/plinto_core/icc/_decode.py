"""Tag bytes to tag values. Nothing is allocated before its size has been held against the bytes there are."""

import math
from collections.abc import Callable
from typing import Literal

import numpy as np

from plinto_core.errors import IccError
from plinto_core.icc.values import (
    AnyCurve,
    Array,
    Colorants,
    Curve,
    CurveLut,
    Description,
    Numbers,
    ParametricCurve,
    ProfileSequence,
    ProfileStep,
    TableLut,
    TagValue,
    Text,
    Unknown,
    Xyz,
)

PARAMETER_COUNTS = (1, 3, 4, 5, 7)
MAX_CHANNELS = 15


class Cursor:
    """Reads big-endian values from one tag; running off its end is an IccError with the offset."""

    def __init__(self, data: bytes, tag: str, start: int) -> None:
        self.data, self.tag, self.start, self.at = data, tag, start, 0

    def fail(self, cause: str) -> IccError:
        return IccError(cause, tag=self.tag, offset=self.start + self.at)

    def take(self, count: int) -> bytes:
        if count < 0 or self.at + count > len(self.data):
            raise self.fail(f"{count} bytes are announced where {len(self.data) - self.at} are left")
        piece = self.data[self.at : self.at + count]
        self.at += count
        return piece

    def number(self, size: int) -> int:
        return int.from_bytes(self.take(size), "big")

    def array(self, count: int, kind: str) -> Array:
        return np.frombuffer(self.take(count * np.dtype(kind).itemsize), kind).astype(np.float64)

    def fixed(self, count: int) -> Array:
        return np.asarray(self.array(count, ">i4") / 65536)

    def seek(self, offset: int) -> None:
        if not 0 <= offset <= len(self.data):
            raise self.fail(f"an offset of {offset} points outside the tag")
        self.at = offset

    def align(self) -> None:
        self.at = min((self.at + 3) // 4 * 4, len(self.data))


def decode(data: bytes, tag: str, start: int) -> TagValue:
    """The value of the tag `tag` whose `data` begins at byte `start` of the profile."""
    cursor = Cursor(data, tag, start)
    reader = _READERS.get(cursor.take(4))
    if reader is None:
        return Unknown(data)
    cursor.take(4)
    return reader(cursor)


def _text(cursor: Cursor) -> Text:
    return Text(cursor.data[8:].split(b"\0")[0].decode("latin-1"))


def _desc(cursor: Cursor) -> Description:
    return Description({"enUS": cursor.take(cursor.number(4)).split(b"\0")[0].decode("latin-1")})


def _mluc(cursor: Cursor) -> Description:
    cursor.seek(8)
    records, size = cursor.number(4), cursor.number(4)
    if records and size < 12:
        raise cursor.fail(f"a record of {size} bytes is too short for a text")
    found: dict[str, str] = {}
    for index in range(records):
        cursor.seek(16 + index * size)
        locale = cursor.take(4).decode("latin-1")
        length, offset = cursor.number(4), cursor.number(4)
        cursor.seek(offset)
        found[locale] = cursor.take(length).decode("utf-16-be", "replace").rstrip("\0")
    return Description(found)


def _xyz(cursor: Cursor) -> Xyz:
    return Xyz(cursor.fixed((len(cursor.data) - 8) // 12 * 3).reshape(-1, 3))


def _sf32(cursor: Cursor) -> Numbers:
    return Numbers(cursor.fixed((len(cursor.data) - 8) // 4))


def _curv(cursor: Cursor) -> Curve:
    count = cursor.number(4)
    values = cursor.array(count, ">u2")
    return Curve(values / 256 if count == 1 else values / 65535)


def _para(cursor: Cursor) -> ParametricCurve:
    kind = cursor.number(2)
    cursor.take(2)
    if kind >= len(PARAMETER_COUNTS):
        raise cursor.fail(f"a parametric curve of type {kind} is not defined")
    return ParametricCurve(kind, tuple(cursor.fixed(PARAMETER_COUNTS[kind]).tolist()))


def _channels(cursor: Cursor) -> tuple[int, int]:
    channels_in, channels_out = cursor.number(1), cursor.number(1)
    if not (1 <= channels_in <= MAX_CHANNELS and 1 <= channels_out <= MAX_CHANNELS):
        raise cursor.fail(f"{channels_in} channels in and {channels_out} out are outside 1 to {MAX_CHANNELS}")
    return channels_in, channels_out


def _table_lut(cursor: Cursor) -> TableLut:
    wide = cursor.data[:4] == b"mft2"
    channels_in, channels_out = _channels(cursor)
    points = cursor.number(1)
    cursor.take(1)
    matrix = cursor.fixed(9).reshape(3, 3)
    entries_in, entries_out = (cursor.number(2), cursor.number(2)) if wide else (256, 256)
    if points < 2 or entries_in < 2 or entries_out < 2:
        raise cursor.fail("a table with fewer than two points cannot be interpolated")
    kind, scale = (">u2", 65535) if wide else (">u1", 255)
    inputs = cursor.array(channels_in * entries_in, kind).reshape(channels_in, entries_in) / scale
    grid = cursor.array(points**channels_in * channels_out, kind) / scale
    outputs = cursor.array(channels_out * entries_out, kind).reshape(channels_out, entries_out) / scale
    shape = (points,) * channels_in + (channels_out,)
    return TableLut(16 if wide else 8, matrix, inputs, grid.reshape(shape), outputs)


def _curves(cursor: Cursor, offset: int, count: int) -> tuple[AnyCurve, ...]:
    cursor.seek(offset)
    curves: list[AnyCurve] = []
    for _ in range(count):
        kind = cursor.take(4)
        cursor.take(4)
        if kind not in (b"curv", b"para"):
            raise cursor.fail(f"a curve of type {kind!r} is not allowed here")
        curves.append(_curv(cursor) if kind == b"curv" else _para(cursor))
        cursor.align()
    return tuple(curves)


def _clut(cursor: Cursor, offset: int, channels_in: int, channels_out: int) -> tuple[Array, Literal[1, 2]]:
    cursor.seek(offset)
    points = tuple(cursor.take(16)[:channels_in])
    width = cursor.number(1)
    cursor.take(3)
    if width not in (1, 2) or min(points) < 2:
        raise cursor.fail(f"a grid of {points} points and {width} bytes a value is not defined")
    values = cursor.array(math.prod(points) * channels_out, f">u{width}") / (255 if width == 1 else 65535)
    return values.reshape((*points, channels_out)), 1 if width == 1 else 2


def _curve_lut(cursor: Cursor) -> CurveLut:
    to_pcs = cursor.data[:4] == b"mAB "
    channels_in, channels_out = _channels(cursor)
    cursor.take(2)
    b_at, matrix_at, m_at, grid_at, a_at = (cursor.number(4) for _ in range(5))
    if not b_at:
        raise cursor.fail("the B curves, which every such table has, are missing")
    if channels_in != channels_out and not grid_at:
        raise cursor.fail("the grid is missing though the channels in and out differ in number")
    pcs_side, device_side = (channels_out, channels_in) if to_pcs else (channels_in, channels_out)
    matrix = None
    if matrix_at:
        cursor.seek(matrix_at)
        numbers = cursor.fixed(12)
        matrix = np.column_stack([numbers[:9].reshape(3, 3), numbers[9:]])
    grid, width = _clut(cursor, grid_at, channels_in, channels_out) if grid_at else (None, 2)
    return CurveLut(
        to_pcs=to_pcs,
        b_curves=_curves(cursor, b_at, pcs_side),
        matrix=matrix,
        m_curves=_curves(cursor, m_at, pcs_side) if m_at else None,
        grid=grid,
        grid_bytes=1 if width == 1 else 2,
        a_curves=_curves(cursor, a_at, device_side) if a_at else None,
    )


def _clrt(cursor: Cursor) -> Colorants:
    names, codes = [], []
    for _ in range(cursor.number(4)):
        names.append(cursor.take(32).split(b"\0")[0].decode("latin-1"))
        codes.append([cursor.number(2) for _ in range(3)])
    return Colorants(tuple(names), np.array(codes, np.float64).reshape(-1, 3))


def _pseq(cursor: Cursor) -> ProfileSequence:
    steps = []
    for _ in range(cursor.number(4)):
        head = (cursor.take(4), cursor.take(4), cursor.number(8), cursor.take(4))
        steps.append(ProfileStep(*head, _embedded_name(cursor), _embedded_name(cursor)))
    return ProfileSequence(tuple(steps))


def _embedded_name(cursor: Cursor) -> Description:
    """A 'desc' or 'mluc' inside a `pseq`, after which the next one follows."""
    begin, kind = cursor.at, cursor.take(4)
    if kind == b"desc":
        cursor.take(4)
        name = _desc(cursor)
        cursor.take(4)
        cursor.take(2 * cursor.number(4))
        cursor.take(70)
        return name
    if kind != b"mluc":
        raise cursor.fail(f"a name of type {kind!r} is not allowed in a profile sequence")
    inner = Cursor(cursor.data[begin:], cursor.tag, cursor.start + begin)
    name, end = _mluc(inner), 16
    inner.seek(8)
    for index in range(inner.number(4)):
        inner.seek(16 + index * 12 + 4)
        # Texts may lie before or behind each other; the name ends where the last of them does.
        end = max(end, inner.number(4) + inner.number(4))
    cursor.seek(begin + end)
    cursor.align()
    return name


_READERS: dict[bytes, Callable[[Cursor], TagValue]] = {
    b"text": _text,
    b"desc": _desc,
    b"mluc": _mluc,
    b"XYZ ": _xyz,
    b"sf32": _sf32,
    b"curv": _curv,
    b"para": _para,
    b"mft1": _table_lut,
    b"mft2": _table_lut,
    b"mAB ": _curve_lut,
    b"mBA ": _curve_lut,
    b"pseq": _pseq,
    b"clrt": _clrt,
}
