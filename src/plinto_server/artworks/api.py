"""The library of artwork, and its versions."""

from collections.abc import Callable
from datetime import date, datetime
from typing import Annotated, Literal

from django.http import FileResponse, HttpRequest, HttpResponse
from ninja import Field, File, Query, Router, Schema, Status, UploadedFile

from plinto_core.errors import RecipeError
from plinto_server.accounts.roles import person_of
from plinto_server.artworks import intake, pictures, reworking, service, shelf, versions
from plinto_server.artworks.models import Artwork, ArtworkVersion
from plinto_server.described import file_of
from plinto_server.errors import ConflictError
from plinto_server.files import store
from plinto_server.files.uploads import part_of_upload
from plinto_server.jobs.api import RunOut
from plinto_server.jobs.models import Run

router = Router(tags=["artworks"])

Share = Annotated[float, Field(ge=0, le=1)]


class ArtworkOut(Schema):
    """A piece of artwork in its version in force; `profile_name` is empty where the numbers have no profile.

    `space` is what goes down the line, `stored_as` what the file is in. `asks` holds the ways out of an open
    question of the house rules, about `asks_space`.
    """

    id: int
    name: str
    format: Literal["TIFF", "PNG", "JPEG", "OpenRaster"]
    stored_as: Literal["RGB", "gray", "CMYK", "Lab"]
    space: Literal["RGB", "CMYK"]
    width: int
    height: int
    depth: int
    pages: int
    page: int
    ground: list[float]
    has_alpha: bool
    bytes: int
    resolution_ppi: float | None
    profile_name: str
    log: list[str]
    version: int
    asks: list[str]
    asks_space: str
    taken_in_at: datetime
    added_by: str

    @staticmethod
    def resolve_added_by(found: Artwork) -> str:
        return found.taken_in_by.get_username() if found.taken_in_by else ""


class ArrivalOut(Schema):
    """What came of a file: artwork that is here already, or the run that opens it; `said` says so in words."""

    artwork: ArtworkOut | None
    run: RunOut | None
    said: str


class VersionOut(Schema):
    """One version: how it came about."""

    number: int
    action: str
    note: str
    made_at: datetime


class VersionIn(Schema):
    """A new version of the one in force. `profile` is a space's name or a digest, for assign and convert."""

    action: Literal["assign", "convert", "remove", "keep", "flatten"]
    profile: str = ""
    intent: Literal["perceptual", "relative", "saturation", "absolute"] = "relative"
    bpc: bool = True
    page: int = Field(0, ge=0, le=9999)
    ground: tuple[Share, Share, Share] = (1.0, 1.0, 1.0)


class VersionChoice(Schema):
    """The version to put in force."""

    number: int = Field(ge=0, le=2**31)


@router.get("", response=list[ArtworkOut])
def artworks(request: HttpRequest) -> list[Artwork]:
    """All artwork, by name."""
    return list(Artwork.objects.select_related("taken_in_by"))


@router.post("", response={200: ArrivalOut, 202: ArrivalOut})
def take_in(request: HttpRequest, file: File[UploadedFile]) -> Status[intake.Arrival]:
    """Upload a picture: 202 with the run that opens it, 200 with the artwork where the same bytes are here already;
    422 says what is wrong with it, and nothing of it is kept."""
    arrival = intake.take_in(part_of_upload(file), file.name or "", person_of(request))
    return Status(202 if arrival.run else 200, arrival)


class ShelfFilter(Schema):
    """See `shelf.Narrowing`; from where on, how many."""

    search: str = Field("", max_length=100)
    space: Literal["", "RGB", "gray", "CMYK", "Lab"] = ""
    profile: str = Field("", max_length=255)
    state: shelf.State = ""
    condition: str = Field("", max_length=80)
    person: str = Field("", max_length=150)
    since: date | None = None
    sort: shelf.Sort = "name"
    descending: bool = False
    offset: int = Field(0, ge=0, le=1_000_000)
    limit: int = Field(60, ge=1, le=200)


class ShelfOut(Schema):
    """A page of the shelf, and how many there are in all."""

    items: list[ArtworkOut]
    total: int


class ChoicesOut(Schema):
    """What artwork can be narrowed down by."""

    profiles: list[str]
    people: list[str]


class RemovalIn(Schema):
    """Artwork to remove, by id."""

    ids: list[int] = Field(max_length=1000)


