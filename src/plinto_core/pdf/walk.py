"""Every painted color of a document, with where and how it is painted (ISO 32000-2, clauses 8 to 11).

A content stream is interpreted with a graphics state: forms take on what they are painted with, uncolored patterns and
glyphs the color that they are used in, soft masks paint nothing themselves. Invisible text and clips paint nothing.
"""

import warnings
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import Any, TypeVar

import pikepdf

from plinto_core.errors import DocumentError, PlintoError
from plinto_core.pdf.reading import cause
from plinto_core.pdf.space import CMYK, GRAY, PATTERN, RGB, DocumentSpace, Spaces
from plinto_core.pdf.state import (
    Box,
    ColorUse,
    Matrix,
    Object,
    Paint,
    Picture,
    State,
    as_matrix,
    as_numbers,
    box_of,
    ppi_of,
    times,
)
from plinto_core.pdf.tape import Emit, Tape
from plinto_core.pdf.text_box import MOVES, moved, shown

#: Beyond this a document is no job but an attack.
_DEEPEST, MOST_OPERATORS, MOST_USES = 28, 20_000_000, 5_000_000
#: What is painted: fill (False), stroke (True), or both.
_FILL, _STROKE, _BOTH = (False,), (True,), (False, True)
_FILLS: dict[str, tuple[bool, ...]] = {
    **dict.fromkeys(("f", "F", "f*"), _FILL),
    **dict.fromkeys(("S", "s"), _STROKE),
    **dict.fromkeys(("B", "B*", "b", "b*"), _BOTH),
}
_TEXT = {"Tj", "TJ", "'", '"'}
_PATH = {"m", "l", "c", "v", "y", "re", "h", "W", "W*"}
_SETS = {
    "g": (GRAY, True),
    "G": (GRAY, False),
    "rg": (RGB, True),
    "RG": (RGB, False),
    "k": (CMYK, True),
    "K": (CMYK, False),
}
_COLORS = {*_SETS, "cs", "CS", "sc", "scn", "SC", "SCN"}
#: Text rendering modes (table 104).
_MODES = {0: _FILL, 1: _STROKE, 2: _BOTH, 4: _FILL, 5: _STROKE, 6: _BOTH}
_Way = tuple[tuple[int, int], ...]
#: What pikepdf raises where an object is of another kind than is asked of it.
_WRONG_KIND = (TypeError, ValueError, KeyError, AttributeError, IndexError, RuntimeError)
T = TypeVar("T")
# pikepdf only warns where content breaks off in the middle of something; writing would lose what comes after it.
warnings.filterwarnings("error", message="Unexpected end of stream", category=UserWarning)


def walk(pdf: pikepdf.Pdf, pages: range | None = None, *, boxes: bool = False) -> Iterator[ColorUse]:
    """Painted colors of the pages (from 0; all of them), in the order in which they are painted, with `boxes` if asked.

    Raises `DocumentError` with page and stream where something cannot be interpreted.
    """
    interpreter = Interpreter(pdf, boxes=boxes)
    for number in pages if pages is not None else range(len(pdf.pages)):
        yield from interpreter.page(pdf.pages[number], number + 1)


@dataclass
class Interpreted:
    """What a stream came to: its uses, which colors it takes from outside (True: stroke), and what is written instead."""

    uses: list[ColorUse]
    inherits: set[bool]
    tape: Tape | None


@dataclass
class _Place:
    """The stream under way: its resources, page, name, the streams around it, and the path under construction."""

    resources: Any
    page: int
    where: str
    way: _Way
    scope: int
    uses: list[ColorUse]
    inherits: set[bool]
    tape: Tape | None
    spaces: dict[str, DocumentSpace]
    held: list[str]
    #: Colors set so far in device spaces, by how they are written: documents set the same few again and again.
    paints: dict[str, Paint]
    instructions: list[Any]
    #: The instructions as they are written, and their operators.
    lines: list[str]
    operators: list[str]
    box: Box | None = None
    at: int = 0
    #: Whether the colors that come further on have been asked for.
    foreseen: bool = False


class OwnFault(Exception):  # noqa: N818 - it is no error that somebody could mend
    """What Plinto itself did wrong with a document; never shown as the document's."""


