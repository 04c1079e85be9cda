"""What a walk writes is put in place: streams, forms, fonts and patterns with other colors, each made once."""

from typing import Any

from pikepdf import Array, Dictionary, Pdf, Stream

from plinto_core.pdf.tape import Tape
from plinto_core.pdf.walk import Interpreted, Interpreter


class Writer(Interpreter):
    """Rewrites the pages of `pdf` in place. A subclass gives colors, pictures and shadings, and where groups blend."""

    writes = True

    def __init__(self, pdf: Pdf, *, boxes: bool = False) -> None:
        super().__init__(pdf, boxes=boxes)
        self._made: dict[Any, Any] = {}

    def blends_in(self) -> Any:
        """The space object in which transparency groups are to blend; None where they stay."""
        return None

    def stream_of(self, found: Any, done: Interpreted) -> Any:
        """A form, tile or glyph with its colors as they are written; one for all that come to the same."""
        tape = done.tape
        if tape is None:
            return found
        group = found.get("/Group")
        regrouped = self._group(group)
        if not tape.changed and regrouped is None:
            return found
        key = (found.objgen, tape.key)
        if found.objgen == (0, 0) or key not in self._made:
            made = Stream(self.pdf, tape.data())
            for name, value in dict(found).items():
                if name not in ("/Length", "/Filter", "/DecodeParms", "/Resources", "/Group"):
                    made[name] = value
            made["/Resources"] = tape.resources()
            if group is not None:
                made["/Group"] = regrouped if regrouped is not None else group
            # Found is kept with it, for an object that is gone could lend its place to another.
            self._made[key] = self.pdf.make_indirect(made), found
        return self._made[key][0]

    def _group(self, group: Any) -> Any:
        """A transparency group that blends elsewhere; None where it may stay (11.6.6)."""
        wanted = self.blends_in()
        if not isinstance(group, Dictionary) or "/CS" not in group or wanted is None:
            return None
        if group["/CS"] == wanted or (isinstance(wanted, Array) and group["/CS"].objgen == wanted.objgen):
            return None
        another = Dictionary(dict(group))
        another["/CS"] = wanted
        return another

    def page_written(self, page: Any, done: Interpreted) -> None:
        """The page with its new content."""
        regrouped = self._group(page.obj.get("/Group"))
        if regrouped is not None:
            page.obj["/Group"] = regrouped
        if done.tape is None or not done.tape.changed:
            return
        page.obj["/Contents"] = self.pdf.make_indirect(Stream(self.pdf, done.tape.data()))
        page.obj["/Resources"] = done.tape.resources()

    def font_with(self, font: Any, glyphs: dict[str, Any], tapes: list[Tape]) -> Any:
        """A copy of a Type 3 font with some other glyphs and what they need."""
        key = (font.objgen, tuple(sorted((name, glyph.objgen) for name, glyph in glyphs.items())))
        if key not in self._made:
            made = Dictionary(dict(font))
            made["/CharProcs"] = Dictionary({**dict(font["/CharProcs"]), **glyphs})
            needed = Dictionary(dict(font.get("/Resources", {})))
            for tape in tapes:
                for category, known in dict(tape.resources()).items():
                    needed[category] = Dictionary({**dict(needed.get(category, {})), **dict(known)})
            made["/Resources"] = needed
            self._made[key] = self.pdf.make_indirect(made), font
        return self._made[key][0]

    def pattern_with(self, pattern: Any, shading: Any) -> Any:
        """A copy of a shading pattern with another shading."""
        key = (pattern.objgen, shading.objgen)
        if pattern.objgen == (0, 0) or key not in self._made:
            made = Dictionary(dict(pattern))
            made["/Shading"] = shading
            self._made[key] = self.pdf.make_indirect(made), pattern
        return self._made[key][0]
