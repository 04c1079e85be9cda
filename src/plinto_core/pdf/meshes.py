"""Meshes of triangles and patches in other colors (ISO 32000-2, 8.7.4.5.5 to 8.7.4.5.8): corners converted, and divided
until what the viewer mixes between them follows."""

from collections.abc import Callable
from typing import Any

import numpy as np
import pikepdf
from numpy.typing import NDArray

from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.errors import DocumentError
from plinto_core.pdf.function import Array
from plinto_core.pdf.reading import numbers, whole
from plinto_core.pdf.space import DocumentSpace

#: Largest ΔE00 that a shading's steps may leave.
MOST_ERROR = 0.5
_MOST_MESH_BYTES, _MOST_TRIANGLES, _MOST_PATCHES = 64 << 20, 400_000, 60_000
#: Values (n, channels of the shading's space) to written values (n, channels of the destination).
Mapped = Callable[[Array], Array]
#: Values of corners (n, channels), several of them, to the largest ΔE00 in their middle.
Off = Callable[..., float]

#: Points and colors of a patch (types 6 and 7) by its flag: a new one, or one that goes on from an edge.
_PATCH = {6: ((12, 4), (8, 2)), 7: ((16, 4), (12, 2))}
#: Rows and columns of a patch's points in the order of the stream (8.7.4.5.8).
_ORDER = np.array([(0, 0), (0, 1), (0, 2), (0, 3), (1, 3), (2, 3), (3, 3), (3, 2), (3, 1), (3, 0), (2, 0), (1, 0),
                   (1, 1), (1, 2), (2, 2), (2, 1)])  # fmt: skip
#: Those of its corners, whose colors stand in the same order.
_CORNERS = np.array([(0, 0), (0, 1), (1, 1), (1, 0)])


def recolored(
    made: Any, found: Any, kind: int, data: bytes, space: DocumentSpace, mapped: Mapped, lab: Callable[[Array], Array]
) -> float:  # fmt: skip
    """Write the points `data` of the mesh `found` into `made`, its colors mapped; the largest ΔE00 that is left between
    corners. Raises `DocumentError`."""
    if len(data) > _MOST_MESH_BYTES:
        raise DocumentError("a mesh has more points than can be worked on")
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

    def off(*corners: Array) -> float:
        """In the middle of corners the viewer mixes in the new space; how far that is from the old one."""
        mixed, meant = (np.mean(each, axis=0) for each in ([mapped(corner) for corner in corners], corners))
        return float(delta_e_2000(lab(mixed), lab(mapped(meant))).max())

    made["/BitsPerComponent"] = 16
    if kind in (4, 5):
        index = _triangles(pieces, kind, whole(found, "/VerticesPerRow", "a mesh", 2))
        points = _vertices(pieces, kind)[index] / (2.0**coordinate - 1)
        error, channels = _write_triangles(made, points, values[index], mapped, off)
        places = decode[:4]
    else:
        patches, corners = _patches(pieces, values, kind)
        if (error := _off_in_patches(corners, off)) <= MOST_ERROR:
            # The shape stays as it was written, to the bit.
            written = np.clip(mapped(values), 0, 1)
            made.write(_packed(pieces, np.rint(written * 65535).astype(int)))
            places, channels = decode[:4], written.shape[1]
        else:
            points = patches / (2.0**coordinate - 1) * (decode[1:4:2] - decode[0:4:2]) + decode[0:4:2]
            error, places, channels = _write_patches(made, points, corners, mapped, off)
    made["/Decode"] = pikepdf.Array([float(v) for v in places] + [0, 1] * channels)
    return error