class Interpreter:
    """Walks pages. A subclass gives what is written instead of each color, picture, shading and stream."""

    #: Whether streams are written anew.
    writes = False

    def __init__(self, pdf: pikepdf.Pdf, *, boxes: bool = False) -> None:
        self.pdf = pdf
        self.spaces = Spaces()
        self.boxes = boxes
        #: Pages on which a transfer function changes tones on their way to the device (10.5).
        self.pages_of_other_tones: set[int] = set()
        self._operators = self._uses = self._scopes = 0
        self._known: dict[Any, tuple[Matrix, Interpreted, Any]] = {}
        self._within_stream: _Place | None = None

    # What a subclass gives: called through `_asked`, so that a fault of its own is not taken for one of the document.

    def colored(self, use: ColorUse, paint: Paint) -> Emit | None:
        """The color that is written for a use."""
        del use, paint
        return None

    def image(self, found: Any, use: ColorUse, resources: Any) -> Any:
        """The image that is written for one; itself where it stays."""
        del use, resources
        return found

    def shading(self, found: Any, use: ColorUse, resources: Any) -> Any:
        """The shading that is written for one; itself where it stays."""
        del use, resources
        return found

    def stream_of(self, found: Any, done: Interpreted) -> Any:
        """The form, tile or glyph that is written for one; itself where it stays."""
        del done
        return found

    def colors_ahead(self, space: DocumentSpace) -> list[tuple[float, ...]]:
        """Values that the stream under way still sets in a device space: asked for once a stream, for whoever works
        out many colors at once in a fraction of the time. Empty for other spaces.
        """
        at = self._within_stream
        if at is None or at.foreseen:
            return []
        found: dict[tuple[float, ...], None] = {}
        wanted = [name for name, (device, _) in _SETS.items() if at.spaces.get(f"/{device.family}") is space]
        at.foreseen = bool(wanted)
        for ahead in range(at.at + 1, len(at.operators)) if wanted else ():
            if at.operators[ahead] in wanted:
                try:
                    values = as_numbers(at.lines[ahead].split(" ")[:-1])
                except DocumentError:
                    # It is told when its turn comes.
                    break
                if len(values) == space.channels:
                    found[values] = None
        return list(found)

    def _asked(self, give: Callable[..., T], *given: Any) -> T:
        """What the subclass gives. Faults of the document are `PlintoError`; anything else is our own."""
        try:
            return give(*given)
        except (PlintoError, pikepdf.PdfError):
            raise
        except _WRONG_KIND as error:
            raise OwnFault(f"{type(error).__name__}: {error}") from error

    # The walk.

    def page(self, page: Any, number: int) -> list[ColorUse]:
        """Uses of a page and its annotations; what is to be written is given to `page_written`."""
        try:
            resources = _dictionary(page.obj.get("/Resources"))
            done = self._stream(page, resources, State(), number, "page", ())
            uses = [*done.uses, *self._annotations(page, number)]
            self.page_written(page, done)
            return uses
        except DocumentError as error:
            if str(error).startswith("Page "):
                raise
            raise DocumentError(f"Page {number} cannot be read in full: {error}.") from error
        except (*_WRONG_KIND, pikepdf.PdfError) as error:
            # An object of another kind than belongs there; pikepdf says so in any of these.
            raise DocumentError(f"Page {number} cannot be read in full: {_cause(error)}.") from error

    def page_written(self, page: Any, done: Interpreted) -> None:
        """A page is through."""

    def _stream(self, content: Any, resources: Any, state: State, page: int, where: str, way: _Way) -> Interpreted:
        if len(way) > _DEEPEST:
            raise DocumentError(f"streams lie more than {_DEEPEST} deep in each other at {where}")
        try:
            instructions = pikepdf.parse_content_stream(content)
        except (pikepdf.PdfError, RecursionError, UserWarning) as error:
            raise DocumentError(f"the content of {where} cannot be parsed ({cause(error)})") from error
        self._scopes += 1
        tape = Tape(resources) if self.writes and not state.in_mask else None
        lines, operators = _as_lines(instructions)
        at = _Place(
            resources, page, where, way, self._scopes, [], set(), tape, {}, [], {}, instructions, lines, operators
        )
        around, self._within_stream = self._within_stream, at
        self._run(state, at)
        self._within_stream = around
        self._uses += len(at.uses)
        if self._uses > MOST_USES:
            raise DocumentError(f"there are more than {MOST_USES:,} painted colors up to {where}")
        return Interpreted(at.uses, at.inherits, tape)

    def _run(  # noqa: PLR0912 - one branch a family of operators
        self, state: State, at: _Place
    ) -> None:
        instructions, lines = at.instructions, at.lines
        stack: list[State] = []
        tape, held, boxes = at.tape, at.held, self.boxes
        self._operators += len(instructions)
        if self._operators > MOST_OPERATORS:
            raise DocumentError(f"there are more than {MOST_OPERATORS:,} operators up to {at.where}")
        for count, operator in enumerate(at.operators):
            line = lines[count]
            if operator in _PATH:
                held.append(line)
                if boxes and operator[0] != "W" and operator != "h":
                    _grow(at, state, operator, line.split(" ")[:-1])
                continue
            at.at = count
            if operator == "q":
                stack.append(state)
                if tape:
                    tape.save(line)
            elif operator == "Q":
                # One too many is passed over, as every reader does (8.4.2).
                if stack:
                    state = stack.pop()
                    if tape:
                        tape.restore(line)
            elif operator in _FILLS or operator == "n":
                if operator != "n":
                    self._painted(_FILLS[operator], "line art", at.box, state, at)
                at.box = None
                if tape:
                    held.append(line)
                    tape.out.extend(held)
                held.clear()
            elif operator in _SETS:
                if not state.uncolored:
                    state = self._set_device(operator, line, state, at)
            elif operator in _COLORS:
                if not state.uncolored:
                    state = self._set(operator, instructions[count].operands, state, at)
            elif operator in _TEXT:
                state = self._text(operator, list(instructions[count].operands), state, at)
                if tape:
                    tape.add(line)
            elif operator == "Do":
                self._object(list(instructions[count].operands), state, at)
            elif operator == "sh":
                self._sh(list(instructions[count].operands), state, at)
            elif operator == "INLINE IMAGE":
                self._inline(instructions[count], line, state, at)
            else:
                state = self._changed(operator, instructions[count], line, state, at)
        if tape:
            tape.out.extend(held)

    def _changed(  # noqa: PLR0911 - one return an operator
        self, operator: str, instruction: Any, line: str, state: State, at: _Place
    ) -> State:
        if operator == "Tf":
            return self._font(instruction, line, state, at)
        if at.tape and operator == "gs":
            at.tape.graphics_state(line)
        elif at.tape:
            at.tape.add(line)
        if operator == "cm":
            return state.but(matrix=times(as_matrix(instruction.operands), state.matrix))
        if operator == "gs":
            given = _graphics_state(list(instruction.operands), at)
            if _changes_tones(given):
                self.pages_of_other_tones.add(at.page)
            self._soft_mask(given, state, at)
            return _with_graphics_state(state, given)
        if operator == "Tr":
            return state.but(mode=int(instruction.operands[0]))
        if operator == "ri":
            return state.but(intent=str(instruction.operands[0])[1:])
        if self.boxes and operator in MOVES:
            return state.but(text=moved(state.text, operator, list(instruction.operands)))
        return state

    def _font(self, instruction: Any, line: str, state: State, at: _Place) -> State:
        given = str(instruction.operands[0])
        font = _dictionary(at.resources.get("/Font")).get(given)
        name = str(font.get("/BaseFont", given))[1:] if font is not None else given[1:]
        text = replace(state.text, size=float(instruction.operands[1]))
        if at.tape:
            at.tape.add(line)
        return state.but(font=name, font_name=given, font_object=font, text=text)

    def _set_device(self, operator: str, line: str, state: State, at: _Place) -> State:
        device, fill = _SETS[operator]
        paint = at.paints.get(line)
        if paint is None:
            values = as_numbers(line.split(" ")[:-1])
            if len(values) != device.channels:
                raise DocumentError(f"{len(values)} values are set in {at.where} for {device.family}")
            # A device space may stand for another one here (8.6.5.6).
            paint = at.paints[line] = Paint(self._space(f"/{device.family}", at), values, scope=at.scope)
        return state.but(fill=paint) if fill else state.but(stroke=paint)

    def _set(self, operator: str, given: Any, state: State, at: _Place) -> State:
        if operator in ("cs", "CS"):
            fill = operator == "cs"
            space = self._space(str(given[0]), at)
            paint = Paint(space, _initial(space), scope=at.scope)
        else:
            operands, fill = list(given), operator.islower()
            space = (state.fill if fill else state.stroke).space
            name = str(operands[-1]) if operands and isinstance(operands[-1], pikepdf.Name) else ""
            values = as_numbers(operands[:-1] if name else operands)
            if not name and space.kind != "pattern" and len(values) != space.channels:
                raise DocumentError(
                    f"{len(values)} values are set in {at.where} for {space.label}, which has {space.channels}"
                )
            pattern = _dictionary(at.resources.get("/Pattern")).get(name) if name else None
            paint = Paint(_pattern_space(space) if name else space, values, name, pattern, at.scope)
        return state.but(fill=paint) if fill else state.but(stroke=paint)

    def _space(self, name: str, at: _Place) -> DocumentSpace:
        if name not in at.spaces:
            at.spaces[name] = self.spaces.resolve(pikepdf.Name(name), at.resources)
        return at.spaces[name]

    def _painted(self, parts: tuple[bool, ...], kind: Object, box: Box | None, state: State, at: _Place) -> None:
        for stroke in parts:
            paint = state.stroke if stroke else state.fill
            if paint.scope != at.scope:
                at.inherits.add(stroke)
            if paint.space.kind == "pattern":
                self._pattern(paint, stroke, box, state, at)
                continue
            use = _use(at, kind, stroke, paint, state, box)
            at.uses.append(use)
            self._emit(self._asked(self.colored, use, paint) if at.tape else None, stroke, state, at)

    @staticmethod
    def _emit(emit: Emit | None, stroke: bool, state: State, at: _Place) -> None:
        if at.tape and emit is not None and not state.uncolored:
            at.tape.color(emit, stroke=stroke, alphas=(state.alpha, state.alpha_stroke))

    def _text(self, operator: str, operands: list[Any], state: State, at: _Place) -> State:
        font, box, behind = state.font_object, None, state
        if self.boxes:
            box, text = shown(state, operator, operands)
            behind = state.but(text=text)
        if font is not None and str(font.get("/Subtype", "")) == "/Type3":
            self._glyphs(font, state, box, at)
            return behind
        self._painted(_MODES.get(state.mode, ()), "text", box, state, at)
        return behind

    def _glyphs(self, font: Any, state: State, box: Box | None, at: _Place) -> None:
        own = _dictionary(font.get("/Resources"), at.resources)
        made: dict[str, Any] = {}
        tapes: list[Tape] = []
        for name, glyph in dict(font.get("/CharProcs", {})).items():
            if not isinstance(glyph, pikepdf.Stream) or glyph.objgen in at.way:
                continue
            first = bytes(glyph.read_bytes()[:200]).split()
            uncolored = b"d1" in first[:8]
            inside = state.but(uncolored=state.uncolored or uncolored, mode=0)
            done = self._within(glyph, own, inside, at, f", glyph {name[1:]}")
            at.uses.extend(replace(use, box=box) for use in done.uses)
            if uncolored and done.uses and at.tape:
                self._emit(
                    self._asked(self.colored, _use(at, "text", False, state.fill, state, box), state.fill),
                    False,
                    state,
                    at,
                )
            new = self.stream_of(glyph, done)
            if new is not glyph and done.tape:
                tapes.append(done.tape)
                made[name] = new
        if at.tape and made:
            another = self.font_with(font, made, tapes)
            at.tape.font(state.font_name, another, state.text.size)

    def font_with(self, font: Any, glyphs: dict[str, Any], tapes: list[Tape]) -> Any:
        """A copy of a font with some other glyphs and what they need."""
        raise NotImplementedError

    def _pattern(self, paint: Paint, stroke: bool, box: Box | None, state: State, at: _Place) -> None:
        if not paint.pattern:
            # No pattern was chosen yet, which paints nothing.
            return
        found = paint.pattern_object
        if found is None:
            raise DocumentError(f"the pattern {paint.pattern} in {at.where} is nowhere defined")
        original = Emit("", paint.values, paint.space.object or pikepdf.Name.Pattern, found, changed=False)
        if int(found.get("/PatternType", 1)) == 2:
            shading = found["/Shading"]
            space = self.spaces.resolve(shading["/ColorSpace"], at.resources)
            use = _use(at, "shading", stroke, Paint(space, ()), state, box)
            at.uses.append(use)
            if at.tape:
                new = self._asked(self.shading, shading, use, at.resources)
                if new is not shading:
                    original = Emit("", (), pikepdf.Name.Pattern, self.pattern_with(found, new))
                self._emit(original, stroke, state, at)
            return
        if found.objgen in at.way:
            raise DocumentError(f"the pattern {paint.pattern} in {at.where} is painted with itself")
        uncolored = int(found.get("/PaintType", 1)) == 2
        under = Paint(paint.space.under or GRAY, paint.values, scope=paint.scope)
        inside = state.but(fill=under, stroke=under, uncolored=True) if uncolored else _fresh(state)
        matrix = as_matrix(found.get("/Matrix")) if self.boxes else state.matrix
        inside = inside.but(matrix=matrix)
        own = _dictionary(found.get("/Resources"), at.resources)
        done = self._within(found, own, inside, at, f", pattern {paint.pattern[1:]}")
        at.uses.extend(replace(use, box=box) for use in done.uses)
        if at.tape:
            tile = self.stream_of(found, done)
            self._emit(self._tiled(original, tile, uncolored, under, state, stroke, at), stroke, state, at)

    def _tiled(
        self, original: Emit, tile: Any, uncolored: bool, under: Paint, state: State, stroke: bool, at: _Place
    ) -> Emit:  # fmt: skip
        if uncolored:
            color = self._asked(self.colored, _use(at, "line art", stroke, under, state, None), under)
            if color is not None and color.changed:
                space = (
                    color.space if color.space is not None else pikepdf.Name(f"/Device{_DEVICE_NAMES[color.device]}")
                )
                return Emit("", color.values, pikepdf.Array([pikepdf.Name.Pattern, space]), tile)
        if tile is original.pattern:
            return original
        return Emit("", original.values, original.space, tile)

    def pattern_with(self, pattern: Any, shading: Any) -> Any:
        """A copy of a pattern with another shading."""
        raise NotImplementedError

    def _within(self, found: Any, own: Any, inside: State, at: _Place, name: str) -> Interpreted:
        """A stream inside another one, walked once for all places where it comes to the same."""
        key = (
            found.objgen, inside.fill, inside.stroke, inside.overprint, inside.overprint_stroke, inside.overprint_mode,
            inside.blend, inside.alpha, inside.alpha_stroke, inside.masked, inside.in_mask, inside.uncolored, inside.mode,
            inside.font, inside.intent, tuple(round(v, 6) for v in inside.matrix[:4]),
            *(paint.pattern_object.objgen for paint in (inside.fill, inside.stroke) if paint.pattern_object is not None),
            None if "/Resources" in found else at.resources.objgen,
        )  # fmt: skip
        usable = found.objgen != (0, 0) and key[-1] != (0, 0)
        if usable and key in self._known:
            matrix, done, _alive = self._known[key]
            by = inside.matrix[4] - matrix[4], inside.matrix[5] - matrix[5]
            uses = [replace(use, page=at.page, box=_shifted(use.box, by)) for use in done.uses]
            self._uses += len(uses)
            done = Interpreted(uses, done.inherits, done.tape)
        else:
            done = self._stream(found, own, inside, at.page, f"{at.where}{name}", (*at.way, found.objgen))
            if usable:
                self._known[key] = inside.matrix, done, found
        at.inherits |= {
            stroke for stroke in done.inherits if (inside.stroke if stroke else inside.fill).scope != at.scope
        }
        return done

    def _annotations(self, page: Any, number: int) -> list[ColorUse]:
        """Uses in the appearances of a page's annotations that are printed."""
        uses: list[ColorUse] = []
        given = page.obj.get("/Annots", [])
        for at, annotation in enumerate(given if isinstance(given, pikepdf.Array) else []):
            if not isinstance(annotation, pikepdf.Dictionary) or int(annotation.get("/F", 0)) & 2:
                continue
            appearances = annotation.get("/AP")
            holder: Any = appearances
            name = "/N"
            found = appearances.get("/N") if isinstance(appearances, pikepdf.Dictionary) else None
            if isinstance(found, pikepdf.Dictionary) and not isinstance(found, pikepdf.Stream):
                holder, name = found, str(annotation.get("/AS", "/Off"))
                found = found.get(name)
            if isinstance(found, pikepdf.Stream):
                own = _dictionary(found.get("/Resources"))
                done = self._stream(found, own, State(), number, f"annotation {at + 1}", (found.objgen,))
                rect = [float(each) for each in annotation.get("/Rect", [0, 0, 0, 0])]
                box = (rect[0], rect[1], rect[2], rect[3]) if self.boxes and len(rect) == 4 else None
                uses += [replace(use, box=box) for use in done.uses]
                new = self.stream_of(found, done)
                if new is not found:
                    holder[name] = new
        return uses

    def _object(self, operands: list[Any], state: State, at: _Place) -> None:
        name = str(operands[0]) if operands else ""
        found = _dictionary(at.resources.get("/XObject")).get(name) if name else None
        if not isinstance(found, pikepdf.Stream):
            raise DocumentError(f"'{name[1:]}' is painted in {at.where} and nowhere defined")
        if str(found.get("/Subtype", "")) == "/Image":
            self._image(found, name, state, at)
            return
        if found.objgen in at.way and found.objgen != (0, 0):
            raise DocumentError(f"the form '{name[1:]}' in {at.where} is painted inside itself")
        inside = state.but(matrix=times(as_matrix(found.get("/Matrix")), state.matrix))
        if "/Group" in found:
            # A group starts anew: what it is painted with counts for the group as a whole (11.6.6).
            inside = inside.but(blend="Normal", alpha=1.0, alpha_stroke=1.0, masked=state.masked)
        own = _dictionary(found.get("/Resources"), at.resources)
        done = self._within(found, own, inside, at, f"/{name[1:]}")
        at.uses.extend(done.uses)
        if done.tape and "/Resources" not in found:
            # It lives on what the page has, and that is about to be less.
            done.tape.changed = True
        if at.tape:
            new = self.stream_of(found, done)
            if new is found:
                for stroke in sorted(done.inherits):
                    paint = state.stroke if stroke else state.fill
                    self._emit(as_it_came(paint), stroke, state, at)
            at.tape.resource("/XObject", name, new, "Do", changed=new is not found)

    def _image(self, found: Any, name: str, state: State, at: _Place) -> None:
        use = self._image_use(found, state, at, f"{at.where}/{name[1:]}")
        if use is None:
            return
        at.uses.append(use)
        if at.tape is None:
            return
        if use.picture is not None and use.picture.is_mask:
            self._emit(self._asked(self.colored, use, state.fill), False, state, at)
            at.tape.resource("/XObject", name, found, "Do", changed=False)
            return
        new = self._asked(self.image, found, use, at.resources)
        at.tape.resource("/XObject", name, new, "Do", changed=new is not found)

    def _image_use(self, found: Any, state: State, at: _Place, where: str) -> ColorUse | None:
        is_mask = bool(found.get("/ImageMask", False))
        space = state.fill.space if is_mask else GRAY
        if is_mask and space.kind == "pattern":
            self._painted(_FILL, "image", self._unit_box(state), state, at)
            space = PATTERN
        if not is_mask and "/ColorSpace" in found:
            space = self.spaces.resolve(found["/ColorSpace"], at.resources)
        elif not is_mask and "JPX" in str(found.get("/Filter", "")):
            space = jpx_space(found)
        elif not is_mask:
            raise DocumentError(f"the image at {where} has no color space")
        if is_mask and state.fill.scope != at.scope:
            at.inherits.add(False)
        filters = found.get("/Filter")
        last = filters[-1] if isinstance(filters, pikepdf.Array) and len(filters) else filters
        width, height = int(found["/Width"]), int(found["/Height"])
        picture = Picture(
            width, height, int(found.get("/BitsPerComponent", 1 if is_mask else 8)),
            str(last)[1:].removesuffix("Decode") if isinstance(last, pikepdf.Name) else "none",
            ppi_of(width, height, state.matrix), is_mask, found.objgen,
        )  # fmt: skip
        masked = state.but(masked=state.masked or "/SMask" in found)
        if "/Intent" in found:
            masked = masked.but(intent=str(found["/Intent"])[1:])
        values = state.fill.values if is_mask else ()
        use = _use(at, "image", False, Paint(space, values), masked, self._unit_box(state))
        return replace(use, picture=picture, where=where)

    def _unit_box(self, state: State) -> Box | None:
        return box_of(state.matrix, (0.0, 0.0, 1.0, 1.0)) if self.boxes else None

    def _inline(self, instruction: Any, line: str, state: State, at: _Place) -> None:
        found = inline_as_stream(self.pdf, instruction, at.resources)
        use = self._image_use(found, state, at, f"{at.where} {at.at}")
        if use is None or use.picture is None:
            return
        # It has no object of its own by which it could be known again.
        use = replace(use, picture=replace(use.picture, key=(0, 0)))
        at.uses.append(use)
        if at.tape is None:
            return
        if use.picture is not None and use.picture.is_mask:
            self._emit(self._asked(self.colored, use, state.fill), False, state, at)
            at.tape.add(line)
            return
        new = self._asked(self.image, found, use, at.resources)
        # Where it stays, a name that it has from the resources goes along.
        at.tape.resource("/XObject", "/Inline", new, "Do", changed=new is not found)

    def _soft_mask(self, given: Any, state: State, at: _Place) -> None:
        mask = given.get("/SMask")
        if not isinstance(mask, pikepdf.Dictionary):
            return
        group = mask.get("/G")
        if isinstance(group, pikepdf.Stream) and group.objgen not in at.way:
            inside = _fresh(state).but(in_mask=True)
            own = _dictionary(group.get("/Resources"), at.resources)
            done = self._stream(group, own, inside, at.page, f"{at.where}, soft mask", (*at.way, group.objgen))
            at.uses.extend(done.uses)

    def _sh(self, operands: list[Any], state: State, at: _Place) -> None:
        name = str(operands[0]) if operands else ""
        found = _dictionary(at.resources.get("/Shading")).get(name)
        if found is None:
            raise DocumentError(f"a shading in {at.where} is nowhere defined")
        space = self.spaces.resolve(found["/ColorSpace"], at.resources)
        use = _use(at, "shading", False, Paint(space, ()), state, None)
        at.uses.append(use)
        if at.tape:
            new = self._asked(self.shading, found, use, at.resources)
            at.tape.resource("/Shading", name, new, "sh", changed=new is not found)


