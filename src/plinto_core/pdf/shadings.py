"""Shadings of a document in other colors: functions sampled until they follow, meshes rewritten (ISO 32000-2, 8.7.4.5)."""

import zlib
from collections.abc import Callable
from typing import Any

import numpy as np
import pikepdf
from numpy.typing import NDArray
from pikepdf import Dictionary, Name, Pdf, Stream

from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.errors import DocumentError
from plinto_core.pdf.function import Array, Function, function_of
from plinto_core.pdf.reading import numbers, pairs, whole
from plinto_core.pdf.space import DocumentSpace

#: Largest ΔE00 between a sampled shading and what it should be, and the samples at which trying ends.
MOST_ERROR, _MOST_POINTS, _MOST_MESH_BYTES, _MOST_TRIANGLES = 0.5, 4097, 64 << 20, 400_000
#: Share of the steps of a shading that may be hard edges of its own.
_MOST_JUMPS = 0.005
_MOST_SIDE = 513
#: Values (n, channels of the shading's space) to written values (n, channels of the destination).
Mapped = Callable[[Array], Array]


def converted(
    pdf: Pdf, found: Any, space: DocumentSpace, mapped: Mapped, lab: Callable[[Array], Array], target: Any
) -> tuple[Any, float]:
    """The shading in `target`, and the largest ΔE00 that its steps leave. Raises `DocumentError`."""
    kind = whole(found, "/ShadingType", "a shading", 0)
    if kind not in range(1, 8):
        raise DocumentError(f"a shading is of type {kind}, which is none of a PDF")
    keys = dict(found).items()
    if kind < 4:
        left = ("/ColorSpace", "/Function", "/Background")
        made: Any = Dictionary({key: value for key, value in keys if key not in left})
        made["/Function"], error = (_over_plane if kind == 1 else _along)(pdf, found, space, mapped, lab)
    else:
        made, error = _mesh(pdf, found, kind, space, mapped, lab)
    made["/ColorSpace"] = target
    if "/Background" in found:
        back = mapped(numbers(found["/Background"], "a shading's background")[None])[0]
        made["/Background"] = pikepdf.Array([round(float(v), 5) for v in back])
    return pdf.make_indirect(made), error


def _along(
    pdf: Pdf, found: Any, space: DocumentSpace, mapped: Mapped, lab: Callable[[Array], Array]
) -> tuple[Any, float]:  # fmt: skip
    given = found.get("/Function")
    domain = numbers(found["/Domain"], "a shading's domain", 2) if "/Domain" in found else np.array([0.0, 1.0])
    return _new_function(pdf, given, (float(domain[0]), float(domain[1])), space, mapped, lab)


def _new_function(
    pdf: Pdf, given: Any, domain: tuple[float, float], space: DocumentSpace, mapped: Mapped,
    lab: Callable[[Array], Array], depth: int = 0,
) -> tuple[Any, float]:  # fmt: skip
    """A function of one value in the destination. Stitches stay where they are, so that hard edges stay hard."""
    if isinstance(given, Dictionary) and whole(given, "/FunctionType", "a function", -1) == 3 and depth < 8:
        function_of(given, 1)
        encode = pairs(given.get("/Encode"), "a function's encoding")
        parts, error = [], 0.0
        for part, ends in zip(given["/Functions"], encode, strict=False):
            made, off = _new_function(pdf, part, (min(ends), max(ends)), space, mapped, lab, depth + 1)
            parts.append(made)
            error = max(error, off)
        another = Dictionary(
            {key: value for key, value in dict(given).items() if key not in ("/Functions", "/Range")}
        )
        another["/Functions"] = pikepdf.Array(parts)
        return pdf.make_indirect(another), error
    function = function_of(given, 1)
    low, high = domain

    def colors(at: Array) -> Array:
        values = function((low + at * (high - low))[:, None])
        if values.shape[1] != space.channels:
            raise DocumentError(f"a shading's function gives {values.shape[1]} values for {space.label}")
        return mapped(values)

    points = 17
    while True:
        samples = colors(np.linspace(0, 1, points))
        between = colors((np.arange(points - 1) + 0.5) / (points - 1))
        apart = delta_e_2000(lab((samples[1:] + samples[:-1]) / 2), lab(between))
        if apart.max() <= MOST_ERROR / 2 or points >= _MOST_POINTS:
            # Where the function itself jumps, the one sample beside it is as sharp as anybody can see.
            jumps = points >= _MOST_POINTS and (apart > MOST_ERROR).mean() < _MOST_JUMPS
            error = float(apart[apart <= MOST_ERROR].max()) if jumps else float(apart.max())
            return _sampled(pdf, samples, [points], [low, high]), error
        points = 2 * points - 1


