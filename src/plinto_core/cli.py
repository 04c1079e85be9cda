"""`plinto` on the command line: the core alone, no server."""

import json
import os
import sys
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any, Literal, TypeVar, get_args

import click
import numpy as np

from plinto_core import __version__
from plinto_core.artwork.opened import Artwork, open_artwork
from plinto_core.chain.compiled import Chain, compile_recipe
from plinto_core.chain.library import Library, source_profile, write_whole
from plinto_core.errors import ArtworkError, PlintoError, RecipeError
from plinto_core.icc.profile import Profile, parse
from plinto_core.icc.standard import RGB_SPACES, rgb_profile
from plinto_core.inspection import describe_artwork, describe_profile
from plinto_core.recipe import AimStation, DeliverStation, InkStation, Intent, Recipe, recipe_from_json
from plinto_core.separation.black import BLACK_KINDS, BlackPolicy

F = TypeVar("F", bound=Callable[..., Any])
FILE = click.Path(exists=True, dir_okay=False, path_type=Path)
OUT = click.Path(dir_okay=False, path_type=Path)
PERCENT = click.FloatRange(0, 100)
_DEPTHS: dict[str | None, Literal[8, 16]] = {"8": 8, "16": 16}


def _settings(command: F) -> F:
    """The options that every command of the line shares."""
    options = [
        click.option("--profile", required=True, type=FILE, help="ICC output profile of the printing condition."),
        click.option(
            "--source", metavar="SPACE|FILE.icc",
            help=f"What the RGB numbers mean: {', '.join(RGB_SPACES)} or an ICC file. Default: the embedded profile.",
        ),
        click.option("--intent", type=click.Choice(get_args(Intent)), help="Rendering intent. Default: relative."),
        click.option("--bpc/--no-bpc", default=None, help="Black point compensation. Default: on."),
        click.option(
            "--ink", "method", type=click.Choice(["as-profiled", "rebuilt"]),
            help="The profile's own tables, or Plinto's inverse with the limits and black given here. Default: "
            "rebuilt when any of those is given, else as-profiled.",
        ),
        click.option("--total-ink", type=click.FloatRange(50, 800), help="Most ink on one spot, % (TAC)."),
        click.option("--ink-limit", metavar="C=95,K=90", help="Limits of single inks, %."),
        click.option("--black", type=click.Choice(list(BLACK_KINDS)), help="Kind of black generation to start from."),
        click.option("--black-amount", type=PERCENT, help="Share of the gray component that black replaces, %."),
        click.option("--black-start", type=PERCENT, help="Gray component at which black sets in, %."),
        click.option("--black-max", type=PERCENT, help="Most black, %."),
        click.option("--depth", type=click.Choice(["8", "16"]), help="Bits for an ink. Default: 8."),
        click.option("--recipe", type=FILE, help="Recipe (JSON) to start from; options given here override it."),
    ]  # fmt: skip
    for option in reversed(options):
        command = option(command)
    return command


def _recipe(given: dict[str, Any]) -> Recipe:
    """A recipe from the options, on top of the recipe file if there is one."""
    path = given["recipe"]
    try:
        recipe = recipe_from_json(json.loads(path.read_text())) if path else None
    except (json.JSONDecodeError, UnicodeDecodeError) as error:
        raise RecipeError(f"'{path.name}' is no JSON ({error}); a run sheet's 'recipe' part is what fits.") from error
    ink = recipe.ink if recipe else InkStation()
    rebuilding = [
        name for name in ("total_ink", "ink_limit", "black", "black_amount", "black_start", "black_max")
        if given[name] is not None
    ]  # fmt: skip
    method = given["method"] or (recipe.ink.method if recipe else "rebuilt" if rebuilding else "as-profiled")
    if method == "as-profiled" and rebuilding:
        options = ", ".join("--" + name.replace("_", "-") for name in rebuilding)
        raise RecipeError(f"{options}: the profile's own tables have no such setting. Use --ink rebuilt.")
    limits = ink.limits
    if given["total_ink"] is not None:
        limits = replace(limits, total_percent=given["total_ink"])
    if given["ink_limit"] is not None:
        limits = replace(limits, per_ink_percent=_per_ink(given["ink_limit"]))
    black = BLACK_KINDS[given["black"]] if given["black"] else ink.black
    wanted = {"amount_percent": "black_amount", "start_percent": "black_start", "maximum_percent": "black_max"}
    black = BlackPolicy(
        **{
            **{f: getattr(black, f) for f in (*wanted, "shape")},
            **{f: given[o] for f, o in wanted.items() if given[o] is not None},
        }
    )
    aim = recipe.aim if recipe else AimStation()
    deliver = recipe.deliver if recipe else DeliverStation()
    return Recipe(
        replace(recipe.source) if recipe else Recipe().source,
        AimStation(given["intent"] or aim.intent, aim.bpc if given["bpc"] is None else given["bpc"]),
        InkStation(method, limits, black),
        replace(deliver, depth=_DEPTHS.get(given["depth"], deliver.depth)),
    )