def _write_triangles(made: Any, points: Array, corners: Array, mapped: Mapped, off: Off) -> tuple[float, int]:
    """Triangles (n, 3, 2) of points 0…1 with corners' values (n, 3, channels), quartered until they follow; the largest
    ΔE00 that is left, and the written channels."""

    def largest() -> float:
        return max(off(corners[:, one], corners[:, (one + 1) % 3]) for one in range(3))

    while (error := largest()) > MOST_ERROR and len(corners) * 4 <= _MOST_TRIANGLES:
        points, corners = _quartered(points), _quartered(corners)
    written = np.clip(mapped(corners.reshape(-1, corners.shape[2])), 0, 1)
    made["/ShadingType"], made["/BitsPerFlag"], made["/BitsPerCoordinate"] = 4, 8, 32
    if "/VerticesPerRow" in made:
        del made["/VerticesPerRow"]
    made.write(_packed_rows(points.reshape(-1, 1, 2), written[:, None]))
    return error, written.shape[1]


def _write_patches(
    made: Any, points: Array, corners: Array, mapped: Mapped, off: Off
) -> tuple[float, Array, int]:  # fmt: skip
    """Patches (n, 4, 4, 2) in the mesh's own coordinates with corners' values (n, 2, 2, channels), split until they follow;
    the largest ΔE00 that is left, what their points lie between (x, then y), and the written channels."""
    error = _off_in_patches(corners, off)
    while error > MOST_ERROR and len(corners) * 4 <= _MOST_PATCHES:
        points, corners = _split(points), _split_colors(corners)
        error = _off_in_patches(corners, off)
    # Inner points of a Coons patch may lie outside of what its own points need.
    lows, highs = points.min(axis=(0, 1, 2)), points.max(axis=(0, 1, 2))
    highs = np.maximum(highs, lows + 1e-6)
    written = np.clip(mapped(corners[:, _CORNERS[:, 0], _CORNERS[:, 1]].reshape(-1, corners.shape[3])), 0, 1)
    made["/ShadingType"], made["/BitsPerFlag"], made["/BitsPerCoordinate"] = 7, 8, 32
    ordered = ((points - lows) / (highs - lows))[:, _ORDER[:, 0], _ORDER[:, 1]]
    made.write(_packed_rows(ordered, written.reshape(len(ordered), 4, -1)))
    return error, np.stack([lows, highs], axis=1).ravel(), written.shape[1]


def _off_in_patches(corners: Array, off: Off) -> float:
    """The largest ΔE00 half way along the sides of patches, and in their middles."""
    around = [corners[:, row, column] for row, column in _CORNERS]
    return max(*(off(one, other) for one, other in zip(around, [*around[1:], around[0]], strict=True)), off(*around))


def _patches(pieces: list["_Piece"], values: Array, kind: int) -> tuple[Array, Array]:
    """Points (n, 4, 4, 2) in codes and corners' values (n, 2, 2, channels) of patches, each by itself: what it shares
    with the one before by its flag is its own, and a Coons patch has the inner points that make it a tensor patch."""
    points: list[list[tuple[float, float]]] = []
    colors: list[list[int]] = []
    plain = iter(pieces)
    for piece in plain:
        if not isinstance(piece, tuple) or piece[0] < 0:
            continue
        edge = piece[0] & 3
        if edge and points:
            around = [(3 * edge + at) % 12 for at in range(4)]
            own = [points[-1][at] for at in around]
            shades = [colors[-1][edge], colors[-1][(edge + 1) % 4]]
        else:
            own, shades = [], []
        coordinates: list[int] = []
        for part in plain:
            if isinstance(part, int):
                shades.append(part)
            elif part[0] < 0:
                break
            else:
                coordinates.append(part[0])
        own += [(float(x), float(y)) for x, y in zip(coordinates[0::2], coordinates[1::2], strict=False)]
        if len(own) != _PATCH[kind][0][0] or len(shades) != 4:
            raise DocumentError("a mesh goes on from a patch that is not there")
        points.append(own)
        colors.append(shades)
    found = np.zeros((len(points), 4, 4, 2))
    count = _PATCH[kind][0][0]
    found[:, _ORDER[:count, 0], _ORDER[:count, 1]] = np.array(points)
    if kind == 6:
        _fill_in(found)
    corners = np.zeros((len(points), 2, 2, values.shape[1]))
    corners[:, _CORNERS[:, 0], _CORNERS[:, 1]] = values[np.array(colors)]
    return found, corners


