"""Tables as measurement files hold them: CGATS text (ISO 28178), or a line that names the fields above rows of values."""

import csv
import re
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinto_core.errors import CharacterizationError
from plinto_core.measurement.spelled_fields import GRAY_FIELD, spelled_out

Array = NDArray[np.float64]

MOST_BYTES = 64 << 20
#: A list of colors, which nothing is fitted to, may be longer.
_MOST_ROWS = 100_000
_HEAD_LETTERS = 1 << 16
#: Columns set apart by blanks, as many as it takes.
_BLANKS = " "
#: A table names its fields within so many lines.
_HEAD_LINES = 50
#: Of a table whose first line says so, '%': whatever values occur.
UNIT = "UNIT"
#: A minus as office programs and typesetters write it.
_DASHES = str.maketrans(dict.fromkeys("\u2010\u2011\u2012\u2013\u2014\u2015\u2212\ufe63\uff0d", "-"))
#: Fields that name a row, the first that is there.
_NAMES = ("SAMPLE_NAME", "NAME", "SAMPLEID", "SAMPLE_ID", "ID")
_CELL = re.compile(r'"([^"]*)"|(\S+)')
SPECTRAL_FIELD = re.compile(
    r"^(?:SPECTRAL_?(?:NM|PCT)?_?|NM_?|R_?|SPEC_?|LAMBDA_?)(\d{3})(?:\.0+)?(?:NM)?$", re.IGNORECASE
)
DEVICE_FIELD = re.compile(r"^(CMYK|CMY|RGB|\d+CLR|PC\d+|SPOT|GRAY|DEVICE)_(\w+)$", re.IGNORECASE)


#: Other hands' names of the colors' fields.
_SAME = {
    f"{before}{letter}{star}": f"LAB_{letter}"
    for before in ("", "LAB_", "LAB ", "CIE_", "CIE ", "CIE", "CIELAB_", "D50_")
    for letter in "LAB" for star in ("*", "") if before or star
} | {f"{before}{letter}": f"XYZ_{letter}" for before in ("CIE_", "XYZ ") for letter in "XYZ"}  # fmt: skip
_COLORS = {"LAB_L", "LAB_A", "LAB_B", "XYZ_X", "XYZ_Y", "XYZ_Z"}


@dataclass(frozen=True)
class Table:
    """One data table: `fields` in capitals, `rows` of text, keywords of the header."""

    fields: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    keywords: dict[str, str]


def read_table(data: bytes, name: str, least: int = 4) -> Table:
    """The first complete table of CGATS text, or of a plain table whose first line names `least` known fields.

    Raises `CharacterizationError` naming file, line and way out.
    """
    return next(read_tables(data, name, least))


def read_tables(data: bytes, name: str, least: int = 4) -> Iterator[Table]:  # noqa: PLR0912 - one branch a keyword
    """The tables of CGATS text one after the other, at least one, or the one of a plain table; as `read_table`.

    A keyword holds for all tables that follow until it is given anew, the number of sets for its own alone.
    """
    if len(data) > MOST_BYTES:
        raise CharacterizationError(f"'{name}' has {len(data) >> 20} MB; a measurement file has at most 64.")
    lines = decoded_text(data).replace("\r\n", "\n").replace("\r", "\n").split("\n")
    if not any(line.strip().upper().startswith("BEGIN_DATA") for line in lines):
        yield _plain_table(lines, name, least)
        return
    fields: list[str] = []
    rows: list[tuple[str, ...]] = []
    keywords: dict[str, str] = {}
    where, told = "head", 0
    for number, line in enumerate(lines, 1):
        words = line.split("#", 1)[0].strip() if where != "data" else line.strip()
        key = words.split(None, 1)[0].upper() if words else ""
        if key == "BEGIN_DATA_FORMAT":
            where, fields = "format", []
        elif key in ("END_DATA_FORMAT", "END_DATA"):
            if key == "END_DATA":
                yield _table(fields, rows, keywords, name)
                told, rows = told + 1, []
                keywords.pop("NUMBER_OF_SETS", None)
            where = "head"
        elif key == "BEGIN_DATA":
            where = "data"
        elif where == "format":
            fields += [cell.upper() for cell in words.split()]
        elif where == "data" and words:
            rows.append(_row(words, number, len(fields), name))
            if len(rows) > _MOST_ROWS:
                raise CharacterizationError(f"'{name}' has more than {_MOST_ROWS:,} rows; split it.")
        elif key:
            keywords[key] = words[len(key) :].strip().strip('"')
    if where != "data" and told:
        return
    promised = keywords.get("NUMBER_OF_SETS", "")
    if where == "data" and fields and (not promised.isdigit() or int(promised) != len(rows)):
        # Without the end, only the promised number of patches tells that nothing is missing.
        raise CharacterizationError(
            f"'{name}' ends in the middle of its data: no END_DATA after {len(rows)} patches, and NUMBER_OF_SETS "
            f"{'says ' + promised if promised else 'does not say how many there are'}. Export it again."
        )
    yield _table(fields, rows, keywords, name)


