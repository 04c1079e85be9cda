"""Where shown text lies: good enough to point at it (ISO 32000-2, 9.4.4)."""

from dataclasses import replace
from typing import Any

import pikepdf

from plinto_core.pdf.state import Box, State, Text, as_matrix, as_numbers, box_of, times

_ASCENT, _DESCENT, _USUAL = 0.75, -0.22, 500.0


def moved(text: Text, operator: str, operands: list[Any]) -> Text:
    """The text state after an operator that sets or moves it."""
    match operator:
        case "BT":
            return replace(text, matrix=(1, 0, 0, 1, 0, 0), line=(1, 0, 0, 1, 0, 0))
        case "Tm":
            matrix = as_matrix(operands)
            return replace(text, matrix=matrix, line=matrix)
        case "Td" | "TD":
            x, y = as_numbers(operands)[:2]
            line = times((1, 0, 0, 1, x, y), text.line)
            return replace(text, matrix=line, line=line, leading=-y if operator == "TD" else text.leading)
        case "T*":
            line = times((1, 0, 0, 1, 0, -text.leading), text.line)
            return replace(text, matrix=line, line=line)
    names = {"TL": "leading", "Tc": "char_space", "Tw": "word_space", "Ts": "rise"}
    (value,) = as_numbers(operands)[:1] or (0.0,)
    if operator == "Tz":
        return replace(text, scale=value / 100)
    changed: dict[str, Any] = {names[operator]: value}
    return replace(text, **changed)


MOVES = {"BT", "Tm", "Td", "TD", "T*", "TL", "Tc", "Tw", "Ts", "Tz"}


def shown(state: State, operator: str, operands: list[Any]) -> tuple[Box, Text]:
    """The box on the page of what a text operator shows, and the text state behind it."""
    text = state.text
    if operator in ("'", '"'):
        text = moved(text, "T*", [])
    parts = operands[-1] if operands else b""
    parts = list(parts) if isinstance(parts, pikepdf.Array) else [parts]
    advance, width_of = 0.0, _widths(state.font_object)
    for part in parts:
        if isinstance(part, pikepdf.String | bytes | str):
            advance += width_of(bytes(part) if not isinstance(part, str) else part.encode("latin-1", "replace"), text)
        else:
            advance -= float(part) / 1000 * text.size
    advance *= text.scale
    around = times(text.matrix, state.matrix)
    low, high = text.rise + _DESCENT * text.size, text.rise + _ASCENT * text.size
    box = box_of(around, (min(0.0, advance), low, max(0.0, advance), high))
    return box, replace(text, matrix=times((1, 0, 0, 1, advance, 0), text.matrix))


def _widths(font: Any) -> Any:
    composite = font is not None and str(font.get("/Subtype", "")) == "/Type0"
    if composite:
        inner = font.get("/DescendantFonts", [{}])[0]
        given = [float(w) for run in inner.get("/W", []) if isinstance(run, pikepdf.Array) for w in run]
        mean = sum(given) / len(given) if given else float(inner.get("/DW", 1000))
        return lambda data, text: len(data) / 2 * (mean / 1000 * text.size + text.char_space)
    first = int(font.get("/FirstChar", 0)) if font is not None else 0
    widths = [float(w) for w in font.get("/Widths", [])] if font is not None else []
    unit = 1000.0
    if font is not None and str(font.get("/Subtype", "")) == "/Type3":
        unit = 1 / (abs(float(font.get("/FontMatrix", [0.001])[0])) or 0.001)

    def width(data: bytes, text: Text) -> float:
        found = 0.0
        for code in data:
            at = code - first
            known = widths[at] if 0 <= at < len(widths) else _USUAL
            found += known / unit * text.size + text.char_space + (text.word_space if code == 32 else 0)
        return found

    return width
