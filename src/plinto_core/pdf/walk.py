"""Every painted color of a document, with where and how it is painted (ISO 32000-2, clauses 8 to 11).

A content stream is interpreted with a graphics state: forms take on what they are painted with, uncolored patterns and
glyphs the color that they are used in, soft masks paint nothing themselves. Invisible text and clips paint nothing.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from typing import Any, Literal

import numpy as np
import pikepdf

from plinto_core.errors import DocumentError
from plinto_core.pdf.space import CMYK, GRAY, PATTERN, RGB, DocumentSpace, resolve

Object = Literal["text", "line art", "image", "shading"]
Matrix = tuple[float, float, float, float, float, float]

_IDENTITY: Matrix = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)
#: Beyond this a document is no job but an attack.
_DEEPEST, MOST_OPERATORS = 28, 20_000_000
_FILLS = {
    "f": (True, False),
    "F": (True, False),
    "f*": (True, False),
    "S": (False, True),
    "s": (False, True),
} | dict.fromkeys(("B", "B*", "b", "b*"), (True, True))
_TEXT = {"Tj", "TJ", "'", '"'}
_SETS = {
    "g": (GRAY, True),
    "G": (GRAY, False),
    "rg": (RGB, True),
    "RG": (RGB, False),
    "k": (CMYK, True),
    "K": (CMYK, False),
}
#: Text rendering modes (table 104): fill, stroke.
_MODES = {0: (True, False), 1: (False, True), 2: (True, True), 4: (True, False), 5: (False, True), 6: (True, True)}


@dataclass(frozen=True)
class Picture:
    """An image where it is painted: pixels, bits, filter, and how many pixels come to an inch, the fewer way."""

    width: int
    height: int
    bits: int
    compression: str
    ppi: float
    is_mask: bool
    key: tuple[int, int]


@dataclass(frozen=True)
class ColorUse:
    """One painted color: `where` is the page (from 1) and the way to its stream; `values` as the document has them, empty
    for pictures and shadings. In a soft mask (`in_mask`) it is no color of the print."""

    page: int
    where: str
    object: Object
    stroke: bool
    space: DocumentSpace
    values: tuple[float, ...]
    overprint: bool
    overprint_mode: int
    blend: str
    alpha: float
    masked: bool
    in_mask: bool
    font: str = ""
    picture: Picture | None = None


@dataclass(frozen=True)
class _Paint:
    space: DocumentSpace = GRAY
    values: tuple[float, ...] = (0.0,)
    pattern: str = ""


@dataclass(frozen=True)
class _State:
    matrix: Matrix = _IDENTITY
    fill: _Paint = field(default_factory=_Paint)
    stroke: _Paint = field(default_factory=_Paint)
    mode: int = 0
    font: str = ""
    font_object: Any = None
    overprint: bool = False
    overprint_stroke: bool = False
    overprint_mode: int = 0
    blend: str = "Normal"
    alpha: float = 1.0
    alpha_stroke: float = 1.0
    masked: bool = False
    in_mask: bool = False
    #: In an uncolored pattern or glyph, color operators count for nothing (8.7.3.3, 9.6.4).
    uncolored: bool = False


def walk(pdf: pikepdf.Pdf, pages: range | None = None) -> Iterator[ColorUse]:
    """Painted colors of the pages (from 0; all of them), in the order in which they are painted.

    Raises `DocumentError` with page and stream where something cannot be interpreted.
    """
    walker = _Walker()
    for number in pages if pages is not None else range(len(pdf.pages)):
        page = pdf.pages[number]
        try:
            resources = page.obj.get("/Resources", pikepdf.Dictionary())
            yield from walker.stream(page, resources, _State(), number + 1, "page", ())
            yield from walker.annotations(page, number + 1)
        except DocumentError as error:
            if str(error).startswith("Page "):
                raise
            raise DocumentError(f"Page {number + 1} cannot be read in full: {error}.") from error


class _Walker:
    """What has to be counted over the whole document."""

    def __init__(self) -> None:
        self._operators = 0

    def stream(
        self, content: Any, resources: Any, state: _State, page: int, where: str, way: tuple[tuple[int, int], ...]
    ) -> Iterator[ColorUse]:  # fmt: skip
        """Uses in a content stream."""
        if len(way) > _DEEPEST:
            raise DocumentError(f"streams lie more than {_DEEPEST} deep in each other at {where}")
        stack: list[_State] = []
        try:
            instructions = pikepdf.parse_content_stream(content)
        except pikepdf.PdfError as error:
            raise DocumentError(f"the content of {where} cannot be parsed ({error})") from error
        for at, instruction in enumerate(instructions):
            self._operators += 1
            if self._operators > MOST_OPERATORS:
                raise DocumentError(f"there are more than {MOST_OPERATORS:,} operators up to {where}")
            operator = str(instruction.operator)
            operands = list(instruction.operands)
            if operator == "q":
                stack.append(state)
            elif operator == "Q":
                # One too many is passed over, as every reader does (8.4.2).
                state = stack.pop() if stack else state
            elif operator == "INLINE IMAGE":
                yield _inline(instruction.operands[0], resources, state, page, f"{where} {at}")
            elif operator == "Do":
                yield from self._object(operands, resources, state, page, where, way)
            elif operator in _FILLS or operator in _TEXT:
                yield from self._painted(operator, resources, state, page, f"{where} {at}", way)
            elif operator == "sh":
                yield self._shading(operands, resources, state, page, f"{where} {at}")
            else:
                state = self._changed(operator, operands, resources, state, where)
            if operator == "gs":
                yield from self._soft_mask(operands, resources, state, page, where, way)

    def annotations(self, page: Any, number: int) -> Iterator[ColorUse]:
        """Uses in the appearances of a page's annotations that are printed."""
        for at, annotation in enumerate(page.obj.get("/Annots", [])):
            if not isinstance(annotation, pikepdf.Dictionary) or int(annotation.get("/F", 0)) & 2:
                continue
            appearances = annotation.get("/AP")
            found = appearances.get("/N") if isinstance(appearances, pikepdf.Dictionary) else None
            if isinstance(found, pikepdf.Dictionary) and not isinstance(found, pikepdf.Stream):
                found = found.get(str(annotation.get("/AS", "/Off")))
            if isinstance(found, pikepdf.Stream):
                own = found.get("/Resources", pikepdf.Dictionary())
                yield from self.stream(found, own, _State(), number, f"annotation {at + 1}", (found.objgen,))

    def _painted(
        self, operator: str, resources: Any, state: _State, page: int, where: str, way: tuple[tuple[int, int], ...]
    ) -> Iterator[ColorUse]:  # fmt: skip
        text = operator in _TEXT
        if text and state.font_object is not None and str(state.font_object.get("/Subtype", "")) == "/Type3":
            yield from self._glyphs(resources, state, page, where, way)
            return
        fills, strokes = _MODES.get(state.mode, (False, False)) if text else _FILLS[operator]
        for wanted, stroke in ((fills, False), (strokes, True)):
            paint = state.stroke if stroke else state.fill
            if not wanted:
                continue
            if paint.space.kind == "pattern":
                yield from self._pattern(paint, resources, state, page, where, way)
            else:
                yield _use(page, where, "text" if text else "line art", stroke, paint, state)

    def _glyphs(
        self, resources: Any, state: _State, page: int, where: str, way: tuple[tuple[int, int], ...]
    ) -> Iterator[ColorUse]:
        font = state.font_object
        own = font.get("/Resources", resources)
        for name, glyph in dict(font.get("/CharProcs", {})).items():
            if not isinstance(glyph, pikepdf.Stream) or glyph.objgen in way:
                continue
            first = bytes(glyph.read_bytes()[:200]).split()
            inside = replace(state, uncolored=b"d1" in first[:8], mode=0)
            yield from self.stream(glyph, own, inside, page, f"{where}, glyph {name}", (*way, glyph.objgen))

    def _pattern(
        self, paint: _Paint, resources: Any, state: _State, page: int, where: str, way: tuple[tuple[int, int], ...]
    ) -> Iterator[ColorUse]:
        if not paint.pattern:
            # No pattern was chosen yet, which paints nothing.
            return
        found = resources.get("/Pattern", {}).get(paint.pattern)
        if found is None:
            raise DocumentError(f"the pattern {paint.pattern} at {where} is nowhere defined")
        if int(found.get("/PatternType", 1)) == 2:
            space = resolve(found["/Shading"]["/ColorSpace"], resources)
            yield _use(page, where, "shading", False, _Paint(space, ()), state)
            return
        if found.objgen in way:
            raise DocumentError(f"the pattern {paint.pattern} at {where} is painted with itself")
        uncolored = int(found.get("/PaintType", 1)) == 2
        color = _Paint(paint.space.under or GRAY, paint.values)
        inside = replace(state, fill=color, stroke=color, uncolored=True) if uncolored else _fresh(state)
        own = found.get("/Resources", resources)
        yield from self.stream(
            found, own, inside, page, f"{where}, pattern {paint.pattern[1:]}", (*way, found.objgen)
        )

    def _object(
        self, operands: list[Any], resources: Any, state: _State, page: int, where: str, way: tuple[tuple[int, int], ...]
    ) -> Iterator[ColorUse]:  # fmt: skip
        name = str(operands[0]) if operands else ""
        found = resources.get("/XObject", {}).get(name) if name else None
        if not isinstance(found, pikepdf.Stream):
            raise DocumentError(f"'{name[1:]}' is painted in {where} and nowhere defined")
        if str(found.get("/Subtype", "")) == "/Image":
            yield _image(found, resources, state, page, f"{where}/{name[1:]}")
            return
        if found.objgen in way and found.objgen != (0, 0):
            raise DocumentError(f"the form '{name[1:]}' in {where} is painted inside itself")
        inside = replace(state, matrix=_times(_matrix(found.get("/Matrix")), state.matrix))
        if "/Group" in found:
            # A group starts anew: what it is painted with counts for the group as a whole (11.6.6).
            inside = replace(inside, blend="Normal", alpha=1.0, alpha_stroke=1.0, masked=state.masked)
        own = found.get("/Resources", resources)
        yield from self.stream(found, own, inside, page, f"{where}/{name[1:]}", (*way, found.objgen))

    def _soft_mask(
        self, operands: list[Any], resources: Any, state: _State, page: int, where: str, way: tuple[tuple[int, int], ...]
    ) -> Iterator[ColorUse]:  # fmt: skip
        mask = _graphics_state(operands, resources, where).get("/SMask")
        if not isinstance(mask, pikepdf.Dictionary):
            return
        group = mask.get("/G")
        if isinstance(group, pikepdf.Stream) and group.objgen not in way:
            inside = replace(_fresh(state), in_mask=True)
            own = group.get("/Resources", resources)
            yield from self.stream(group, own, inside, page, f"{where}, soft mask", (*way, group.objgen))

    def _shading(self, operands: list[Any], resources: Any, state: _State, page: int, where: str) -> ColorUse:
        found = resources.get("/Shading", {}).get(str(operands[0])) if operands else None
        if found is None:
            raise DocumentError(f"a shading at {where} is nowhere defined")
        return _use(page, where, "shading", False, _Paint(resolve(found["/ColorSpace"], resources), ()), state)

    def _changed(  # noqa: PLR0911 - one return an operator
        self, operator: str, operands: list[Any], resources: Any, state: _State, where: str
    ) -> _State:
        if operator == "cm":
            return replace(state, matrix=_times(_matrix(operands), state.matrix))
        if operator == "gs":
            return _with_graphics_state(state, _graphics_state(operands, resources, where))
        if operator == "Tr":
            return replace(state, mode=int(operands[0]))
        if operator == "Tf":
            font = resources.get("/Font", {}).get(str(operands[0]))
            name = str(font.get("/BaseFont", operands[0]))[1:] if font is not None else str(operands[0])[1:]
            return replace(state, font=name, font_object=font)
        if state.uncolored:
            return state
        if operator in _SETS:
            device, fill = _SETS[operator]
            # A device space may stand for another one here (8.6.5.6).
            space = resolve(pikepdf.Name(f"/{device.family}"), resources)
            return _colored(state, _Paint(space, _numbers(operands)), fill)
        if operator in ("cs", "CS"):
            space = resolve(operands[0], resources)
            return _colored(state, _Paint(space, _initial(space)), operator == "cs")
        if operator in ("sc", "scn", "SC", "SCN"):
            fill = operator.islower()
            space = (state.fill if fill else state.stroke).space
            name = str(operands[-1]) if operands and isinstance(operands[-1], pikepdf.Name) else ""
            values = _numbers(operands[:-1] if name else operands)
            if not name and space.kind != "pattern" and len(values) != space.channels:
                raise DocumentError(
                    f"{len(values)} values are set in {where} for {space.label}, which has {space.channels}"
                )
            return _colored(state, _Paint(space if not name else _pattern_space(space), values, name), fill)
        return state


