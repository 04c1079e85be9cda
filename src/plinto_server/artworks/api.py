"""The library of artwork."""

from datetime import datetime

from django.http import FileResponse, HttpRequest, HttpResponse
from ninja import File, Router, Schema, Status, UploadedFile

from plinto_server import store
from plinto_server.artworks import service
from plinto_server.artworks.models import Artwork
from plinto_server.bench import engine

router = Router(tags=["artworks"])


class ArtworkOut(Schema):
    """A piece of artwork; `profile_name` is empty where nothing is embedded."""

    id: int
    name: str
    format: str
    width: int
    height: int
    depth: int
    bytes: int
    resolution_ppi: float | None
    profile_name: str
    log: list[str]
    taken_in_at: datetime


@router.get("", response=list[ArtworkOut])
def artworks(request: HttpRequest) -> list[Artwork]:
    """All artwork, by name."""
    return list(Artwork.objects.all())


@router.post("", response={201: ArtworkOut})
def take_in(request: HttpRequest, file: File[UploadedFile]) -> Status[Artwork]:
    """Upload a picture; the same bytes twice are one piece of artwork."""
    user = request.user if request.user.is_authenticated else None
    return Status(201, service.take_in(file, user))


@router.get("/{artwork_id}", response=ArtworkOut)
def artwork(request: HttpRequest, artwork_id: int) -> Artwork:
    """One piece of artwork."""
    return service.artwork_by_id(artwork_id)


@router.delete("/{artwork_id}", response={204: None})
def remove(request: HttpRequest, artwork_id: int) -> Status[None]:
    """Remove artwork with its recipes."""
    service.remove(service.artwork_by_id(artwork_id))
    return Status(204, None)


@router.get("/{artwork_id}/original")
def original(request: HttpRequest, artwork_id: int) -> FileResponse:
    """The bytes as they came in."""
    found = service.artwork_by_id(artwork_id)
    return FileResponse(store.path_of(found.sha256).open("rb"), as_attachment=True, filename=found.name)


@router.get("/{artwork_id}/thumbnail")
def thumbnail(request: HttpRequest, artwork_id: int) -> HttpResponse:
    """A small PNG of the artwork."""
    png = engine.thumbnail(service.artwork_by_id(artwork_id))
    return HttpResponse(png, content_type="image/png", headers={"Cache-Control": "private, max-age=86400"})