def _per_ink(text: str) -> tuple[tuple[str, float], ...]:
    try:
        pairs = [part.split("=") for part in text.split(",") if part.strip()]
        return tuple((ink.strip(), float(limit)) for ink, limit in pairs)
    except ValueError as error:
        raise RecipeError(f"--ink-limit {text} cannot be read; write it like C=95,M=95,Y=100,K=90.") from error


def _read_profile(path: Path) -> Profile:
    return parse(path.read_bytes())


def _source(choice: str | None, recipe: Recipe, embedded: Profile | None) -> Profile:
    if choice is not None and choice not in RGB_SPACES:
        path = Path(choice)
        if not path.is_file():
            raise RecipeError(f"--source {choice} is neither {', '.join(RGB_SPACES)} nor a file.")
        found = _read_profile(path)
        if found.header.space != "RGB ":
            raise RecipeError(
                f"--source {path.name} describes {found.header.space.strip()}; an RGB profile is needed."
            )
        return found
    return source_profile(choice or recipe.source.profile, embedded)


def _chain(given: dict[str, Any], embedded: Profile | None) -> Chain:
    recipe = _recipe(given)
    source = _source(given["source"], recipe, embedded)
    cache = Path(os.environ.get("PLINTO_CACHE", Path.home() / ".cache" / "plinto"))
    condition = Library(cache).condition(_read_profile(given["profile"]))
    return compile_recipe(recipe, condition, source)


def _opened(path: Path, given: dict[str, Any]) -> tuple[Artwork, Chain]:
    artwork = open_artwork(path)
    for note in artwork.notes:
        click.echo(note, err=True)
    return artwork, _chain(given, artwork.profile)


@click.group(context_settings={"help_option_names": ["-h", "--help"], "max_content_width": 110})
@click.version_option(__version__, prog_name="plinto")
def plinto() -> None:
    """RGB artwork to press, textile and screen-printing inks.

    A color goes down a line of stations: source, aim, ink, print. `trace` shows one color at each of them,
    `proof` what a picture will look like, `separate` writes it as inks. Originals are never changed.

    \b
    plinto separate moth.tif --profile cotton.icc --total-ink 230 --black gcr --out moth-cotton.tif
    plinto trace --profile cotton.icc --source opRGB --rgb 12,200,40
    """


@plinto.command()
@click.argument("src", type=FILE)
@click.option("--out", required=True, type=OUT, help="TIFF to write.")
@_settings
@click.option("--strip-profile", is_flag=True, help="Do not embed the condition's profile.")
@click.option("--run-sheet", type=OUT, help="Write how the file was made as JSON.")
def separate(src: Path, out: Path, strip_profile: bool, run_sheet: Path | None, **given: Any) -> None:
    """Write SRC as a TIFF of inks. No pixel exceeds the ink limits, which is checked on what is written."""
    from plinto_core import separate as making

    if out.resolve() == src.resolve():
        raise ArtworkError(f"'{src.name}' is the original, and originals are never changed. Choose another --out.")
    artwork, chain = _opened(src, given)
    if strip_profile:
        deliver = replace(chain.recipe.deliver, embed_profile=False)
        chain = compile_recipe(replace(chain.recipe, deliver=deliver), chain.condition, chain.source.profile)
    outcome = making.separate(artwork, chain, out)
    if run_sheet:
        digest = making.file_digest(src)
        sheet = json.dumps(making.run_sheet(artwork, digest, chain, outcome, out.name), indent=2)
        write_whole(run_sheet, lambda part: _write_text(part, sheet))
    means = ", ".join(
        f"{ink} {mean:.1f}" for ink, mean in zip(chain.condition.model.inks, outcome.mean_percent, strict=True)
    )
    click.echo(f"{out}: largest coverage {outcome.largest_percent:.1f} %; mean % {means}")


def _write_bytes(path: Path, data: bytes) -> None:
    path.write_bytes(data)


def _write_text(path: Path, text: str) -> None:
    path.write_text(text + "\n")