def _over_plane(
    pdf: Pdf, found: Any, space: DocumentSpace, mapped: Mapped, lab: Callable[[Array], Array]
) -> tuple[Any, float]:  # fmt: skip
    function: Function = function_of(found.get("/Function"), 2)
    domain = (
        numbers(found["/Domain"], "a shading's domain", 4) if "/Domain" in found else np.array([0.0, 1.0, 0.0, 1.0])
    )

    def colors(x: Array, y: Array) -> Array:
        across, up = np.meshgrid(x, y)
        at = np.column_stack([across.ravel(), up.ravel()])
        return mapped(function(domain[0::2] + at * (domain[1::2] - domain[0::2])))

    points = 17
    while True:
        axis = np.linspace(0, 1, points)
        samples = colors(axis, axis)
        middle = (axis[1:] + axis[:-1]) / 2
        grid = samples.reshape(points, points, -1)
        means = (grid[1:, 1:] + grid[1:, :-1] + grid[:-1, 1:] + grid[:-1, :-1]) / 4
        off = delta_e_2000(lab(means.reshape(-1, samples.shape[1])), lab(colors(middle, middle)))
        if off.max() <= MOST_ERROR / 2 or points >= _MOST_SIDE:
            jumps = points >= _MOST_SIDE and (off > MOST_ERROR).mean() < 4 * _MOST_JUMPS
            error = float(off[off <= MOST_ERROR].max()) if jumps else float(off.max())
            return _sampled(pdf, samples, [points, points], list(domain)), error
        points = 2 * points - 1


def _sampled(pdf: Pdf, samples: Array, size: list[int], domain: list[float]) -> Any:
    codes = np.rint(np.clip(samples, 0, 1) * 65535).astype(">u2")
    made = Stream(pdf, zlib.compress(codes.tobytes(), 6))
    made["/Filter"], made["/FunctionType"], made["/BitsPerSample"] = Name.FlateDecode, 0, 16
    made["/Size"], made["/Domain"] = pikepdf.Array(size), pikepdf.Array([float(v) for v in domain])
    made["/Range"] = pikepdf.Array([0, 1] * samples.shape[1])
    return pdf.make_indirect(made)


#: Points and colors of a patch (types 6 and 7) by its flag: a new one, or one that goes on from an edge.
_PATCH = {6: ((12, 4), (8, 2)), 7: ((16, 4), (12, 2))}


def _mesh(
    pdf: Pdf, found: Any, kind: int, space: DocumentSpace, mapped: Mapped, lab: Callable[[Array], Array]
) -> tuple[Any, float]:  # fmt: skip
    if not isinstance(found, Stream):
        raise DocumentError("a mesh has no points")
    made = Stream(pdf, b"")
    for key, value in dict(found).items():
        if key not in ("/ColorSpace", "/Function", "/Background", "/Length", "/Filter", "/DecodeParms"):
            made[key] = value
    data = bytes(found.read_bytes())
    if "/Function" in found:
        # The mesh holds places along a function, which alone changes.
        decode = numbers(found.get("/Decode"), "a mesh's decoding", 6)
        made["/Function"], error = _new_function(
            pdf, found["/Function"], (float(decode[4]), float(decode[5])), space, mapped, lab
        )
        made.write(data)
        return made, error
    if len(data) > _MOST_MESH_BYTES:
        raise DocumentError("a mesh has more points than can be worked on")
    return _recolored(made, found, kind, data, space, mapped, lab)


def _recolored(
    made: Any, found: Any, kind: int, data: bytes, space: DocumentSpace, mapped: Mapped, lab: Callable[[Array], Array]
) -> tuple[Any, float]:  # fmt: skip
    coordinate, component = (whole(found, key, "a mesh") for key in ("/BitsPerCoordinate", "/BitsPerComponent"))
    flag = whole(found, "/BitsPerFlag", "a mesh", 0) if kind != 5 else 0
    decode = numbers(found.get("/Decode"), "a mesh's decoding")
    if (
        len(decode) != 4 + 2 * space.channels
        or not 1 <= coordinate <= 32
        or component not in (1, 2, 4, 8, 12, 16)
        or flag > 8
    ):
        raise DocumentError("a mesh has sizes that cannot be")
    pieces, colors = _parsed(data, kind, flag, coordinate, component, space.channels)
    if not colors:
        raise DocumentError("a mesh has no points")
    low, high = decode[4::2], decode[5::2]
    values = low + np.array(colors, np.float64) / (2.0**component - 1) * (high - low)

    def off(first: Array, second: Array) -> float:
        """Half way between two corners the viewer mixes in the new space; how far that is from the old one."""
        mixed = (mapped(first) + mapped(second)) / 2
        return float(delta_e_2000(lab(mixed), lab(mapped((first + second) / 2))).max())

    made["/BitsPerComponent"] = 16
    if kind in (4, 5):
        places, corners = _triangles(pieces, values, kind, whole(found, "/VerticesPerRow", "a mesh", 2))
        error = max(off(corners[:, one], corners[:, (one + 1) % 3]) for one in range(3))
        while error > MOST_ERROR and len(corners) * 4 <= _MOST_TRIANGLES:
            places, corners = _quartered(places), _quartered(corners)
            error = max(off(corners[:, one], corners[:, (one + 1) % 3]) for one in range(3))
        written = np.clip(mapped(corners.reshape(-1, space.channels)), 0, 1)
        made["/ShadingType"], made["/BitsPerFlag"], made["/BitsPerCoordinate"] = 4, 8, 32
        if "/VerticesPerRow" in made:
            del made["/VerticesPerRow"]
        made.write(_packed_triangles(places.reshape(-1, 2) / (2.0**coordinate - 1), written))
    else:
        written = np.clip(mapped(values), 0, 1)
        made.write(_packed(pieces, np.rint(written * 65535).astype(int)))
        error = off(values[1:], values[:-1]) if len(values) > 1 else 0.0
    made["/Decode"] = pikepdf.Array([float(v) for v in decode[:4]] + [0, 1] * written.shape[1])
    return made, error