_DEVICE_NAMES = {"gray": "Gray", "RGB": "RGB", "CMYK": "CMYK"}


def as_it_came(paint: Paint) -> Emit:
    """A color written as the document has it."""
    space = paint.space
    if space.kind == "pattern":
        return Emit("", paint.values, space.object or pikepdf.Name.Pattern, paint.pattern_object, changed=False)
    if space.family in ("DeviceGray", "DeviceRGB", "DeviceCMYK"):
        return Emit(space.kind, paint.values, changed=False)
    return Emit("", paint.values, space.object, changed=False)


def jpx_space(found: Any) -> DocumentSpace:
    """What a JPEG 2000 picture without a space of its own says (ISO 32000-2, 7.4.9): by its number of channels."""
    import imagecodecs

    try:
        pixels = imagecodecs.jpeg2k_decode(bytes(found.read_raw_bytes()))
    except Exception as error:
        raise DocumentError(f"a JPEG 2000 picture cannot be decoded ({_cause(error)})") from error
    channels = pixels.shape[2] if pixels.ndim == 3 else 1
    return {1: GRAY, 2: GRAY, 3: RGB, 4: CMYK}.get(channels, GRAY)


_INLINE_KEYS = {
    "/BPC": "/BitsPerComponent", "/CS": "/ColorSpace", "/D": "/Decode", "/DP": "/DecodeParms", "/F": "/Filter",
    "/H": "/Height", "/IM": "/ImageMask", "/I": "/Interpolate", "/W": "/Width",
}  # fmt: skip
_INLINE_FILTERS = {
    "/AHx": "/ASCIIHexDecode", "/A85": "/ASCII85Decode", "/LZW": "/LZWDecode", "/Fl": "/FlateDecode",
    "/RL": "/RunLengthDecode", "/CCF": "/CCITTFaxDecode", "/DCT": "/DCTDecode",
}  # fmt: skip
_INLINE_SPACES = {"/G": "/DeviceGray", "/RGB": "/DeviceRGB", "/CMYK": "/DeviceCMYK", "/I": "/Indexed"}


