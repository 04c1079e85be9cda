"""Commands of documents: pdf inspect."""

import json
from pathlib import Path
from typing import Any

import click

from plinto_core.cli.measuring import AS_JSON
from plinto_core.cli.settings import FILE


@click.group()
def pdf() -> None:
    """Look into PDF documents."""


@pdf.command(name="inspect")
@click.argument("file", type=FILE)
@click.option("--password", default="", help="For a locked document.")
@AS_JSON
def inspect(file: Path, password: str, as_json: bool) -> None:
    """Spaces, profiles, pictures, spots, text colors, overprint, transparency, boxes and output intents of FILE."""
    from plinto_core.pdf.inspect import inspect_document

    found = inspect_document(file, password)
    if as_json:
        click.echo(json.dumps(found, indent=2, ensure_ascii=False))
        return
    for key, value in found.items():
        if isinstance(value, list | dict) and value:
            click.echo(f"{key}:")
            entries = value.items() if isinstance(value, dict) else enumerate(value, 1)
            for name, told in entries:
                click.echo(f"  {name}: {_words(told)}")
        else:
            click.echo(f"{key}: {_words(value) or 'none'}")


def _words(told: Any) -> str:
    if isinstance(told, dict):
        return ", ".join(f"{key} {_words(value)}" for key, value in told.items())
    if isinstance(told, list):
        return " ".join(_words(each) for each in told)
    return f"{told:g}" if isinstance(told, float) else "no" if told is False else "yes" if told is True else str(told)
