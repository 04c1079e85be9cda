"""Commands of tickets: check, strip, read."""

import json
from pathlib import Path

import click
import numpy as np

from plinto_core.cli.measuring import AS_JSON, measured
from plinto_core.cli.settings import FILE, read_profile, write_bytes, write_text
from plinto_core.errors import PolicyError
from plinto_core.files import write_whole

OTHERS = click.option("--other", "others", type=FILE, multiple=True, help="Profiles of other media that may be set.")
PRESS = click.option("--profile", required=True, type=FILE, help="ICC output profile that should be set.")


@click.group()
def ticket() -> None:
    """Say what a printer's settings do, and find out from paper how it is set."""


@ticket.command()
@click.argument("file", type=FILE)
def check(file: Path) -> None:
    """Say what follows from the ticket FILE alone; ends with 3 where colors are not converted once."""
    from plinto_core.policy.ticket import ticket_from_json

    try:
        found = ticket_from_json(json.loads(file.read_bytes()))
    except ValueError as error:
        raise PolicyError(f"'{file.name}' is no JSON ({error}).") from error
    for _, said in found.verdicts:
        click.echo(said)
    if not found.is_right:
        raise click.exceptions.Exit(3)


@ticket.command()
@PRESS
@OTHERS
@click.option("--out", required=True, type=click.Path(path_type=Path), help="CGATS of R, G, B to write.")
@click.option("--pdf", "page", type=click.Path(path_type=Path), help="PDF page to print, sRGB.")
def strip(profile: Path, others: tuple[Path, ...], out: Path, page: Path | None) -> None:
    """Lay out the few patches that best tell how a printer is set."""
    from plinto_core.inks.drive import turned
    from plinto_core.inks.names import DRIVEN_BY_RGB
    from plinto_core.measurement.chart import chart_text
    from plinto_core.policy.check_strip import strip_of

    rgb = strip_of(read_profile(profile), tuple(read_profile(each) for each in others))
    write_whole(out, lambda part: write_text(part, chart_text(turned(rgb), DRIVEN_BY_RGB)))
    if page is not None:
        from plinto_core.deliver.strip_out import strip_page

        data = strip_page(rgb, profile.stem)
        write_whole(page, lambda part: write_bytes(part, data))
    click.echo(f"{out}: {len(rgb)} patches. Print them as any RGB job is printed, measure them from left to right.")


@ticket.command()
@click.argument("file", type=FILE)
@PRESS
@OTHERS
@AS_JSON
def read(file: Path, profile: Path, others: tuple[Path, ...], as_json: bool) -> None:
    """Say from the measured strip FILE (with its R, G, B) which set-up printed it; ends with 3 for a wrong one."""
    from plinto_core.colorimetry.lab import xyz_to_lab
    from plinto_core.inks.drive import turned
    from plinto_core.policy.check_strip import read_strip

    data, _ = measured(file)
    found = read_strip(
        read_profile(profile), tuple(read_profile(each) for each in others), turned(np.asarray(data.device)),
        xyz_to_lab(data.xyz),
    )  # fmt: skip
    if as_json:
        ranked = [
            {"set-up": each.name, "likelihood": round(each.likelihood, 4), "mean ΔE00": round(each.delta_e, 2)}
            for each in found.ranked
        ]
        click.echo(
            json.dumps({"cause": found.cause, "said": found.said, "ranked": ranked}, indent=2, ensure_ascii=False)
        )
    else:
        click.echo(found.said)
        for each in found.ranked[:4]:
            click.echo(f"  {100 * each.likelihood:5.1f} %  ΔE00 {each.delta_e:4.1f}  {each.said}")
    if found.cause != "once":
        raise click.exceptions.Exit(3)