def inline_as_stream(pdf: pikepdf.Pdf, instruction: Any, resources: Any) -> Any:
    """An inline image as a stream of its own, its short names written out (ISO 32000-2, tables 91 and 92)."""
    image = instruction.iimage
    made = pikepdf.Stream(pdf, bytes(image.read_raw_bytes()))
    given: Any = image.obj
    for key, value in given.items():
        made[_INLINE_KEYS.get(key, key)] = value
    filters = made.get("/Filter")
    if isinstance(filters, pikepdf.Name):
        made["/Filter"] = pikepdf.Name(_INLINE_FILTERS.get(str(filters), str(filters)))
    elif isinstance(filters, pikepdf.Array):
        made["/Filter"] = pikepdf.Array([pikepdf.Name(_INLINE_FILTERS.get(str(f), str(f))) for f in filters])
    space = made.get("/ColorSpace")
    if isinstance(space, pikepdf.Name):
        named = str(space)
        own = _dictionary(resources.get("/ColorSpace"))
        made["/ColorSpace"] = own[named] if named in own else pikepdf.Name(_INLINE_SPACES.get(named, named))
    elif isinstance(space, pikepdf.Array) and len(space):
        parts = [
            pikepdf.Name(_INLINE_SPACES.get(str(p), str(p))) if isinstance(p, pikepdf.Name) else p for p in space
        ]
        made["/ColorSpace"] = pikepdf.Array(parts)
    made["/Subtype"] = pikepdf.Name.Image
    made["/Type"] = pikepdf.Name.XObject
    return made


