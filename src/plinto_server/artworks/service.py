"""Finding artwork, and removing it."""

from django.db import transaction

from plinto_server.artworks.models import Artwork
from plinto_server.errors import ConflictError, MissingError
from plinto_server.files.space import even_when_full


def artwork_by_id(artwork_id: int) -> Artwork:
    """Raises `MissingError`."""
    found = Artwork.objects.filter(id=artwork_id).first()
    if found is None:
        raise MissingError("This artwork is not here any more. Go back to the list of artwork.")
    return found


@even_when_full
@transaction.atomic
def remove(artwork: Artwork) -> None:
    """Remove artwork with its versions and recipes; refused while a run needs it. Files that runs hold stay."""
    if artwork.runs.filter(state__in=("queued", "running")).exists():
        raise ConflictError(f"'{artwork.name}' is being separated. Wait for the run, or cancel it first.")
    artwork.delete()
