"""Commands of policies: check, compare, ready, from-rules."""

import json
from pathlib import Path

import click

from plinto_core.cli.settings import FILE, write_text
from plinto_core.errors import PolicyError
from plinto_core.files import write_whole
from plinto_core.policy.ready_made import READY_MADE
from plinto_core.policy.words import in_words


@click.group()
def policy() -> None:
    """Check and compare policies, or start from a ready-made one."""


@policy.command()
@click.argument("file", type=FILE)
def check(file: Path) -> None:
    """Read the policy FILE and say it row by row."""
    from plinto_core.policy.files import read_policy

    found, profiles = read_policy(file)
    click.echo(f"{found.name}, into {'the condition of the output' if found.into == 'condition' else found.into}")
    for at, row in enumerate(found.rows):
        click.echo(f"  {at + 1}  {in_words(row)}")
    for kind, name in (("gray", found.gray), ("RGB", found.rgb), ("CMYK", found.cmyk)):
        told = profiles[name].name if name in profiles else name
        click.echo(f"  {kind} without a profile: {told or 'means nothing, and cannot be converted'}")
    if found.spots:
        click.echo(f"  Spot inks known by their color: {_told(found.spots)}")


def _told(value: object) -> str:
    """A part of a policy in words: spot inks by their names."""
    if not isinstance(value, tuple):
        return str(value)
    return "; ".join(each.name for each in value) or "none"


@policy.command()
@click.argument("file", type=FILE)
@click.argument("colors", metavar="LIST", type=FILE)
@click.option("--out", type=click.Path(path_type=Path), required=True, help="JSON to write.")
def spots(file: Path, colors: Path, out: Path) -> None:
    """Have the policy FILE know the spot inks of LIST (Lab or spectra: CGATS, CxF, ICC named colors, a table) by name."""
    from dataclasses import replace

    from plinto_core.policy.files import policy_to_file, read_policy
    from plinto_core.policy.spots import spots_of
    from plinto_core.route.color_list import read_list

    found, profiles = read_policy(file)
    listed = read_list(colors.read_bytes(), colors.name)
    if not listed.is_lab:
        raise PolicyError(f"'{colors.name}' has values of a device, and a spot ink is known by its color: take Lab.")
    known = replace(found, spots=spots_of(listed.names, listed.values))
    text = json.dumps(policy_to_file(known, profiles), indent=2, ensure_ascii=False)
    write_whole(out, lambda part: write_text(part, text))
    click.echo(f"{out}: knows {len(known.spots)} spot inks")


@policy.command()
@click.argument("one", type=FILE)
@click.argument("other", type=FILE)
def compare(one: Path, other: Path) -> None:
    """Say in which rows two policies differ."""
    from plinto_core.policy.files import read_policy

    first, second = read_policy(one)[0], read_policy(other)[0]
    said = [[in_words(row) for row in each.rows] for each in (first, second)]
    alike = True
    for at in range(max(map(len, said))):
        left, right = (rows[at] if at < len(rows) else "no such row" for rows in said)
        if left != right:
            alike = False
            click.echo(f"{at + 1}  {left}\n   {right}")
    for name in ("into", "intent", "gray", "rgb", "cmyk", "profiles_count", "intent_wins", "spots"):
        if getattr(first, name) != getattr(second, name):
            alike = False
            left, right = (_told(getattr(each, name)) for each in (first, second))
            click.echo(f"{name}: {left} / {right}")
    if alike:
        click.echo("They do the same.")


@policy.command()
@click.argument("name", required=False)
@click.option("--out", type=click.Path(path_type=Path), help="JSON to write. Default: to the screen.")
def ready(name: str | None, out: Path | None) -> None:
    """List the ready-made policies, or write the one called NAME."""
    if name is None:
        for each in READY_MADE.values():
            click.echo(each.name)
        return
    if name not in READY_MADE:
        raise PolicyError(f"No policy is called '{name}'; there are {', '.join(READY_MADE)}.")
    text = json.dumps(READY_MADE[name].to_json(), indent=2, ensure_ascii=False)
    if out is None:
        click.echo(text)
    else:
        write_whole(out, lambda part: write_text(part, text))


@policy.command(name="from-rules")
@click.argument("house", type=FILE)
@click.option("--out", type=click.Path(path_type=Path), help="JSON to write. Default: to the screen.")
def from_rules(house: Path, out: Path | None) -> None:
    """Make of HOUSE rules the policy that does the same to documents."""
    from plinto_core.house_rules import rules_from_file
    from plinto_core.policy.files import from_house_rules, policy_to_file

    try:
        rules, stored = rules_from_file(json.loads(house.read_bytes()))
    except ValueError as error:
        raise PolicyError(f"'{house.name}' is no JSON ({error}).") from error
    text = json.dumps(policy_to_file(from_house_rules(rules), stored), indent=2, ensure_ascii=False)
    if out is None:
        click.echo(text)
    else:
        write_whole(out, lambda part: write_text(part, text))
