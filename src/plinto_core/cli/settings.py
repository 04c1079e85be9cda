"""The options that commands share, and the line that they ask for."""

import json
import os
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import replace
from functools import cache
from pathlib import Path
from typing import Any, Literal, TypeVar, get_args

import click
import numpy as np

from plinto_core.chain.compiled import Chain, compile_recipe
from plinto_core.chain.library import Condition, Library, source_profile
from plinto_core.errors import RecipeError
from plinto_core.icc.profile import Profile, parse
from plinto_core.icc.standard import RGB_SPACES
from plinto_core.inks.drive import driven_by_rgb
from plinto_core.raster.opened import Artwork, Flattening, open_artwork
from plinto_core.recipe import AimStation, DeliverStation, InkStation, Intent, Recipe, recipe_from_json
from plinto_core.recipe.black import BLACK_PRESETS, BlackPolicy

F = TypeVar("F", bound=Callable[..., Any])
FILE = click.Path(exists=True, dir_okay=False, path_type=Path)
OUT = click.Path(dir_okay=False, path_type=Path)
PERCENT = click.FloatRange(0, 100)
_DEPTHS: dict[str | None, Literal[8, 16]] = {"8": 8, "16": 16}


def line_options(command: F, *, needs_profile: bool = True) -> F:
    """The options that every command of the line shares."""
    options = [
        click.option(
            "--profile", required=needs_profile, type=FILE, help="ICC output profile of the printing condition."
        ),
        click.option(
            "--source", metavar="SPACE|FILE.icc",
            help=f"What the numbers mean: {', '.join(RGB_SPACES)} or an ICC file. Default: the embedded profile.",
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
        click.option("--black", type=click.Choice(list(BLACK_PRESETS)), help="Kind of black generation to start from."),
        click.option("--black-amount", type=PERCENT, help="Share of the gray component that black replaces, %."),
        click.option("--black-start", type=PERCENT, help="Gray component at which black sets in, %."),
        click.option("--black-max", type=PERCENT, help="Most black, %."),
        click.option(
            "--black-shape", type=click.FloatRange(0.5, 4), help="How black rises after its start: 0.5 early, 4 late."
        ),
        click.option("--without", metavar="K[,Y]", help="Inks left out; the others make up for them."),
        click.option("--keep", metavar="K,C,MY", help="CMYK artwork: sets of inks that stay pure."),
        click.option("--keep-as", type=click.Choice(["look", "numbers"]), help="What stays of them. Default: look."),
        click.option("--depth", type=click.Choice(["8", "16"]), help="Bits for an ink. Default: 8."),
        click.option("--recipe", type=FILE, help="Recipe (JSON) to start from; options given here override it."),
        click.option("--page", type=click.IntRange(1), default=1, help="Page of a TIFF with several."),
        click.option("--ground", default="#ffffff", metavar="#rrggbb", help="Color under transparent parts."),
    ]  # fmt: skip
    for option in reversed(options):
        command = option(command)
    return command


def TABLE(command: Any) -> Any:
    """How the table of a written route is to be: ICC version and bits."""
    icc = click.option("--icc", type=click.Choice(["2", "4"]), default="4", help="ICC version. Default: 4.")
    bits = click.option("--bits", type=click.Choice(["8", "16"]), default="16", help="Bits of a table's value.")
    return icc(bits(command))


_REBUILDING = (
    "total_ink", "ink_limit", "black", "black_amount", "black_start", "black_max", "black_shape", "without", "keep",
    "keep_as",
)  # fmt: skip


def recipe_of(given: dict[str, Any]) -> Recipe:
    """A recipe from the options, on top of the recipe file if there is one."""
    recipe = recipe_from_json(read_json(given["recipe"], "a run sheet's 'recipe' part")) if given["recipe"] else None
    return replace(
        recipe or Recipe(),
        aim=_aim(given, recipe.aim if recipe else AimStation()),
        ink=_ink(given, recipe.ink if recipe else None),
        deliver=_deliver(given, recipe.deliver if recipe else DeliverStation()),
    )


def _aim(given: dict[str, Any], aim: AimStation) -> AimStation:
    return AimStation(given["intent"] or aim.intent, aim.bpc if given["bpc"] is None else given["bpc"])


def _deliver(given: dict[str, Any], deliver: DeliverStation) -> DeliverStation:
    return replace(deliver, depth=_DEPTHS.get(given["depth"], deliver.depth))


def _ink(given: dict[str, Any], kept: InkStation | None) -> InkStation:
    rebuilding = [name for name in _REBUILDING if given[name] is not None]
    method = given["method"] or (kept.method if kept else "rebuilt" if rebuilding else "as-profiled")
    if method == "as-profiled" and rebuilding:
        options = ", ".join("--" + name.replace("_", "-") for name in rebuilding)
        raise RecipeError(f"{options}: the profile's own tables have no such setting. Use --ink rebuilt.")
    ink = kept or InkStation()
    limits = ink.limits
    if given["total_ink"] is not None:
        limits = replace(limits, total_percent=given["total_ink"])
    if given["ink_limit"] is not None:
        limits = replace(limits, per_ink_percent=_per_ink(given["ink_limit"]))
    black = BLACK_PRESETS[given["black"]] if given["black"] else ink.black
    wanted = {"amount_percent": "black_amount", "start_percent": "black_start", "maximum_percent": "black_max"}
    wanted["shape"] = "black_shape"
    changes = {field: given[option] for field, option in wanted.items() if given[option] is not None}
    black = BlackPolicy(**{**{f: getattr(black, f) for f in (*wanted, "shape")}, **changes})
    without = _words(given["without"]) if given["without"] is not None else ink.without
    keep = _words(given["keep"]) if given["keep"] is not None else ink.keep
    return InkStation(method, limits, black, without, keep, given["keep_as"] or ink.keep_as)


def _words(text: str) -> tuple[str, ...]:
    return tuple(part.strip() for part in text.split(",") if part.strip())


def _per_ink(text: str) -> tuple[tuple[str, float], ...]:
    try:
        pairs = [part.split("=") for part in text.split(",") if part.strip()]
        return tuple((ink.strip(), float(limit)) for ink, limit in pairs)
    except ValueError as error:
        raise RecipeError(f"--ink-limit {text} cannot be read; write it like C=95,M=95,Y=100,K=90.") from error


def read_json(path: Path, fits: str) -> Any:
    """JSON of a file. Raises `RecipeError` that says what `fits` there."""
    try:
        return json.loads(path.read_text())
    except (json.JSONDecodeError, UnicodeDecodeError) as error:
        raise RecipeError(f"'{path.name}' is no JSON ({error}); {fits} is what fits.") from error


def read_profile(path: Path) -> Profile:
    """A profile from a file. Raises `IccError`."""
    return parse(path.read_bytes())


def read_rgb_profile(path: Path, option: str) -> Profile:
    """A profile that must be RGB."""
    found = read_profile(path)
    if found.header.space != "RGB ":
        raise RecipeError(f"{option} {found.name} is no RGB profile; choose a display's or a working space's.")
    return found


def source_of(choice: str | None, recipe: Recipe, embedded: Profile | None, space: str = "RGB") -> Profile:
    """The source profile that an option, or else the recipe, names."""
    if choice is not None and choice not in RGB_SPACES:
        path = Path(choice)
        if not path.is_file():
            raise RecipeError(f"--source {choice} is neither {', '.join(RGB_SPACES)} nor a file.")
        found = read_profile(path)
        if found.header.space.strip() != space:
            raise RecipeError(
                f"--source {path.name} describes {found.header.space.strip()}; {space} artwork needs a {space} profile."
            )
        return found
    return source_profile(choice or recipe.source.profile, embedded, space=space)


def library() -> Library:
    """Conditions, their tables kept in PLINTO_CACHE or the home folder; one for all that a command does."""
    return _library_in(os.environ.get("PLINTO_CACHE", str(Path.home() / ".cache" / "plinto")))


@cache
def _library_in(folder: str) -> Library:
    return Library(Path(folder))


def chain_of(given: dict[str, Any], embedded: Profile | None, space: str = "RGB") -> Chain:
    """The line that the options ask for."""
    recipe = recipe_of(given)
    source = source_of(given["source"], recipe, embedded, space)
    condition = library().condition(read_profile(given["profile"]))
    rebuilding = ["--" + name.replace("_", "-") for name in _REBUILDING if given[name] is not None]
    if rebuilding and driven_by_rgb(condition.model.inks):
        raise RecipeError(
            f"{', '.join(rebuilding)}: '{condition.profile.name}' is driven by RGB, so its inks are its own affair."
        )
    return _compiled(recipe, condition, source)


#: The lines used last, by all that makes them: the next picture of a batch goes through the same baked link.
_LINES: OrderedDict[tuple[str, str, str], Chain] = OrderedDict()
_MOST_LINES = 4


def _compiled(recipe: Recipe, condition: Condition, source: Profile) -> Chain:
    key = recipe.digest, condition.profile.digest, source.digest
    if key not in _LINES:
        _LINES[key] = compile_recipe(recipe, condition, source)
    _LINES.move_to_end(key)
    while len(_LINES) > _MOST_LINES:
        _LINES.popitem(last=False)
    return _LINES[key]


def color_of(text: str, option: str) -> tuple[float, float, float]:
    """'#rrggbb' as fractions."""
    digits = text.removeprefix("#")
    try:
        if len(digits) != 6:
            raise ValueError(text)
        red, green, blue = (int(digits[at : at + 2], 16) / 255 for at in (0, 2, 4))
    except ValueError as error:
        raise RecipeError(f"{option} {text} is no color; write it like #ffffff.") from error
    return red, green, blue


def opened(path: Path, given: dict[str, Any]) -> Artwork:
    """The artwork, with what opening it does said on stderr."""
    artwork = open_artwork(path, flattening=Flattening(given["page"] - 1, color_of(given["ground"], "--ground")))
    for note in artwork.notes:
        click.echo(note, err=True)
    return artwork


def opened_with_chain(path: Path, given: dict[str, Any]) -> tuple[Artwork, Chain]:
    """The artwork and its line."""
    artwork = opened(path, given)
    return artwork, chain_of(given, artwork.profile, artwork.space)


def rounded(values: Any, digits: int = 2) -> list[float]:
    """Numbers for people."""
    return [round(float(v), digits) for v in np.ravel(values)]


def show(found: Any, as_json: bool) -> None:
    """A dictionary as lines, or anything as JSON."""
    if as_json:
        click.echo(json.dumps(found, indent=2, ensure_ascii=False))
        return
    for key, value in found.items():
        if isinstance(value, dict):
            click.echo(f"{key}:")
            for inner, text in value.items():
                click.echo(f"  {inner:<20} {text}")
        else:
            click.echo(f"{key:<22} {value}")


def write_bytes(path: Path, data: bytes) -> None:
    """For `write_whole`."""
    path.write_bytes(data)


def write_text(path: Path, text: str) -> None:
    """For `write_whole`."""
    path.write_text(text + "\n")
