"""A content stream being written anew: colors are set where they are painted, resources are those that are used."""

from dataclasses import dataclass, field
from typing import Any

import pikepdf
from pikepdf import Dictionary, Name, Operator

_DEVICE = {"gray": ("g", "G"), "RGB": ("rg", "RG"), "CMYK": ("k", "K")}
#: Resources that colors do not touch are taken over whole.
_KEPT_WHOLE = ("/Font", "/ExtGState", "/Properties", "/ProcSet")


@dataclass
class Emit:
    """A color as it gets written: in a device space ('gray', 'RGB', 'CMYK'), or in a space object, with a pattern or not.

    `changed` tells it from the color as it came.
    """

    device: str
    values: tuple[float, ...]
    space: Any = None
    pattern: Any = None
    changed: bool = True
    #: Paints nothing: what does not touch a plate is left out there.
    hidden: bool = False
    #: The instruction that sets a device color for fills and for strokes, written once.
    made: dict[bool, str] = field(default_factory=dict, compare=False, repr=False)

    def same_as(self, other: "Emit | None") -> bool:
        """Whether both set the same color."""
        return self is other or (
            other is not None
            and (self.device, self.values) == (other.device, other.values)
            and (self.space is other.space or _equal(self.space, other.space))
            and (self.pattern is other.pattern or _equal(self.pattern, other.pattern))
        )


def _equal(one: Any, other: Any) -> bool:
    if one is None or other is None:
        return False
    if getattr(one, "objgen", (0, 0)) != (0, 0) or getattr(other, "objgen", (0, 0)) != (0, 0):
        return bool(one.objgen == other.objgen)
    return bool(one == other)


class Tape:
    """Instructions on their way to a new stream, each as it is written."""

    def __init__(self, resources: Any) -> None:
        self.out: list[str] = []
        self.changed = False
        self._given = resources
        self._used: dict[str, dict[str, Any]] = {}
        self._fonts: dict[str, Any] = {}
        self._now: tuple[Emit | None, Emit | None] = (None, None)
        self._stack: list[tuple[Emit | None, Emit | None, bool | None]] = []
        #: Whether painting is switched off; None where nobody knows.
        self._hides: bool | None = False

    def add(self, line: str) -> None:
        """As it came."""
        self.out.append(line)

    def save(self, line: str) -> None:
        """q"""
        self._stack.append((*self._now, self._hides))
        self.out.append(line)

    def restore(self, line: str) -> None:
        """Q"""
        fill, stroke, self._hides = self._stack.pop() if self._stack else (None, None, None)
        self._now = fill, stroke
        self.out.append(line)

    def graphics_state(self, line: str) -> None:
        """gs, which may switch painting on."""
        self._hides = None if self._hides else self._hides
        self.out.append(line)

    def _hide(self, emit: Emit, alphas: tuple[float, float]) -> None:
        """Opacity none, or again what it was."""
        if self._hides is emit.hidden:
            return
        fill, line = (0.0, 0.0) if emit.hidden else alphas
        state = Dictionary(Type=Name.ExtGState, ca=_short(fill), CA=_short(line))
        self._write([self.name("/ExtGState", state, f"/PlAlpha{fill:g}_{line:g}")], "gs")
        self._hides = emit.hidden

    def color(self, emit: Emit, *, stroke: bool, alphas: tuple[float, float] = (1.0, 1.0)) -> None:
        """Set the color unless it is set already."""
        self.changed |= emit.changed
        if emit.hidden or self._hides is not False:
            self._hide(emit, alphas)
        if emit.same_as(self._now[stroke]):
            return
        self._now = (self._now[0], emit) if stroke else (emit, self._now[1])
        if emit.space is None:
            if stroke not in emit.made:
                operands = [_short(value) for value in emit.values]
                emit.made[stroke] = _line(operands, _DEVICE[emit.device][stroke])
            self.out.append(emit.made[stroke])
            return
        values = [_short(value) for value in emit.values]
        name = emit.space if isinstance(emit.space, pikepdf.Name) else self.name("/ColorSpace", emit.space)
        self._write([name], "CS" if stroke else "cs")
        if emit.pattern is not None:
            values.append(self.name("/Pattern", emit.pattern))
        if values:
            self._write(values, "SCN" if stroke else "scn")

    def resource(self, category: str, name: Any, found: Any, operator: str, *, changed: bool) -> None:
        """An operator that names a resource, which may be another one now."""
        self.changed |= changed
        self._write([self.name(category, found, str(name))], operator)

    def font(self, name: str, found: Any, size: float) -> None:
        """Another font in the place of the current one."""
        self.changed = True
        name = f"{name}_{found.objgen[0]}"
        self._fonts[name] = found
        self._write([Name(name), _short(size)], "Tf")

    def name(self, category: str, found: Any, wanted: str = "") -> Any:
        """The name under which a resource stands in the new stream."""
        known = self._used.setdefault(category, {})
        for name, other in known.items():
            if other is found or _equal(other, found):
                return Name(name)
        name, at = wanted or f"/Pl{len(known) + 1}", 1
        while name in known or (not wanted and name in self._given.get(category, {})):
            name, at = f"{wanted or '/Pl'}{'_' if wanted else ''}{len(known) + at}", at + 1
        known[name] = found
        return Name(name)

    def _write(self, operands: list[Any], operator: str) -> None:
        self.out.append(_line(operands, operator))

    def data(self) -> bytes:
        """The content."""
        return "\n".join(self.out).encode("latin-1")

    @property
    def key(self) -> tuple[object, ...]:
        """Tells streams with the same content and resources."""
        used = [
            (category, name, found.objgen if found.objgen != (0, 0) else bytes(found.unparse(resolved=False)))
            for category, known in self._used.items()
            for name, found in known.items()
            if not isinstance(found, Name)
        ]
        return (self.data(), *used)

    def resources(self) -> Any:
        """What the content names, and no more of what it could."""
        made = Dictionary()
        for category in _KEPT_WHOLE:
            if category in self._given:
                made[category] = self._given[category]
        if self._fonts:
            made["/Font"] = Dictionary({**dict(self._given.get("/Font", {})), **self._fonts})
        for category, known in self._used.items():
            before = dict(made[category]) if category in made else {}
            made[category] = Dictionary({**before, **known})
        return made


def _line(operands: list[Any], operator: str) -> str:
    instruction = pikepdf.ContentStreamInstruction(operands, Operator(operator))
    return bytes(pikepdf.unparse_content_stream([instruction])).decode("latin-1")


def _short(value: float) -> Any:
    """A number with five places, no more than a press can tell."""
    rounded = round(float(value), 5)
    return int(rounded) if rounded == int(rounded) else _decimal(rounded)


def _decimal(value: float) -> Any:
    return pikepdf.Object.parse(f"{value:.5f}".rstrip("0").encode())
