"""Commands around artwork and profiles: inspect, assign, convert, house."""

import json
from dataclasses import replace
from pathlib import Path

import click

from plinto_core.cli.settings import FILE, OUT, read_json, read_profile, show, source_of
from plinto_core.errors import ArtworkError, RecipeError
from plinto_core.house_rules import decide, house_profile, rules_from_file
from plinto_core.icc.profile import Profile
from plinto_core.icc.standard import RGB_SPACES
from plinto_core.inspection import describe_artwork, describe_profile
from plinto_core.raster.opened import Artwork, open_artwork
from plinto_core.raster.versions import write_assigned, write_converted
from plinto_core.recipe import Recipe, SourceStation


@click.command()
@click.argument("file", type=FILE)
@click.option("--json", "as_json", is_flag=True, help="For programs.")
def inspect(file: Path, as_json: bool) -> None:
    """Say what a profile or a picture is."""
    with file.open("rb") as opened:
        is_profile = opened.read(40)[36:40] == b"acsp"
    found = describe_profile(read_profile(file)) if is_profile else describe_artwork(open_artwork(file))
    show(found, as_json)


def _not_itself(src: Path, out: Path) -> None:
    if out.resolve() == src.resolve():
        raise ArtworkError(f"'{src.name}' is the original, and originals are never changed. Choose another --out.")
    if out.suffix.lower() not in (".tif", ".tiff"):
        raise RecipeError(f"--out {out.name}: a version is written as TIFF; use .tif.")


def _named(choice: str, space: str) -> Profile:
    return source_of(choice, replace(Recipe(), source=SourceStation(choice)), None, space)


@click.command()
@click.argument("src", type=FILE)
@click.option("--to", "choice", required=True, metavar="SPACE|FILE.icc|none", help="Profile to embed, or none.")
@click.option("--out", required=True, type=OUT, help="TIFF to write.")
def assign(src: Path, choice: str, out: Path) -> None:
    """Write SRC with another profile, or none: the numbers stay, and mean other colors."""
    _not_itself(src, out)
    artwork = open_artwork(src)
    profile = None if choice == "none" else _named(choice, artwork.space)
    write_assigned(artwork, profile, out)
    click.echo(f"{out}: the same numbers, {'read by ' + profile.name if profile else 'without a profile'}")


@click.command()
@click.argument("src", type=FILE)
@click.option("--to", "choice", required=True, metavar="SPACE|FILE.icc", help="Space to convert to.")
@click.option("--source", metavar="SPACE|FILE.icc", help="What the numbers mean now. Default: the embedded profile.")
@click.option("--intent", type=click.Choice(["perceptual", "relative", "saturation", "absolute"]), default="relative")
@click.option("--bpc/--no-bpc", default=True, help="Black point compensation. Default: on.")
@click.option("--out", required=True, type=OUT, help="TIFF to write, 16 bit.")
def convert(src: Path, choice: str, source: str | None, intent: str, bpc: bool, out: Path) -> None:
    """Write SRC in the numbers of another space: the colors stay, as far as that space reaches."""
    _not_itself(src, out)
    artwork = open_artwork(src)
    target = _target(choice)
    now = source_of(source, Recipe(), artwork.profile, artwork.space)
    write_converted(artwork, now, target, out, intent, bpc=bpc)
    click.echo(f"{out}: the same colors in {target.name}, 16 bit")


def _target(choice: str) -> Profile:
    if choice in RGB_SPACES:
        return _named(choice, "RGB")
    path = Path(choice)
    if not path.is_file():
        raise RecipeError(f"--to {choice} is neither {', '.join(RGB_SPACES)} nor a file.")
    return read_profile(path)


@click.command()
@click.argument("rules", type=FILE)
@click.argument("sources", type=FILE, nargs=-1, required=True)
@click.option(
    "--out", type=click.Path(file_okay=False, path_type=Path), help="Folder for what the rules make of them."
)
@click.option("--json", "as_json", is_flag=True, help="For programs.")
def house(rules: Path, sources: tuple[Path, ...], out: Path | None, as_json: bool) -> None:
    """Say what the house RULES (an exported set) do with artwork SOURCES, and do it where --out is given."""
    given, stored = rules_from_file(read_json(rules, "a set exported from Plinto"))
    found = {}
    for path in sources:
        artwork = open_artwork(path)
        profile = house_profile(given.space_for(artwork.stored_as), stored)
        decision = decide(given, artwork.stored_as, artwork.profile, profile)
        found[path.name] = {"action": decision.action, "log": decision.log}
        if out is not None and profile is not None:
            _carry_out(artwork, decision.action, profile, out / f"{path.stem}.tif")
    click.echo(json.dumps(found, indent=2)) if as_json else show({k: v["log"] for k, v in found.items()}, False)


def _carry_out(artwork: Artwork, action: str, house_space: Profile, out: Path) -> None:
    if action not in ("assume", "convert"):
        return
    out.parent.mkdir(parents=True, exist_ok=True)
    _not_itself(artwork.path, out)
    if action == "assume":
        write_assigned(artwork, house_space, out)
    elif artwork.profile is not None:
        write_converted(artwork, artwork.profile, house_space, out)
