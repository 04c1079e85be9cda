"""Colors as people type or paste them: '#rrggbb', 'rgb(…)', 'L a b' and 'lch(…)' in lines, with or without a name."""

import re
from dataclasses import dataclass

import numpy as np

from plinto_core.colorimetry.lab import lch_to_lab
from plinto_core.errors import PaletteError
from plinto_core.measurement.tables import names_fields

_HEX = re.compile(r"#?\b([0-9a-fA-F]{6})\b|#([0-9a-fA-F]{3})\b")
_NUMBER = re.compile(r"[-+]?\d+(?:[.,]\d+)?")
_HEX_HEAD = re.compile(r"[^\d#]*\b(hex|rrggbb|web|html)\b[^\d]*", re.IGNORECASE)
#: What stands for a minus before a digit in text that a typesetter or an office program has had in hand.
_DASHES = re.compile(r"[\u2010-\u2015\u2212\ufe63\uff0d](?=\.?\d)")
#: A space that the line names before its numbers: rgb(…) and L*C*h are read; of the others no line is Lab by chance.
_SPACE = re.compile(
    r"(?<![a-z])(rgb|lch|hsl|hsv|hsb|hwb|cmyk|xyz|xyy|yxy|luv|oklab|oklch)(?:ab)?\s*[:=(]?\s*(?=[-+.\d])",
    re.IGNORECASE,
)


@dataclass(frozen=True)
class TypedColor:
    """One color: either `rgb` (three values 0…1, of a space that the text does not name) or `lab`."""

    name: str
    rgb: tuple[float, float, float] | None = None
    lab: tuple[float, float, float] | None = None


def typed_colors(text: str) -> list[TypedColor]:
    """Every color of a text, in order; empty lines are passed over. Raises `PaletteError` naming the line.

    >>> [color.lab for color in typed_colors("Leaf 52 \u201338 30\\nWarm 7; 50; 3; 4\\nlch(50, 10, 90)")]
    [(52.0, -38.0, 30.0), (50.0, 3.0, 4.0), (50.0, 0.0, 10.0)]
    """
    found: list[TypedColor] = []
    begun = False
    for number, line in enumerate(_DASHES.sub("-", text).splitlines(), 1):
        # 'Name, Hex' above them says what follows, and is no color.
        if line.strip() and (begun or names_fields(line) or not _HEX_HEAD.fullmatch(line)):
            found += _of_line(line, number)
        begun = begun or bool(line.strip())
    return found


def _of_line(line: str, number: int) -> list[TypedColor]:
    hexes = [six or "".join(2 * digit for digit in three) for six, three in _HEX.findall(line)]
    rest = _HEX.sub("", line)
    if not hexes:
        return [_from_line(line, number)]
    if len(hexes) == 1 and len(_numbers(rest)) == 3:
        # Both stand there: what is measured says more than what a screen is sent.
        return [_from_line(rest, number)]
    name = rest.strip(" \t,;:")
    return [TypedColor(name or f"#{each.lower()}", rgb=_rgb(each)) for each in hexes]


def _rgb(digits: str) -> tuple[float, float, float]:
    return int(digits[0:2], 16) / 255, int(digits[2:4], 16) / 255, int(digits[4:6], 16) / 255


def _from_line(line: str, number: int) -> TypedColor:
    no_color = PaletteError(
        f"Line {number} is no color: '{line.strip()[:60]}'. Write #rrggbb, L* a* b*, rgb(47, 143, 58) or lch(52, 48, 140)."
    )
    told = _SPACE.search(line)
    space = told[1].lower() if told else "lab"
    name, numbers = _split(line[: told.start()], line[told.end() :]) if told else _name_first(line)
    values = [float(value.replace(",", ".")) for value in numbers]
    if len(values) != 3 or space not in ("lab", "lch", "rgb"):
        raise no_color
    called = name or " ".join(f"{value:g}" for value in values)
    if space == "rgb":
        most = 100.0 if "%" in line else 1.0 if max(values) <= 1 and any(value % 1 for value in values) else 255.0
        red, green, blue = (value / most for value in values)
        if not 0 <= min(red, green, blue) <= max(red, green, blue) <= 1:
            raise no_color
        return TypedColor(called, rgb=(red, green, blue))
    # Nine digits: a hue of 90° has no a*, not one of 6e-16.
    lightness, a, b = values if space == "lab" else (lch_to_lab(np.array(values)).round(9) + 0.0).tolist()
    if not 0 <= lightness <= 100 or max(abs(a), abs(b)) > 200:
        raise no_color
    return TypedColor(called, lab=(lightness, a, b))


def _split(name: str, rest: str) -> tuple[str, list[str]]:
    return name.strip(" \t,;:(=|*"), _numbers(rest)


def _name_first(line: str) -> tuple[str, list[str]]:
    """A name and the numbers after it, or before it where the line begins with them."""
    parts = [part.strip() for part in re.split(r"[\t;|]|,\s", line)]
    if len(parts) > 3 and re.search(r"[^\W\d_]", parts[0]) and all(map(_NUMBER.fullmatch, parts[1:4])):
        # Set apart, a name may have a number of its own.
        return parts[0], parts[1:]
    name = re.split(r"(?<![\w.,])[-+]?\d", line, maxsplit=1)[0].strip(" \t,;:")
    name = re.sub(r"(?<![a-z])(cie)?l\*?a\*?b\*?(?![a-z])", "", name, flags=re.IGNORECASE).strip(" \t,;:()*=|")
    rest = line[len(line.split(name, 1)[0]) + len(name) :] if name else line
    name = re.sub(r"[\s:,;]*(?<![a-z])l\*?\s*=?$", "", name, flags=re.IGNORECASE)
    after = re.search(r"\d[)%°]*[\s,;|]+([^\W\d_][^\d]*)$", rest.split("#", 1)[0])
    return name or (after[1].strip() if after else ""), _numbers(rest)


def _numbers(text: str) -> list[str]:
    # A comma between digits is a decimal comma only where other separators stand between the numbers.
    if re.search(r"\d,\s|[;\t]|\d\s+[-+]?\d", text):
        return _NUMBER.findall(re.sub(r",(?=\s)", " ", text))
    return re.findall(r"[-+]?\d+(?:\.\d+)?", text)