def _triangles(pieces: list["_Piece"], values: Array, kind: int, per_row: int) -> tuple[Array, Array]:
    """Corners' places (n, 3, 2) in codes and values (n, 3, channels) of a mesh of triangles (8.7.4.5.5 and .6)."""
    places: list[tuple[float, float]] = []
    flags: list[int] = []
    plain = [piece for piece in pieces if isinstance(piece, tuple) and piece[0] >= 0]
    step = 3 if kind == 4 else 2
    for at in range(0, len(plain) - step + 1, step):
        if kind == 4:
            flags.append(plain[at][0] & 3)
        x, y = plain[at + step - 2][0], plain[at + step - 1][0]
        places.append((float(x), float(y)))
    corners: list[tuple[int, int, int]] = []
    if kind == 5:
        if per_row < 2:
            raise DocumentError("a mesh has fewer than two points in a row")
        for row in range(len(places) // per_row - 1):
            for column in range(per_row - 1):
                one = row * per_row + column
                corners += [(one, one + 1, one + per_row), (one + 1, one + per_row, one + per_row + 1)]
    else:
        at = 0
        while at < len(places):
            if flags[at] == 0 or not corners:
                if at + 2 >= len(places):
                    break
                corners.append((at, at + 1, at + 2))
                at += 3
                continue
            first, second, third = corners[-1]
            corners.append((second, third, at) if flags[at] == 1 else (first, third, at))
            at += 1
    if not corners:
        raise DocumentError("a mesh has no triangle")
    index = np.array(corners)
    return np.array(places)[index], values[index]


def _quartered(corners: Array) -> Array:
    """Each triangle (n, 3, m) as four of half its sides."""
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    ab, bc, ca = (a + b) / 2, (b + c) / 2, (c + a) / 2
    return np.concatenate([np.stack(each, axis=1) for each in ((a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca))])


def _packed_triangles(places: Array, written: Array) -> bytes:
    row = np.zeros(
        len(places), np.dtype([("flag", "u1"), ("place", ">u4", (2,)), ("color", ">u2", (written.shape[1],))])
    )
    row["place"] = np.rint(np.clip(places, 0, 1) * (2.0**32 - 1)).astype(np.uint64)
    row["color"] = np.rint(written * 65535)
    return row.tobytes()


#: A run of bits as they are (value, how many), or a color by its place.
_Piece = tuple[int, int] | int


def _parsed(
    data: bytes, kind: int, flag: int, coordinate: int, component: int, channels: int
) -> tuple[list[_Piece], list[list[int]]]:  # fmt: skip
    size = len(data) * 8
    left = size
    pieces: list[_Piece] = []
    colors: list[list[int]] = []

    def take(count: int) -> int:
        nonlocal left
        start = size - left
        left -= count
        end = start + count
        run = int.from_bytes(data[start >> 3 : (end + 7) >> 3], "big")
        return run >> (-end % 8) & ((1 << count) - 1)

    def take_colors(count: int) -> None:
        for _ in range(count):
            pieces.append(len(colors))
            colors.append([take(component) for _ in range(channels)])

    color = component * channels
    while True:
        points, several, edge = 1, 1, 0
        if left < max(flag + 2 * coordinate + color, 8):
            break
        if kind != 5:
            edge = take(flag)
            pieces.append((edge, flag))
        if kind in _PATCH:
            points, several = _PATCH[kind][1 if edge & 3 else 0]
        if left < points * 2 * coordinate + several * color:
            pieces.pop()
            break
        for _ in range(2 * points):
            pieces.append((take(coordinate), coordinate))
        take_colors(several)
        # Each vertex or patch begins on a byte (8.7.4.5.5 and after).
        left -= left % 8
        pieces.append((-1, 0))
    return pieces, colors


def _packed(pieces: list[_Piece], codes: NDArray[Any]) -> bytes:
    out, value, count = bytearray(), 0, 0
    for piece in pieces:
        if isinstance(piece, int):
            for code in codes[piece]:
                value, count = value << 16 | int(code), count + 16
            continue
        bits, width = piece
        if bits < 0:
            short = -count % 8
            out += (value << short).to_bytes((count + short) // 8, "big")
            value, count = 0, 0
            continue
        value, count = value << width | bits, count + width
    return bytes(out)
