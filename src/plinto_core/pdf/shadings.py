"""Shadings of a document in other colors: functions sampled until they follow, meshes rewritten (ISO 32000-2, 8.7.4.5)."""

import zlib
from collections.abc import Callable
from typing import Any

import numpy as np
import pikepdf
from pikepdf import Dictionary, Name, Pdf, Stream

from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.errors import DocumentError
from plinto_core.pdf.function import Array, Function, function_of
from plinto_core.pdf.meshes import MOST_ERROR, Mapped, recolored
from plinto_core.pdf.reading import numbers, pairs, whole
from plinto_core.pdf.space import DocumentSpace

#: The samples at which trying for `MOST_ERROR` ends.
_MOST_POINTS = 4097
#: Share of the steps of a shading that may be hard edges of its own.
_MOST_JUMPS = 0.005
_MOST_SIDE = 513


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
    return made, recolored(made, found, kind, data, space, mapped, lab)
