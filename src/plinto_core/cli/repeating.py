"""Commands that start from a run sheet: again."""

import sys
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from plinto_core.cli.settings import FILE, OUT, library
from plinto_core.errors import RecipeError

if TYPE_CHECKING:
    from plinto_core.chain.compiled import Chain


@click.command()
@click.argument("sheet", type=FILE)
@click.option(
    "--from", "inputs", multiple=True, type=click.Path(exists=True, path_type=Path),
    help="File or folder that holds the artwork and the profiles; found by their digests. The sheet's folder if left out.",
)  # fmt: skip
@click.option("--out", type=OUT, help="File to write; 'again NAME' beside the sheet if left out.")
def again(sheet: Path, inputs: tuple[Path, ...], out: Path | None) -> None:
    """Make the file of a run sheet (JSON) once more, and say whether it is the same to the last bit.

    Ends with 0 when it is, with 3 when it is not, and with 2 when an input is missing.
    """
    from plinto_core.deliver.again import make_again
    from plinto_core.deliver.run_sheet import read_run_sheet
    from plinto_core.files import safe_name

    read = read_run_sheet(sheet)
    target = out or sheet.parent / f"again {safe_name(str(read['written']['name']), 'file')}"
    if target.exists() and out is None:
        raise RecipeError(f"'{target}' is there already. Say with --out where to write.")
    made = make_again(read, inputs or (sheet.parent,), library(), target, by_rule=_rule_of(read))
    versions = f" Differing versions: {', '.join(made.differing)}." if made.differing else ""
    if made.same:
        click.echo(f"{target}: the same file to the last bit.{versions}")
        return
    click.echo(f"{target}: not the same file.{versions or ' Every version is the same.'}")
    sys.exit(3)


def _rule_of(read: dict[str, Any]) -> "Callable[[Path, Chain], None] | None":
    """What brings a written page under the delivery rule of its sheet; None where it has none."""
    if "delivery_rule" not in read:
        return None
    from plinto_core.files import write_whole
    from plinto_core.pdf.as_delivered import deliver_by_rule
    from plinto_core.policy.rule import rule_from_json

    rule = rule_from_json({key: value for key, value in read["delivery_rule"].items() if key != "notes"})

    def by_rule(page: Path, chain: "Chain") -> None:
        def write(part: Path) -> None:
            deliver_by_rule(page, part, rule, chain)

        write_whole(page, write)

    return by_rule