class RemovalOut(Schema):
    """What was removed, and why something was not."""

    removed: list[int]
    kept: list[str]


@router.get("/shelf", response=ShelfOut)
def on_shelf(request: HttpRequest, wanted: Query[ShelfFilter]) -> dict[str, object]:
    """Artwork searched, narrowed down and sorted, a page at a time."""
    found = shelf.listed(shelf.Narrowing(**wanted.dict(exclude={"offset", "limit"})))
    return {"items": list(found[wanted.offset : wanted.offset + wanted.limit]), "total": found.count()}


@router.get("/shelf/choices", response=ChoicesOut)
def shelf_choices(request: HttpRequest) -> shelf.Choices:
    """Profiles and people to narrow the shelf down by."""
    return shelf.choices()


@router.post("/shelf/remove", response=RemovalOut)
def remove_many(request: HttpRequest, given: RemovalIn) -> RemovalOut:
    """Remove several; what is being separated is kept and named."""
    removed, kept = service.remove(list(Artwork.objects.filter(id__in=given.ids)), person_of(request))
    return RemovalOut(removed=removed, kept=kept)


@router.get("/{artwork_id}", response=ArtworkOut)
def artwork(request: HttpRequest, artwork_id: int) -> Artwork:
    """One piece of artwork."""
    return service.artwork_by_id(artwork_id)


@router.delete("/{artwork_id}", response={204: None})
def remove(request: HttpRequest, artwork_id: int) -> Status[None]:
    """Remove artwork with its versions and recipes."""
    _, kept = service.remove([service.artwork_by_id(artwork_id)], person_of(request))
    if kept:
        raise ConflictError(kept[0])
    return Status(204, None)


@router.get("/{artwork_id}/versions", response=list[VersionOut])
def artwork_versions(request: HttpRequest, artwork_id: int) -> list[ArtworkVersion]:
    """Every version, the artwork as it came first."""
    return list(service.artwork_by_id(artwork_id).versions.all())


@router.post("/{artwork_id}/versions", response={201: ArtworkOut, 202: RunOut})
def add_version(request: HttpRequest, artwork_id: int, given: VersionIn) -> Status[Artwork] | Status[Run]:
    """Assign, convert or remove a profile, flatten another way, or keep as it is: always a new version.

    201 with the artwork in it, or, where pixels have to be made (convert, flatten), 202 with the run that makes it.
    """
    found, user = service.artwork_by_id(artwork_id), person_of(request)
    if given.action in ("assign", "convert") and not given.profile:
        raise RecipeError("Choose a profile first.")
    if given.action in ("convert", "flatten"):
        parts = {"profile", "intent", "bpc"} if given.action == "convert" else {"page", "ground"}
        return Status(202, reworking.ask(found, given.dict(include={"action", *parts}), user))
    acts: dict[str, Callable[[], Artwork]] = {
        "assign": lambda: versions.assign(found, given.profile, user),
        "remove": lambda: versions.remove_profile(found, user),
        "keep": lambda: versions.keep(found, user),
    }
    return Status(201, acts[given.action]())


@router.post("/{artwork_id}/version", response=ArtworkOut)
def choose_version(request: HttpRequest, artwork_id: int, given: VersionChoice) -> Artwork:
    """Put a version in force."""
    return versions.go_to(service.artwork_by_id(artwork_id), given.number)


@router.get("/{artwork_id}/original", openapi_extra=file_of("application/octet-stream"))
def original(request: HttpRequest, artwork_id: int) -> FileResponse:
    """The bytes as they came in."""
    found = service.artwork_by_id(artwork_id)
    file = store.path_of(found.sha256).open("rb")
    return FileResponse(file, as_attachment=True, filename=found.name, content_type="application/octet-stream")


@router.get("/{artwork_id}/thumbnail", openapi_extra=file_of("image/png"))
def thumbnail(request: HttpRequest, artwork_id: int) -> HttpResponse:
    """A small PNG of the artwork in its version in force, which an address with the version's number keeps for good."""
    found = service.artwork_by_id(artwork_id)
    named = request.GET.get("version") == str(found.version)
    caching = "private, max-age=31536000, immutable" if named else "no-cache"
    return HttpResponse(pictures.thumbnail(found), content_type="image/png", headers={"Cache-Control": caching})
