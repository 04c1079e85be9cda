"""Color lists: taken in, typed, sampled from artwork, written."""

from pathlib import Path

import numpy as np
from django.contrib.auth.models import User
from django.db import transaction

from plinto_core.errors import PipelineError
from plinto_core.policy.spots import Spot, spots_of
from plinto_core.route import color_list as core
from plinto_core.route.sampled import sampled, sampled_at
from plinto_core.sandbox.client import check_file
from plinto_server.artworks import levels
from plinto_server.artworks.models import Artwork
from plinto_server.colors.models import ColorList
from plinto_server.errors import MissingError

_LETTERS = 120


def by_id(list_id: int) -> ColorList:
    """Raises `MissingError`."""
    found = ColorList.objects.filter(id=list_id).first()
    if found is None:
        raise MissingError("This list is not here any more. Choose another one.")
    return found


def colors_of(found: ColorList) -> core.ColorList:
    """The list as the core knows it."""
    values = np.frombuffer(bytes(found.values), "<f8").reshape(found.count, len(found.channels))
    spectra = None if found.spectra is None else np.frombuffer(bytes(found.spectra), "<f4").reshape(found.count, -1)
    return core.ColorList(tuple(found.names), tuple(found.channels), values, spectra)


@transaction.atomic
def keep(
    name: str, colors: core.ColorList, user: User | None, artwork: Artwork | None = None,
    places: list[tuple[int, int]] | None = None,
) -> ColorList:  # fmt: skip
    """Keep a list under a name, numbered where it is taken. Raises `PipelineError`."""
    name = name.strip()[:_LETTERS]
    if not name:
        raise PipelineError("A list needs a name.")
    return ColorList.objects.create(
        name=_free(name), channels=list(colors.channels), names=[each[:200] for each in colors.names],
        values=np.ascontiguousarray(colors.values, "<f8").tobytes(), count=len(colors.names), artwork=artwork,
        spectra=None if colors.spectra is None else np.ascontiguousarray(colors.spectra, "<f4").tobytes(),
        places=[list(each) for each in places or []], made_by=user,
    )  # fmt: skip


def _free(name: str) -> str:
    taken = set(ColorList.objects.filter(name__startswith=name).values_list("name", flat=True))
    return next(each for n in range(1, len(taken) + 2) if (each := name if n == 1 else f"{name} {n}") not in taken)


def take_in(path: Path, name: str, user: User | None) -> ColorList:
    """A list of a file, which the sandbox has read first. Raises `PlintoError`; nothing is kept then."""
    check_file("colors", path, name)
    return keep(Path(name).stem, core.read_list(path.read_bytes(), name), user)


def typed(name: str, text: str, user: User | None) -> ColorList:
    """Typed or pasted colors. Raises `PaletteError` naming the line, and `CharacterizationError`."""
    return keep(name, core.pasted_list(text), user)


def of_artwork(
    artwork: Artwork, rectangle: tuple[int, int, int, int], across: int, down: int, user: User | None
) -> ColorList:  # fmt: skip
    """A rectangle of artwork as a grid of samples, which know where they are from. Raises `PipelineError`."""
    colors, places = sampled(levels.opened(artwork), rectangle, across, down)
    return keep(f"{Path(artwork.name).stem} samples", colors, user, artwork, places)


def as_spots(found: ColorList) -> tuple[Spot, ...]:
    """The colors of a list as spot inks. Raises `PipelineError` for device values, which say nothing of an ink's color."""
    colors = colors_of(found)
    if not colors.is_lab:
        raise PipelineError(
            f"'{found.name}' has {', '.join(colors.channels)} values of a device, and a spot ink is known by its color: "
            "choose a list of Lab or spectra."
        )
    return spots_of(colors.names, colors.values)


def of_pins(artwork: Artwork, user: User | None) -> ColorList:
    """The colors under an artwork's pins, in the order in which they were dropped. Raises `PipelineError`."""
    pins = list(artwork.pins.all())
    places = [(pin.x, pin.y) for pin in pins]
    names = [pin.name or f"pin {number}" for number, pin in enumerate(pins, 1)]
    colors = sampled_at(levels.opened(artwork), places, names)
    return keep(f"{Path(artwork.name).stem} pins", colors, user, artwork, places)
