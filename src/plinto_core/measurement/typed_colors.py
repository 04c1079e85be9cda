"""Colors as people type or paste them: '#rrggbb' and 'L a b' in lines, with or without a name."""

import re
from dataclasses import dataclass

from plinto_core.errors import PaletteError

_HEX = re.compile(r"#?\b([0-9a-fA-F]{6})\b")
_NUMBER = re.compile(r"[-−+]?\d+(?:[.,]\d+)?")


@dataclass(frozen=True)
class TypedColor:
    """One color: either `rgb` (three values 0…1, of a space that the text does not name) or `lab`."""

    name: str
    rgb: tuple[float, float, float] | None = None
    lab: tuple[float, float, float] | None = None


def typed_colors(text: str) -> list[TypedColor]:
    """Every color of a text, in order; empty lines are passed over. Raises `PaletteError` naming the line."""
    found: list[TypedColor] = []
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        hexes = _HEX.findall(line)
        if hexes:
            name = _HEX.sub("", line).strip(" \t,;:")
            found += [TypedColor(name or f"#{each.lower()}", rgb=_rgb(each)) for each in hexes]
        else:
            found.append(_from_line(line, number))
    return found


def _rgb(digits: str) -> tuple[float, float, float]:
    return int(digits[0:2], 16) / 255, int(digits[2:4], 16) / 255, int(digits[4:6], 16) / 255


def _from_line(line: str, number: int) -> TypedColor:
    name = re.split(r"(?<![\w.,])[-−+]?\d", line, maxsplit=1)[0].strip(" \t,;:")
    name = re.sub(r"(?<![a-z])(cie)?l\*?a\*?b\*?(?![a-z])", "", name, flags=re.IGNORECASE).strip(" \t,;:()*")
    rest = line[len(line.split(name, 1)[0]) + len(name) :] if name else line
    values = [float(value.replace("−", "-").replace(",", ".")) for value in _numbers(rest)]
    if len(values) != 3 or not 0 <= values[0] <= 100 or any(abs(value) > 200 for value in values[1:]):
        raise PaletteError(f"Line {number} is no color: '{line.strip()[:60]}'. Write #rrggbb, or L* a* b*.")
    lightness, a, b = values
    return TypedColor(name or " ".join(f"{value:g}" for value in values), lab=(lightness, a, b))


def _numbers(text: str) -> list[str]:
    # A comma between digits is a decimal comma only where other separators stand between the numbers.
    if re.search(r"\d,\s|[;\t]|\d\s+[-−+]?\d", text):
        return _NUMBER.findall(re.sub(r",(?=\s)", " ", text))
    return re.findall(r"[-−+]?\d+(?:\.\d+)?", text)