def _dictionary(found: Any, otherwise: Any = None) -> Any:
    if isinstance(found, pikepdf.Dictionary | pikepdf.Stream):
        return found
    return otherwise if otherwise is not None else pikepdf.Dictionary()


def _cause(error: Exception) -> str:
    return f"an object is not of the kind that belongs there ({cause(error)[:120] or type(error).__name__})"


def _pattern_space(space: DocumentSpace) -> DocumentSpace:
    return space if space.kind == "pattern" else PATTERN


def _fresh(state: State) -> State:
    """The state that a pattern or a mask begins with: where it lies, and black."""
    return State(matrix=state.matrix, in_mask=state.in_mask)


def _initial(space: DocumentSpace) -> tuple[float, ...]:
    """The first color of a space (8.6.8): black, or full tint."""
    if space.kind == "CMYK" and space.family != "Indexed":
        return (0.0, 0.0, 0.0, 1.0)
    return (1.0 if space.kind == "spot" and space.family != "Indexed" else 0.0,) * space.channels


def _graphics_state(operands: list[Any], at: _Place) -> Any:
    found = _dictionary(at.resources.get("/ExtGState")).get(str(operands[0])) if operands else None
    if found is None:
        raise DocumentError(f"a graphics state in {at.where} is nowhere defined")
    return found