def _pattern_space(space: DocumentSpace) -> DocumentSpace:
    return space if space.kind == "pattern" else PATTERN


def _fresh(state: _State) -> _State:
    """The state that a pattern or a mask begins with: where it lies, and black."""
    return _State(matrix=state.matrix, in_mask=state.in_mask)


def _initial(space: DocumentSpace) -> tuple[float, ...]:
    """The first color of a space (8.6.8): black, or full tint."""
    if space.kind == "CMYK" and space.family != "Indexed":
        return (0.0, 0.0, 0.0, 1.0)
    return (1.0 if space.kind == "spot" else 0.0,) * space.channels


def _colored(state: _State, paint: _Paint, fill: bool) -> _State:
    return replace(state, fill=paint) if fill else replace(state, stroke=paint)


def _graphics_state(operands: list[Any], resources: Any, where: str) -> Any:
    found = resources.get("/ExtGState", {}).get(str(operands[0])) if operands else None
    if found is None:
        raise DocumentError(f"a graphics state in {where} is nowhere defined")
    return found


def _with_graphics_state(state: _State, given: Any) -> _State:
    blend = given.get("/BM", None)
    mask = given.get("/SMask", None)
    first = blend[0] if isinstance(blend, pikepdf.Array) and len(blend) else blend
    stroke = bool(given.get("/OP", state.overprint_stroke))
    return replace(
        state,
        # OP alone sets both (table 57).
        overprint_stroke=stroke,
        overprint=bool(given.get("/op", stroke if "/OP" in given else state.overprint)),
        overprint_mode=int(given.get("/OPM", state.overprint_mode)),
        blend=str(first)[1:] if isinstance(first, pikepdf.Name) else state.blend,
        alpha=float(given.get("/ca", state.alpha)),
        alpha_stroke=float(given.get("/CA", state.alpha_stroke)),
        masked=isinstance(mask, pikepdf.Dictionary) if mask is not None else state.masked,
    )