@plinto.command()
@click.argument("src", type=FILE)
@click.option("--out", required=True, type=OUT, help="PNG to write, in the display's RGB.")
@_settings
@click.option("--substrate/--no-substrate", default=False, help="Show the color of the stock as well.")
@click.option("--display", type=FILE, help="ICC profile of the display. Default: sRGB.")
def proof(src: Path, out: Path, substrate: bool, display: Path | None, **given: Any) -> None:
    """Write how SRC will print, computed from the very ink values that `separate` writes."""
    import imagecodecs

    from plinto_core.artwork.proof import View, display_nodes, show_inks

    artwork, chain = _opened(src, given)
    screen = _read_profile(display) if display else rgb_profile("sRGB")
    if screen.header.space != "RGB ":
        raise RecipeError(f"--display {screen.name} is no RGB profile; choose a display's.")
    model = chain.condition.model
    nodes = display_nodes(model, screen, substrate)
    depth = chain.recipe.deliver.depth
    picture = np.concatenate(
        [show_inks(chain.link.inks_of(band, depth), model, nodes, View()) for band in artwork.bands()]
    )
    encoded = bytes(imagecodecs.png_encode(picture, level=4))
    write_whole(out, lambda part: _write_bytes(part, encoded))
    click.echo(f"{out}: {artwork.width} × {artwork.height}, for {screen.name}")


@plinto.command()
@click.argument("file", type=FILE)
@click.option("--json", "as_json", is_flag=True, help="For programs.")
def inspect(file: Path, as_json: bool) -> None:
    """Say what a profile or a picture is."""
    with file.open("rb") as opened:
        is_profile = opened.read(40)[36:40] == b"acsp"
    found = describe_profile(_read_profile(file)) if is_profile else describe_artwork(open_artwork(file))
    _show(found, as_json)


def _show(found: dict[str, Any], as_json: bool) -> None:
    if as_json:
        click.echo(json.dumps(found, indent=2))
        return
    for key, value in found.items():
        if isinstance(value, dict):
            click.echo(f"{key}:")
            for inner, text in value.items():
                click.echo(f"  {inner:<20} {text}")
        else:
            click.echo(f"{key:<22} {value}")


@plinto.command()
@click.option("--rgb", required=True, metavar="R,G,B", help="Source color, 0 to 255 (decimals allowed).")
@_settings
@click.option("--json", "as_json", is_flag=True, help="For programs.")
def trace(rgb: str, as_json: bool, **given: Any) -> None:
    """Follow one color through every station."""
    try:
        values = [float(v) for v in rgb.split(",")]
    except ValueError:
        values = []
    if len(values) != 3 or not all(0 <= v <= 255 for v in values):
        raise RecipeError(f"--rgb {rgb} cannot be read; write three numbers from 0 to 255, like 12,200,40.")
    if given["source"] is None and given["recipe"] is None:
        raise RecipeError(f"A color alone has no profile: choose --source ({', '.join(RGB_SPACES)} or an ICC file).")
    chain = _chain(given, None)
    found = chain.trace(np.array(values) / 255)
    inks = chain.condition.model.inks
    _show(
        {
            "source": {"profile": chain.source.profile.name, "rgb": _round(values), "lab": _round(found.source_lab)},
            "aim": {"want_lab": _round(found.want_lab), "lab": _round(found.aim_lab)},
            "ink": {
                **dict(zip(inks, _round(found.inks * 100), strict=True)),
                "sum_percent": round(float(found.inks.sum()) * 100, 2),
            },
            "print": {"lab": _round(found.print_lab), "delta_e_2000": round(float(found.delta_e), 3)},
        },
        as_json,
    )


def _round(values: Any) -> list[float]:
    return [round(float(v), 2) for v in np.ravel(values)]


@plinto.command()
@click.option("--out", required=True, type=OUT, help="ICC device link to write.")
@_settings
def link(out: Path, **given: Any) -> None:
    """Write the whole line, limits and black included, as an ICC device link for other software."""
    if given["source"] is None and given["recipe"] is None:
        raise RecipeError(
            f"A link needs to know its source: choose --source ({', '.join(RGB_SPACES)} or an ICC file)."
        )
    chain = _chain(given, None)
    source, target = chain.source.profile, chain.condition.profile
    made = chain.baked.to_profile(f"{source.name} to {target.name}", source, target)
    write_whole(out, lambda part: _write_bytes(part, made.raw))
    click.echo(f"{out}: {made.name}, {chain.baked.points} points a side")


def main() -> None:
    """Run `plinto`; errors go to stderr with exit code 2."""
    try:
        plinto(standalone_mode=False)
    except click.ClickException as error:
        error.show()
        sys.exit(2)
    except click.Abort:
        sys.exit(130)
    except (PlintoError, OSError) as error:
        click.echo(f"plinto: {error}", err=True)
        sys.exit(2)


if __name__ == "__main__":
    main()