def _changes_tones(given: Any) -> bool:
    """Whether a graphics state has a transfer function (table 57): TR2 counts before TR."""
    found = given.get("/TR2", given.get("/TR", None))
    return found is not None and found not in (pikepdf.Name.Default, pikepdf.Name.Identity)


def _with_graphics_state(state: State, given: Any) -> State:
    blend = given.get("/BM", None)
    mask = given.get("/SMask", None)
    first = blend[0] if isinstance(blend, pikepdf.Array) and len(blend) else blend
    stroke = bool(given.get("/OP", state.overprint_stroke))
    return state.but(
        # OP alone sets both (table 57).
        overprint_stroke=stroke,
        overprint=bool(given.get("/op", stroke if "/OP" in given else state.overprint)),
        overprint_mode=int(given.get("/OPM", state.overprint_mode)),
        blend=str(first)[1:] if isinstance(first, pikepdf.Name) else state.blend,
        alpha=float(given.get("/ca", state.alpha)),
        alpha_stroke=float(given.get("/CA", state.alpha_stroke)),
        masked=isinstance(mask, pikepdf.Dictionary) if mask is not None else state.masked,
        intent=str(given["/RI"])[1:] if "/RI" in given else state.intent,
    )


def _use(at: _Place, kind: Object, stroke: bool, paint: Paint, state: State, box: Box | None) -> ColorUse:
    return ColorUse(
        at.page, f"{at.where} {at.at}", kind, stroke, paint.space, paint.values,
        state.overprint_stroke if stroke else state.overprint, state.overprint_mode, state.blend,
        state.alpha_stroke if stroke else state.alpha, state.masked, state.in_mask, state.font if kind == "text" else "",
        None, box, state.intent,
    )  # fmt: skip