def _use(page: int, where: str, kind: Object, stroke: bool, paint: _Paint, state: _State) -> ColorUse:
    return ColorUse(
        page, where, kind, stroke, paint.space, paint.values,
        state.overprint_stroke if stroke else state.overprint, state.overprint_mode, state.blend,
        state.alpha_stroke if stroke else state.alpha, state.masked, state.in_mask, state.font if kind == "text" else "",
    )  # fmt: skip


def _image(found: Any, resources: Any, state: _State, page: int, where: str) -> ColorUse:
    is_mask = bool(found.get("/ImageMask", False))
    space = state.fill.space if is_mask else GRAY
    if not is_mask and "/ColorSpace" in found:
        space = resolve(found["/ColorSpace"], resources)
    elif not is_mask and "JPX" not in str(found.get("/Filter", "")):
        raise DocumentError(f"the image at {where} has no color space")
    filters = found.get("/Filter")
    last = filters[-1] if isinstance(filters, pikepdf.Array) and len(filters) else filters
    picture = _picture(
        int(found["/Width"]), int(found["/Height"]), int(found.get("/BitsPerComponent", 1 if is_mask else 8)),
        str(last)[1:].removesuffix("Decode") if isinstance(last, pikepdf.Name) else "none", is_mask, found.objgen, state,
    )  # fmt: skip
    masked = replace(state, masked=state.masked or "/SMask" in found)
    values = state.fill.values if is_mask else ()
    return replace(_use(page, where, "image", False, _Paint(space, values), masked), picture=picture)


