"""Finding artwork, and removing it."""

from collections.abc import Sequence

from django.contrib.auth.models import User
from django.db import transaction

from plinto_server.artworks.models import Artwork
from plinto_server.errors import MissingError
from plinto_server.files.space import even_when_full
from plinto_server.removals import bin as removals


def artwork_by_id(artwork_id: int) -> Artwork:
    """Raises `MissingError`."""
    found = Artwork.objects.filter(id=artwork_id).first()
    if found is None:
        raise MissingError("This artwork is not here any more. Go back to the list of artwork.")
    return found


@even_when_full
@transaction.atomic
def remove(wanted: Sequence[Artwork], author: User | None) -> tuple[list[int], list[str]]:
    """Remove artwork with its versions and recipes, in one removal; files that runs hold stay.

    What a run needs is kept. Ids of what was removed, and of the rest a sentence each.
    """
    needed = set(Artwork.objects.filter(runs__state__in=("queued", "running")).values_list("id", flat=True))
    gone = [each for each in wanted if each.id not in needed]
    said = [
        f"'{each.name}' is being separated. Wait for the run, or cancel it first."
        for each in wanted if each.id in needed
    ]  # fmt: skip
    numbers = [each.id for each in gone]
    removals.remove(gone, gone[0].name if len(gone) == 1 else f"{len(gone)} pieces of artwork", author, "artwork")
    return numbers, said
