"""Films and contact negatives, with the wedge that is exposed and measured for them."""

from dataclasses import replace
from pathlib import Path
from typing import Any

import click

from plinto_core.cli.lines import write_delivery
from plinto_core.cli.settings import FILE, OUT, line_options, opened_with_chain, write_text
from plinto_core.deliver.tone_table import from_cube, parse_wedge, table_from_wedge, to_cube
from plinto_core.deliver.wedge_sheet import write_wedge_sheet
from plinto_core.errors import RecipeError
from plinto_core.files import write_whole
from plinto_core.recipe import NegativeSettings
from plinto_core.recipe.film import FilmSettings, ToneTable


def _film_options(command: Any) -> Any:
    options = [
        click.option("--dpi", type=click.IntRange(300, 2540), help="Film pixels an inch."),
        click.option("--ruling", type=click.FloatRange(20, 200), help="Lines an inch."),
        click.option("--shape", type=click.Choice(["round", "elliptical", "line"]), help="Shape of the dot."),
        click.option("--gray/--halftone", default=None, help="Gray tones, or 1-bit dots."),
        click.option("--mirrored/--right-reading", default=None, help="To be read through the film."),
        click.option("--negative/--positive", "inverted", default=None, help="Light passes where ink is to be."),
        click.option("--marks/--no-marks", default=None, help="Margin with register marks, name, notes and wedge."),
        click.option("--notes", help="Words for the margin: carriage gap, drying, who asked for it."),
    ]  # fmt: skip
    for option in reversed(options):
        command = option(command)
    return command


_FILM_FIELDS = {
    "dpi": "dpi", "ruling": "ruling_lpi", "shape": "shape", "mirrored": "mirrored", "inverted": "negative",
    "marks": "marks", "notes": "notes",
}  # fmt: skip


def _film(film: FilmSettings, given: dict[str, Any], out: Path) -> FilmSettings:
    changes = {field: given[option] for option, field in _FILM_FIELDS.items() if given[option] is not None}
    if given["gray"] is not None:
        changes["halftone"] = not given["gray"]
    if out.suffix.lower() not in (".pdf", ".tif", ".tiff", ".zip"):
        raise RecipeError(f"--out {out.name}: films are written as .pdf, or as TIFF in a .zip (one: .tif).")
    changes["container"] = "pdf" if out.suffix.lower() == ".pdf" else "tiff"
    return replace(film, **changes)


@click.command()
@click.argument("src", type=FILE)
@click.option("--out", required=True, type=OUT, help="PDF with a page an ink, or .zip with a TIFF an ink.")
@line_options
@_film_options
@click.option("--angles", metavar="C=15,M=75", help="Screen angles, degrees; the others are the usual ones.")
@click.option("--run-sheet", type=OUT, help="Write how the films were made as JSON.")
def films(src: Path, out: Path, angles: str | None, run_sheet: Path | None, **given: Any) -> None:
    """Write SRC as films: a gray or halftoned plate an ink, with register marks, names and a step wedge."""
    artwork, chain = opened_with_chain(src, given)
    film = _film(chain.recipe.deliver.film, given, out)
    if angles:
        try:
            pairs = tuple((ink, float(angle)) for ink, angle in (part.split("=") for part in angles.split(",")))
        except ValueError as error:
            raise RecipeError(f"--angles {angles} cannot be read; write it like C=15,M=75.") from error
        film = replace(film, angles=pairs)
    write_delivery(src, out, artwork, chain, replace(chain.recipe.deliver, format="films", film=film), run_sheet)


@click.command()
@click.argument("src", type=FILE)
@click.option("--out", required=True, type=OUT, help="PDF or TIFF to write.")
@line_options
@_film_options
@click.option("--table", type=FILE, help="Tone table: a one-dimensional .cube.")
@click.option("--wedge", type=FILE, help="Measured step wedge to make the table from: L* a step, black first.")
@click.option("--run-sheet", type=OUT, help="Write how the negative was made as JSON.")
def negative(
    src: Path, out: Path, table: Path | None, wedge: Path | None, run_sheet: Path | None, **given: Any
) -> None:
    """Write SRC as a contact negative: its lightness through a tone table, inverted, mirrored unless said otherwise."""
    artwork, chain = opened_with_chain(src, given)
    settings = chain.recipe.deliver.negative
    tones = _table(table, wedge) or settings.table
    made = NegativeSettings(tones, _film(settings.film, given, out))
    write_delivery(
        src, out, artwork, chain, replace(chain.recipe.deliver, format="negative", negative=made), run_sheet
    )


def _table(table: Path | None, wedge: Path | None) -> ToneTable | None:
    if table and wedge:
        raise RecipeError("Give --table or --wedge, not both: each says what the tones become.")
    if table:
        return from_cube(table.read_text(errors="replace"))
    return table_from_wedge(parse_wedge(wedge.read_text(errors="replace"))) if wedge else None


@click.command()
@click.option("--out", required=True, type=OUT, help="PDF or TIFF to write.")
@_film_options
def wedge(out: Path, **given: Any) -> None:
    """Write a step wedge of 21 patches as the negative's film would be, without a tone table.

    Expose it, measure L* of each patch, and give the values to `tone-table` or to `negative --wedge`.
    """
    if out.suffix.lower() == ".zip":
        raise RecipeError(f"--out {out.name}: the wedge is one film; write it as .pdf or .tif.")
    film = _film(NegativeSettings().film, given, out)
    write_whole(out, lambda part: write_wedge_sheet(part, film))
    click.echo(f"{out}: 21 steps")


@click.command(name="tone-table")
@click.argument("wedge", type=FILE)
@click.option("--out", required=True, type=OUT, help=".cube to write.")
def tone_table(wedge: Path, out: Path) -> None:
    """Make the tone table of a contact process from its measured step WEDGE, as a .cube."""
    made = table_from_wedge(parse_wedge(wedge.read_text(errors="replace")))
    write_whole(out, lambda part: write_text(part, to_cube(made, wedge.stem).rstrip()))
    click.echo(f"{out}: {len(made.curve.points)} points")