def _inline(image: Any, resources: Any, state: _State, page: int, where: str) -> ColorUse:
    given = image.obj
    is_mask = bool(given.get("/IM", given.get("/ImageMask", False)))
    named = given.get("/CS", given.get("/ColorSpace"))
    space = state.fill.space if is_mask else resolve(named, resources, inline=True) if named is not None else GRAY
    filters = given.get("/F", given.get("/Filter"))
    picture = _picture(
        int(given.get("/W", given.get("/Width", 1))), int(given.get("/H", given.get("/Height", 1))),
        int(given.get("/BPC", given.get("/BitsPerComponent", 1 if is_mask else 8))),
        str(filters)[1:] if isinstance(filters, pikepdf.Name) else "none", is_mask, (0, 0), state,
    )  # fmt: skip
    values = state.fill.values if is_mask else ()
    return replace(_use(page, where, "image", False, _Paint(space, values), state), picture=picture)


def _picture(
    width: int, height: int, bits: int, compression: str, is_mask: bool, key: tuple[int, int], state: _State
) -> Picture:
    a, b, c, d, _, _ = state.matrix
    across, up = float(np.hypot(a, b)) / 72, float(np.hypot(c, d)) / 72
    ppi = min(width / across if across else np.inf, height / up if up else np.inf)
    return Picture(width, height, bits, compression, float(ppi), is_mask, key)


def _numbers(operands: list[Any]) -> tuple[float, ...]:
    try:
        return tuple(float(value) for value in operands)
    except (TypeError, ValueError) as error:
        raise DocumentError("a color has values that are no numbers") from error


def _matrix(values: Any) -> Matrix:
    if values is None:
        return _IDENTITY
    numbers = _numbers(list(values))
    if len(numbers) != 6:
        raise DocumentError(f"a matrix has {len(numbers)} numbers, and 6 are meant")
    a, b, c, d, e, f = numbers
    return a, b, c, d, e, f


def _times(first: Matrix, then: Matrix) -> Matrix:
    """The matrix that does `first`, then `then` (8.3.4)."""
    a, b, c, d, e, f = first
    g, h, i, j, k, m = then
    return a * g + b * i, a * h + b * j, c * g + d * i, c * h + d * j, e * g + f * i + k, e * h + f * j + m
