"""`plinto` on the command line: the core alone, no server. A command's module is imported when the command is run."""

import sys
from importlib import import_module

import click

from plinto_core import __version__
from plinto_core.errors import PlintoError

#: Each command: the module and the name it is found by, and what the list says of it.
COMMANDS: dict[str, tuple[str, str, str]] = {
    "separate": ("lines", "separate", "Write SRC as inks."),
    "batch": (
        "batches",
        "batch",
        "Separate many pictures for several conditions, and go on where it was broken off.",
    ),
    "watch": ("watching", "watch", "Watch a folder: what is put into it comes out as inks, once."),
    "films": ("films", "films", "Write SRC as films."),
    "negative": ("films", "negative", "Write SRC as a contact negative."),
    "wedge": ("films", "wedge", "Write a step wedge as a film, to expose and measure."),
    "tone-table": ("films", "tone_table", "Make the tone table of a contact process from its step WEDGE."),
    "proof": ("lines", "proof", "Write how SRC will print."),
    "trace": ("lines", "trace", "Follow one color through every station."),
    "link": ("lines", "link", "Write the whole line as an ICC device link."),
    "compare": ("judging", "compare", "Weigh SRC against conditions × intents × kinds of black."),
    "hits": ("judging", "hits", "List the families of colors in SRC that the print misses by most."),
    "palette": ("judging", "palette", "Say which COLORS print, and the nearest that prints."),
    "cost": ("judging", "cost", "Say what separations cost: grams of each ink, and money."),
    "hard-proof": ("judging", "hard_proof", "Write one page in the condition's inks, to run and sign."),
    "chart": ("measuring", "chart", "Lay out a chart that suits the fit."),
    "characterize": ("measuring", "characterize", "Fit measured DATA and read the press off it."),
    "calibrate": ("measuring", "calibrate", "Linearize from RAMPS, light inks crossed over into dark ones."),
    "backlit": ("measuring", "backlit", "From a CHART read on a light table to what it is on its panel."),
    "drift": ("measuring", "drift", "Compare a measured control STRIP with a condition's aims."),
    "profile": ("profiling", "profile", "Build, judge, compare, rename output profiles."),
    "gamut": ("profiling", "gamut", "Volumes of gamuts, and how much of each the first covers."),
    "again": ("repeating", "again", "Make the file of a run sheet once more."),
    "pdf": ("documents", "pdf", "Inspect PDF documents, and send them through a policy."),
    "policy": ("policies", "policy", "Check and compare policies, or start from a ready-made one."),
    "ticket": ("tickets", "ticket", "Say what a printer's settings do, and find out from paper how it is set."),
    "colors": ("routes", "colors", "Sample color lists from artwork, and write them in other formats."),
    "route": ("routes", "route", "Send a LIST of colors through profile after profile, with every step's values."),
    "abstract": ("routes", "abstract", "Write what a route makes of Lab as an ICC abstract profile."),
    "roundtrip": ("routes", "roundtrip", "Judge a proofing system: a press's colors through its profile and back."),
    "inspect": ("preparing", "inspect", "Say what a profile or a picture is."),
    "assign": ("preparing", "assign", "Write SRC with another profile, or none: the numbers stay."),
    "convert": ("preparing", "convert", "Write SRC in the numbers of another space: the colors stay."),
    "house": ("preparing", "house", "Say what house RULES do with artwork, and do it."),
}


class _Commands(click.Group):
    """A group that knows its commands by name and loads one when it is asked for."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        """All of them, in the order of the table."""
        return list(COMMANDS)

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        """The command, its module imported."""
        if cmd_name not in COMMANDS:
            return None
        module, name, _ = COMMANDS[cmd_name]
        found: click.Command = getattr(import_module(f"plinto_core.cli.{module}"), name)
        return found

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        """The list, without loading anything."""
        with formatter.section("Commands"):
            formatter.write_dl([(name, told) for name, (_, _, told) in COMMANDS.items()])


@click.group(cls=_Commands, context_settings={"help_option_names": ["-h", "--help"], "max_content_width": 110})
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


def main(words: list[str] | None = None) -> None:
    """Run `plinto`, with the process's own arguments if no words are given; errors go to stderr with exit code 2.

    Other codes are the command's own.
    """
    try:
        # A command that ends with a code of its own gives it back here, and says nothing more.
        code = plinto(words, standalone_mode=False)
        if isinstance(code, int) and code:
            sys.exit(code)
    except click.ClickException as error:
        error.show()
        sys.exit(2)
    except click.Abort:
        sys.exit(130)
    except (PlintoError, OSError) as error:
        click.echo(f"plinto: {error}", err=True)
        sys.exit(2)
