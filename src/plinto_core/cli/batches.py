"""The command that makes many files: batch, taken up again where it was broken off."""

from functools import partial
from pathlib import Path
from typing import Any

import click

from plinto_core.cli.plans import works_of
from plinto_core.cli.settings import FILE, line_options, recipe_of
from plinto_core.cli.works import PictureWork, Work, check_names
from plinto_core.errors import PlintoError, RecipeError


@click.command()
@click.argument("src", type=FILE, nargs=-1, required=True, metavar="PLAN.json|SRC...")
@click.option("--condition", "conditions", type=FILE, multiple=True, help="ICC output profile; give several.")
@click.option(
    "--out",
    type=click.Path(file_okay=False, path_type=Path),
    help="Folder for files and run sheets. Default: the plan's.",
)
@click.option("--plan", is_flag=True, help="Only say what would be written.")
@partial(line_options, needs_profile=False)
def batch(src: tuple[Path, ...], conditions: tuple[Path, ...], out: Path | None, plan: bool, **given: Any) -> None:
    """Separate every SRC for every condition into a folder, or make all that PLAN.json asks for, pictures and documents.

    Each file comes with its run sheet. What stands there already, by its run sheet and to the last byte, is not made
    again: broken off, the same command goes on. What fails is said at the end, with exit code 1, and keeps nothing else
    from being made.
    """
    if given.pop("profile"):
        raise RecipeError("--profile: a batch takes its conditions with --condition.")
    folder, works = _asked(src, conditions, out, given)
    check_names(works)
    folder.mkdir(parents=True, exist_ok=True)
    failed: list[str] = []
    made = kept = 0
    for work in works:
        try:
            if work.stands():
                kept += 1
                continue
            if plan:
                click.echo(work.planned())
            else:
                work.make()
            made += 1
        except PlintoError as error:
            failed.append(f"{work.label}: {error}")
    word = "to be made" if plan else "made"
    click.echo(f"{made} {word}, {kept} there already, {len(failed)} failed")
    for line in failed:
        click.echo(line, err=True)
    if failed:
        raise click.exceptions.Exit(1)


def _asked(
    src: tuple[Path, ...], conditions: tuple[Path, ...], out: Path | None, given: dict[str, Any]
) -> tuple[Path, list[Work]]:
    plans = [path for path in src if path.suffix.lower() == ".json"]
    if plans:
        if len(src) > 1 or conditions:
            raise RecipeError(
                f"'{plans[0].name}' is a batch plan and says all of it: give it alone, with --out at most."
            )
        return works_of(plans[0], out, given)
    if not conditions or out is None:
        raise RecipeError("Say what is made and where: --condition FILE.icc and --out FOLDER, or give a PLAN.json.")
    recipe = recipe_of(given)
    return out, [PictureWork(source, condition, out, given, recipe) for source in src for condition in conditions]
