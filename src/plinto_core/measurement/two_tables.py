"""A chart in two tables of one file: the values that were printed in one, the colors that were measured in the other."""

from collections.abc import Callable, Iterable
from dataclasses import replace
from itertools import islice

from plinto_core.errors import CharacterizationError
from plinto_core.measurement.tables import Table

#: Fields that name a patch, by which two tables are joined: the first that both have.
_NAMES = ("SAMPLE_ID", "SAMPLEID", "SAMPLE_NAME", "SAMPLENAME", "SAMPLE_LOC", "PATCH", "ID")
#: Tables further down than this are not looked at: each is compared with all before it.
_MOST_TABLES = 16


def measured_table(
    tables: Iterable[Table],
    name: str,
    notes: list[str],
    has_values: Callable[[Table], bool],
    has_colors: Callable[[Table], bool],
) -> Table:
    """Of a file's tables the first with values and colors, or the first two of which one has what the other lacks, joined.

    Where none has, the first. `notes` is told what was done. Raises `CharacterizationError` where two do not fit.
    """
    seen: list[Table] = []
    for table in islice(tables, _MOST_TABLES):
        if has_values(table) and has_colors(table):
            if seen:
                notes.append(f"Table {len(seen) + 1} of the file has values and colors and was taken.")
            return table
        for before in seen:
            for printed, measured in ((before, table), (table, before)):
                if has_values(printed) and has_colors(measured):
                    return _joined(printed, measured, name, notes)
        seen.append(table)
    return seen[0]


def _joined(printed: Table, measured: Table, name: str, notes: list[str]) -> Table:
    """A row for each that was measured, with the values of the patch that it names."""
    by = next((field for field in _NAMES if field in printed.fields and field in measured.fields), "")
    if not by:
        if len(printed.rows) != len(measured.rows):
            raise CharacterizationError(
                f"'{name}' has {len(printed.rows)} patches with values in one table and {len(measured.rows)} colors in "
                "another, and nothing that says which belong together. Export both with SAMPLE_ID."
            )
        pairs = list(zip(printed.rows, measured.rows, strict=True))
        notes.append("Values and colors stand in two tables without SAMPLE_ID and were taken in their order.")
    else:
        place, where = printed.fields.index(by), measured.fields.index(by)
        rows = {row[place]: row for row in printed.rows}
        if len(rows) < len(printed.rows):
            raise CharacterizationError(
                f"'{name}' names patches twice in {by} of its table of values; each needs its own."
            )
        strange = next((row[where] for row in measured.rows if row[where] not in rows), None)
        if strange is not None:
            raise CharacterizationError(
                f"'{name}' has a color for the patch '{strange}', which its table of values does not name in {by}. "
                "Export both from one chart."
            )
        pairs = [(rows[row[where]], row) for row in measured.rows]
        notes.append(f"Values and colors stand in two tables and were joined by {by}.")
        if missing := len(rows) - len({row[where] for row in measured.rows}):
            notes.append(f"Patches of the chart without a color: {missing}. They were left out.")
    new = [at for at, field in enumerate(measured.fields) if field not in printed.fields]
    return replace(
        measured,
        fields=(*printed.fields, *(measured.fields[at] for at in new)),
        rows=tuple((*row, *(color[at] for at in new)) for row, color in pairs),
        keywords=printed.keywords | measured.keywords,
    )
