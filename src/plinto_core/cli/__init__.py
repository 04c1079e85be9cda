"""`plinto` on the command line: the core alone, no server."""

import sys

import click

from plinto_core import __version__
from plinto_core.cli import judging, lines, measuring, preparing, profiling, repeating
from plinto_core.errors import PlintoError


@click.group(context_settings={"help_option_names": ["-h", "--help"], "max_content_width": 110})
@click.version_option(__version__, prog_name="plinto")
def plinto() -> None:
    """RGB artwork to press, textile and screen-printing inks.

    A color goes down a line of stations: source, adjust, aim, ink, plate, deliver. `trace` shows one color at each
    of them, `proof` what a picture will look like, `separate` writes it as inks, `films` and `negative` as films.
    Adjustments, regions and plate curves come in a recipe. Originals are never changed.

    \b
    plinto separate moth.tif --profile cotton.icc --total-ink 230 --black gcr --out moth-cotton.tif
    plinto trace --profile cotton.icc --source opRGB --rgb 12,200,40
    """


for command in (
    *(lines.separate, lines.films, lines.negative, lines.tone_table, lines.proof, lines.trace, lines.link),
    *(judging.compare, judging.hits, judging.palette, judging.hard_proof),
    *(measuring.chart, measuring.characterize, measuring.calibrate, measuring.backlit, measuring.drift),
    *(profiling.profile, profiling.gamut),
    repeating.again,
    *(preparing.inspect, preparing.assign, preparing.convert, preparing.house),
):
    plinto.add_command(command)


def main(words: list[str] | None = None) -> None:
    """Run `plinto`, with the process's own arguments if no words are given; errors go to stderr with exit code 2."""
    try:
        plinto(words, standalone_mode=False)
    except click.ClickException as error:
        error.show()
        sys.exit(2)
    except click.Abort:
        sys.exit(130)
    except (PlintoError, OSError) as error:
        click.echo(f"plinto: {error}", err=True)
        sys.exit(2)