def _table(fields: list[str], rows: list[tuple[str, ...]], keywords: dict[str, str], name: str) -> Table:
    if not fields:
        raise CharacterizationError(f"'{name}' has no BEGIN_DATA_FORMAT: it is no CGATS text. Export it as CGATS.")
    if not rows:
        raise CharacterizationError(f"'{name}' has fields but no patches between BEGIN_DATA and END_DATA.")
    return Table(tuple(_SAME.get(field, field) for field in spelled_out(fields)), tuple(rows), dict(keywords))


def head_keywords(text: str) -> dict[str, str]:
    """Keywords above the data of CGATS text, with what they say; never raises."""
    found: dict[str, str] = {}
    for line in text[:_HEAD_LETTERS].splitlines():
        words = line.split("#", 1)[0].strip()
        key = words.split(None, 1)[0].upper() if words else ""
        if key == "BEGIN_DATA":
            break
        if key:
            found[key] = words[len(key) :].strip().strip('"')
    return found


def decoded_text(data: bytes) -> str:
    for mark, encoding in ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16")):
        if data.startswith(mark):
            return data.decode(encoding, errors="replace")
    # UTF-16 without its mark: half the bytes of plain letters are zero, the first or the second of each pair.
    head = data[:4096]
    zeros = [head[place::2].count(0) / max(len(head) // 2, 1) for place in (0, 1)]
    if max(zeros) > 0.4 and min(zeros) < 0.05:
        return data.decode("utf-16-be" if zeros[0] > zeros[1] else "utf-16-le", errors="replace")
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        return data.decode("latin-1")


def _plain_table(lines: list[str], name: str, least: int) -> Table:
    """A table without CGATS' keywords: separated by tabs, semicolons, commas or blanks, a line naming the fields."""
    filled = [(number, line) for number, line in enumerate(lines, 1) if line.strip()]
    for at, (_, line) in enumerate(filled[:_HEAD_LINES]):
        fields, separator = _named_fields(line, least)
        if not fields:
            continue
        rows = []
        for number, words in filled[at + 1 :]:
            # Spreadsheets write rows of nothing below a table.
            if not words.strip(' \t;,"'):
                continue
            cells = _cells(words, separator)
            if len(cells) != len(fields):
                raise CharacterizationError(_wrong_count(number, name, len(cells), len(fields), words))
            rows.append(tuple(cells))
            if len(rows) > _MOST_ROWS:
                raise CharacterizationError(f"'{name}' has more than {_MOST_ROWS:,} rows; split it.")
        if not rows:
            raise CharacterizationError(f"'{name}' names its fields, but no patches follow.")
        unit = {UNIT: "%"} if "%" in filled[at][1] else {}
        return Table(tuple(_SAME.get(field.upper(), field.upper()) for field in fields), tuple(rows), unit)
    raise CharacterizationError(
        f"'{name}' has neither BEGIN_DATA_FORMAT nor a first line that names fields (C, M, Y, K; L, a, b; CMYK_C, …), so "
        "it is no CGATS text and no table with a header. Export it as CGATS."
    )


def names_fields(text: str) -> bool:
    """Whether pasted text is CGATS, or a table with a line that names a color field at least."""
    lines = [line for line in text.splitlines() if line.strip()][:_HEAD_LINES]
    return "BEGIN_DATA" in text.upper() or any(_named_fields(line, 1)[0] for line in lines)


def _named_fields(line: str, least: int) -> tuple[list[str], str]:
    """The fields that a line names, and what separates them; none where it names no table."""
    for separator in ("\t", ";", ",", _BLANKS):
        fields = spelled_out(_cells(line, separator))
        known = sum(_known_field(field) for field in fields)
        # A line of words may have one that is a channel's name too.
        if known >= (max(least, 3) if separator == _BLANKS else least) and known >= len(fields) - 3:
            return fields, separator
    return [], ""


def _cells(line: str, separator: str) -> list[str]:
    if separator == _BLANKS:
        return [quoted or plain for quoted, plain in _CELL.findall(line)]
    try:
        # A quoted cell may hold the separator (RFC 4180).
        split = next(csv.reader([line], delimiter=separator), []) if '"' in line else line.split(separator)
    except csv.Error:
        split = line.split(separator)
    cells = [cell.strip().strip('"').strip() for cell in split]
    while cells and not cells[-1]:
        cells.pop()
    return cells


def _known_field(field: str) -> bool:
    return bool(
        DEVICE_FIELD.match(field)
        or SPECTRAL_FIELD.match(field)
        or field.upper() in _SAME
        or field.upper() in _COLORS
        or field == GRAY_FIELD
    )


def _row(words: str, number: int, count: int, name: str) -> tuple[str, ...]:
    # Tabs may separate cells that hold spaces; else white space does, and quotes keep a cell together.
    cells = _cells(words, "\t") if words.count("\t") >= count - 1 else []
    if len(cells) != count:
        cells = [quoted or plain for quoted, plain in _CELL.findall(words)]
    if len(cells) != count:
        raise CharacterizationError(_wrong_count(number, name, len(cells), count, words))
    return tuple(cells)


def _wrong_count(number: int, name: str, found: int, count: int, words: str) -> str:
    return (
        f"Line {number} of '{name}' has {found} values for {count} fields: '{words.strip()[:60]}'. A value too many or too "
        "few shifts all that follow, so nothing was taken: correct that line or export it again."
    )


def row_names(table: Table) -> tuple[str, ...]:
    """What each row is called: by the first field that names it, else by its number."""
    field = next((each for each in _NAMES if each in table.fields), None)
    place = table.fields.index(field) if field else -1
    return tuple(row[place] if field else str(at) for at, row in enumerate(table.rows, 1))


def numbers(table: Table, fields: list[str], name: str) -> Array:
    """Columns (rows, fields) of a table as finite numbers. Raises `CharacterizationError` naming row and field."""
    places = [table.fields.index(field) for field in fields]
    out = np.empty((len(table.rows), len(fields)))
    for r, row in enumerate(table.rows):
        for c, place in enumerate(places):
            try:
                out[r, c] = _number(row[place])
            except ValueError as error:
                raise CharacterizationError(
                    f"Patch {r + 1} of '{name}' has '{row[place][:30]}' where {fields[c]} should be a number."
                ) from error
    if not np.isfinite(out).all():
        patch, column = np.argwhere(~np.isfinite(out))[0]
        raise CharacterizationError(f"Patch {patch + 1} of '{name}' has no finite number in {fields[column]}.")
    return out


def _number(cell: str) -> float:
    try:
        return float(cell.replace(",", "."))
    except ValueError:
        return float(cell.replace(",", ".").translate(_DASHES))
