"""Delivery formats: a module each, found by its name, loaded when a file of its kind is made.

What a recipe has to know of a format without computing anything (its ending, its bits) stands in `recipe/formats.py`.
"""

from importlib import import_module
from typing import TYPE_CHECKING, cast

if TYPE_CHECKING:
    from plinto_core.deliver.formats.format import DeliveryFormat


def format_of(name: str) -> "DeliveryFormat":
    """The module of a format that a recipe names."""
    return cast("DeliveryFormat", import_module(f"{__name__}.{name.replace('-', '_')}"))