def _as_lines(instructions: list[Any]) -> tuple[list[str], list[str]]:
    """The instructions as they are written, a line each, and their operators: to ask each for its operator and operands
    makes objects of them, which takes as long as reading them did."""
    lines = bytes(pikepdf.unparse_content_stream(instructions)).decode("latin-1").split("\n")
    if len(lines) == len(instructions):
        return lines, [line.rpartition(" ")[2] for line in lines]
    # A picture within the stream takes several lines; nothing else does, for strings are written with escapes.
    lines = [bytes(pikepdf.unparse_content_stream([each])).decode("latin-1") for each in instructions]
    return lines, [str(each.operator) for each in instructions]


def _grow(at: _Place, state: State, operator: str, operands: Any) -> None:
    numbers = [float(each) for each in operands]
    if operator == "re" and len(numbers) == 4:
        x, y, width, height = numbers
        numbers = [x, y, x + width, y + height]
    across, up = numbers[0::2], numbers[1::2]
    if not across or not up:
        return
    box = box_of(state.matrix, (min(across), min(up), max(across), max(up)))
    at.box = box if at.box is None else (
        min(at.box[0], box[0]), min(at.box[1], box[1]), max(at.box[2], box[2]), max(at.box[3], box[3]),
    )  # fmt: skip


def _shifted(box: Box | None, by: tuple[float, float]) -> Box | None:
    if box is None:
        return None
    return box[0] + by[0], box[1] + by[1], box[2] + by[0], box[3] + by[1]
