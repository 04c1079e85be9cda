"""The command that makes many files: batch, taken up again where it was broken off."""

import json
from functools import partial
from pathlib import Path
from typing import Any

import click

from plinto_core.chain.compiled import Chain
from plinto_core.cli.lines import named, stem_of, write_delivery
from plinto_core.cli.settings import FILE, chain_of, line_options, opened, read_profile, recipe_of
from plinto_core.errors import PlintoError, RecipeError
from plinto_core.files import file_digest
from plinto_core.raster.opened import Artwork


@click.command()
@click.argument("src", type=FILE, nargs=-1, required=True)
@click.option(
    "--condition", "conditions", type=FILE, multiple=True, required=True, help="ICC output profile; give several."
)
@click.option(
    "--out", required=True, type=click.Path(file_okay=False, path_type=Path), help="Folder for files and run sheets."
)
@click.option("--plan", is_flag=True, help="Only say what would be written.")
@partial(line_options, needs_profile=False)
def batch(src: tuple[Path, ...], conditions: tuple[Path, ...], out: Path, plan: bool, **given: Any) -> None:
    """Separate every SRC for every condition into a folder, each file with its run sheet.

    What stands there already, by its run sheet and to the last byte, is not made again: broken off, the same command
    goes on. What fails is said at the end, with exit code 1, and keeps nothing else from being made.
    """
    if given.pop("profile"):
        raise RecipeError("--profile: a batch takes its conditions with --condition.")
    out.mkdir(parents=True, exist_ok=True)
    _check_names(src, conditions, out, given)
    failed: list[str] = []
    made = kept = 0
    for source in src:
        for condition in conditions:
            try:
                artwork, chain = line_of(source, condition, given)
                target, sheet = targets_of(out, artwork, chain)
                if stands(target, sheet, source, chain):
                    kept += 1
                elif plan:
                    click.echo(f"{source.name} for {chain.condition.profile.name}: {target.name}")
                    made += 1
                else:
                    write_delivery(source, target, artwork, chain, chain.recipe.deliver, sheet)
                    made += 1
            except PlintoError as error:
                failed.append(f"{source.name} for {condition.name}: {error}")
    word = "to be made" if plan else "made"
    click.echo(f"{made} {word}, {kept} there already, {len(failed)} failed")
    for line in failed:
        click.echo(line, err=True)
    if failed:
        raise click.exceptions.Exit(1)


def line_of(source: Path, condition: Path, given: dict[str, Any]) -> tuple[Artwork, Chain]:
    """The artwork of a file, and its line to a condition's profile by the options that were given."""
    settings = {**given, "profile": condition}
    artwork = opened(source, settings)
    return artwork, chain_of(settings, artwork.profile, artwork.space)


def targets_of(out: Path, artwork: Artwork, chain: Chain) -> tuple[Path, Path]:
    """Where in a folder the file and its run sheet come to stand, by the recipe's name rule."""
    deliver = chain.recipe.deliver
    stem = named(artwork, chain, deliver)
    return out / f"{stem}{deliver.suffix}", out / f"{stem} run sheet.json"


def _check_names(src: tuple[Path, ...], conditions: tuple[Path, ...], out: Path, given: dict[str, Any]) -> None:
    """Before anything is written: no file over another one, and none over an original."""
    originals = {each.resolve() for each in src}
    recipe, taken = recipe_of(given), dict[Path, str]()
    for condition in conditions:
        name = read_profile(condition).name
        for source in src:
            stem = stem_of(source.name, name, recipe, recipe.deliver)
            target, what = out / f"{stem}{recipe.deliver.suffix}", f"'{source}' for {name}"
            if target.resolve() in originals:
                raise RecipeError(
                    f"'{target.name}' is an original, and originals are never changed. Choose another --out."
                )
            if target in taken:
                raise RecipeError(f"{taken[target]} and {what} would both become '{target.name}'. Rename one.")
            taken[target] = what


def stands(target: Path, sheet: Path, source: Path, chain: Chain) -> bool:
    """Whether this very file was made before: same picture, recipe and condition, and not a byte changed since."""
    if not (target.is_file() and sheet.is_file()):
        return False
    try:
        told = json.loads(sheet.read_bytes())
        same = (
            told["recipe_digest"] == chain.recipe.digest
            and told["condition"]["sha256"] == chain.condition.profile.digest
            and told["source_profile"]["sha256"] == chain.source.profile.digest
            and told["artwork"]["sha256"] == file_digest(source)
        )
        return bool(same) and told["written"]["sha256"] == file_digest(target)
    except (ValueError, KeyError, TypeError):
        return False