def _fill_in(p: Array) -> None:
    """The inner points that make a tensor patch of a Coons patch (n, 4, 4, 2), in place (8.7.4.5.8)."""
    for i, j in ((1, 1), (1, 2), (2, 1), (2, 2)):
        # The corner that is near, and the one across; seen from each corner the formula is the same.
        a, b = 3 * (i == 2), 3 * (j == 2)
        c, d = 3 - a, 3 - b
        p[:, i, j] = (
            -4 * p[:, a, b] + 6 * (p[:, a, j] + p[:, i, b]) - 2 * (p[:, a, d] + p[:, c, b])
            + 3 * (p[:, c, j] + p[:, i, d]) - p[:, c, d]
        ) / 9  # fmt: skip


def _split(patches: Array) -> Array:
    """Each patch (n, 4, 4, 2) as four of half its sides, in the order in which they are painted (de Casteljau)."""
    low_and_high = _halves(np.swapaxes(patches, 1, 2))
    quarters = [quarter for half in low_and_high for quarter in _halves(np.swapaxes(half, 1, 2))]
    return np.stack(quarters, axis=1).reshape(-1, 4, 4, 2)


def _halves(p: Array) -> tuple[Array, Array]:
    """Cubic curves (n, 4, ...) at their middle."""
    a, b, c, d = p[:, 0], p[:, 1], p[:, 2], p[:, 3]
    ab, bc, cd = (a + b) / 2, (b + c) / 2, (c + d) / 2
    abc, bcd = (ab + bc) / 2, (bc + cd) / 2
    middle = (abc + bcd) / 2
    return np.stack([a, ab, abc, middle], axis=1), np.stack([middle, bcd, cd, d], axis=1)


def _split_colors(corners: Array) -> Array:
    """Corners' values (n, 2, 2, channels) of the four that `_split` gives, in their order."""
    grid = np.zeros((len(corners), 3, 3, corners.shape[3]))
    grid[:, ::2, ::2] = corners
    grid[:, 1, ::2] = corners.mean(axis=1)
    grid[:, ::2, 1] = corners.mean(axis=2)
    grid[:, 1, 1] = corners.mean(axis=(1, 2))
    quarters = [grid[:, u : u + 2, v : v + 2] for v in (0, 1) for u in (0, 1)]
    return np.stack(quarters, axis=1).reshape(-1, 2, 2, corners.shape[3])


def _vertices(pieces: list["_Piece"], kind: int) -> Array:
    """Places (n, 2) in codes of the vertices of a mesh of triangles."""
    plain = [piece[0] for piece in pieces if isinstance(piece, tuple) and piece[0] >= 0]
    step = 3 if kind == 4 else 2
    whole_ones = len(plain) // step * step
    return np.array(plain[:whole_ones], np.float64).reshape(-1, step)[:, -2:]


def _triangles(pieces: list["_Piece"], kind: int, per_row: int) -> NDArray[np.int64]:
    """Which vertices (n, 3) make a mesh's triangles (8.7.4.5.5 and .6)."""
    plain = [piece[0] for piece in pieces if isinstance(piece, tuple) and piece[0] >= 0]
    places = range(len(plain) // (3 if kind == 4 else 2))
    flags = [edge & 3 for edge in plain[0::3]] if kind == 4 else []
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
    return np.array(corners)


def _quartered(corners: Array) -> Array:
    """Each triangle (n, 3, m) as four of half its sides."""
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    ab, bc, ca = (a + b) / 2, (b + c) / 2, (c + a) / 2
    return np.concatenate([np.stack(each, axis=1) for each in ((a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca))])


def _packed_rows(places: Array, written: Array) -> bytes:
    """Vertices or patches that stand for themselves: places (n, points, 2) 0…1, then colors (n, corners, channels) 0…1."""
    row = np.zeros(
        len(places), np.dtype([("flag", "u1"), ("places", ">u4", places.shape[1:]), ("colors", ">u2", written.shape[1:])])
    )  # fmt: skip
    row["places"] = np.rint(np.clip(places, 0, 1) * (2.0**32 - 1)).astype(np.uint64)
    row["colors"] = np.rint(written * 65535)
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
