"""Batches: planned, asked for, watched, paused, tried again, handed on."""

from datetime import datetime
from typing import Literal, TypeVar

from django.db.models import Count
from django.http import FileResponse, HttpRequest, HttpResponse
from ninja import Field, Query, Router, Schema, Status

from plinto_core.analysis.cost import Cost
from plinto_server.accounts.roles import may, person_of
from plinto_server.artworks.models import Artwork
from plinto_server.artworks.service import artwork_by_id
from plinto_server.batches import handed_on, service, watched
from plinto_server.batches.models import Batch, Item, WatchedFile, WatchedFolder
from plinto_server.batches.plan import BatchRequest, planned, recipe_for
from plinto_server.bench import engine
from plinto_server.conditions.models import Condition
from plinto_server.conditions.service import condition_by_slug
from plinto_server.described import GivenRecipe, file_of
from plinto_server.errors import MissingError
from plinto_server.policies.models import Document, Output
from plinto_server.policies.outputs import by_id as output_by_id

router = Router(tags=["batches"])

_MOST = 20_000


class BatchIn(Schema):
    """What a batch is made of: ids of artworks with slugs of conditions, ids of documents with ids of outputs.

    `name_rule` names all separations alike ('' as each is set); `recipe` is used for every artwork in the place of its
    own, without regions. `priority` is -10 (last) to 10 (first).
    """

    name: str = Field("", max_length=120)
    artworks: list[int] = Field(default_factory=list, max_length=_MOST)
    conditions: list[str] = Field(default_factory=list, max_length=200)
    documents: list[int] = Field(default_factory=list, max_length=_MOST)
    outputs: list[int] = Field(default_factory=list, max_length=200)
    name_rule: str = Field("", max_length=200)
    recipe: GivenRecipe | None = None
    priority: int = 0

    def request(self) -> BatchRequest:
        """What was asked for, found. Raises `MissingError`."""
        artworks = _by_id(Artwork.objects.in_bulk(self.artworks), self.artworks, "artwork")
        documents = _by_id(Document.objects.in_bulk(self.documents), self.documents, "document")
        outputs = _by_id(Output.objects.in_bulk(self.outputs), self.outputs, "output")
        slugs = {each.slug: each for each in Condition.objects.filter(slug__in=self.conditions)}
        conditions = _by_id(slugs, self.conditions, "condition")
        return BatchRequest(artworks, conditions, documents, outputs, self.name_rule, self.recipe)


K = TypeVar("K")
T = TypeVar("T")


def _by_id(found: dict[K, T], wanted: list[K], what: str) -> list[T]:
    gone = [each for each in wanted if each not in found]
    if gone:
        raise MissingError(f"{len(gone)} chosen {what}(s) are not here any more. Look at the list again.")
    return [found[each] for each in dict.fromkeys(wanted)]


class PlannedOut(Schema):
    """One file to come; estimated bytes and seconds. `problem` keeps it from being made, `note` is what a recipe for all
    leaves out there; `artwork_id` and `slug` (its condition) are those of a separation."""

    artwork_id: int | None
    slug: str
    of_name: str
    for_name: str
    file_name: str
    bytes: int
    seconds: float
    problem: str
    note: str


class PlanOut(Schema):
    """What a batch would write: as many files as were asked to be shown, those with a problem first, and sums of all."""

    files: list[PlannedOut]
    total: int
    problems: int
    bytes: int
    seconds: float


class PlannedInkIn(Schema):
    """A separation that a batch would make: the artwork for a condition (slug), with a recipe in the place of its own."""

    artwork: int
    condition: str = Field(max_length=80)
    recipe: GivenRecipe | None = None


class PlannedInkOut(Schema):
    """Its ink: mean coverage, all inks together, in percent; grams and money of one copy, where they can be known."""

    mean_percent: float
    cost: Cost | None


class BatchOut(Schema):
    """A batch and how many of its files are in each state; `result_bytes` are of what was made."""

    id: int
    name: str
    priority: int
    paused: bool
    asked_at: datetime
    asked_by: str
    counts: dict[str, int]
    total: int


class ItemOut(Schema):
    """A file of a batch: its state, why it failed or was refused, and its run."""

    number: int
    of_name: str
    for_name: str
    file_name: str
    state: service.ItemState
    said: str
    progress: float
    run_id: int | None


class ItemsOut(Schema):
    """Some files of a batch, and how many there are in that state."""

    items: list[ItemOut]
    total: int


class ItemsFilter(Schema):
    """Which files: in one state, from where on, how many."""

    state: Literal["", "waiting", "queued", "running", "done", "failed", "refused", "cancelled"] = ""
    offset: int = Field(0, ge=0, le=_MOST)
    limit: int = Field(100, ge=1, le=500)


class Most(Schema):
    """How many are listed."""

    limit: int = Field(100, ge=1, le=2000)


class PriorityIn(Schema):
    """-10 (last) to 10 (first)."""

    priority: int


def _out(batches: list[Batch]) -> list[BatchOut]:
    counts = service.counts(batches)
    return [
        BatchOut(
            id=each.id, name=each.name, priority=each.priority, paused=each.paused, asked_at=each.asked_at,
            asked_by=each.asked_by.get_username() if each.asked_by else "", counts=dict(counts[each.id]),
            total=counts[each.id].total(),
        )
        for each in batches
    ]  # fmt: skip


def _one(batch: Batch) -> BatchOut:
    return _out([batch])[0]


@router.get("", response=list[BatchOut])
def batches(request: HttpRequest, wanted: Query[Most]) -> list[BatchOut]:
    """Batches, the latest first."""
    return _out(list(Batch.objects.select_related("asked_by")[: wanted.limit]))


@router.post("/plan", response=PlanOut)
def plan(request: HttpRequest, given: BatchIn, wanted: Query[Most]) -> PlanOut:
    """What a batch would write; nothing is asked for."""
    found = planned(given.request())
    first = sorted(found, key=lambda each: not each.problem)[: wanted.limit]
    made = [each for each in found if not each.problem]
    return PlanOut(
        files=[PlannedOut(**{field: getattr(each, field) for field in PlannedOut.model_fields}) for each in first],
        total=len(found), problems=len(found) - len(made), bytes=sum(each.bytes for each in made),
        seconds=sum(each.seconds for each in made),
    )  # fmt: skip


@router.post("/plan/ink", response=PlannedInkOut)
def planned_ink(request: HttpRequest, given: PlannedInkIn) -> PlannedInkOut:
    """The ink that one separation of a batch would take, measured on the artwork as it is looked at."""
    artwork, condition = artwork_by_id(given.artwork), condition_by_slug(given.condition)
    recipe, _note = recipe_for(artwork, condition, given.recipe, "")
    coverage = engine.coverage_figures(artwork, condition, recipe)
    return PlannedInkOut(mean_percent=sum(coverage.mean_percent), cost=engine.cost(artwork, condition, coverage, 1))


@router.post("", response={201: BatchOut})
def ask(request: HttpRequest, given: BatchIn) -> Status[BatchOut]:
    """Ask for a batch. Names that clash are refused (422); a file with another problem is kept with its reason."""
    batch = service.ask(given.name, planned(given.request()), given.priority, person_of(request))
    return Status(201, _one(batch))


class WatchedChange(Schema):
    """What a watched folder does: artwork goes to a condition (slug), documents through an output; `by_subfolder` takes
    the names of subfolders for conditions. `recipe` is used for every artwork in the place of its own, without regions;
    with `recipe_stays` the folder keeps the one that it has."""

    condition: str = Field("", max_length=80)
    output_id: int | None = None
    recipe: GivenRecipe | None = None
    recipe_name: str = Field("", max_length=80)
    recipe_stays: bool = False
    name_rule: str = Field("", max_length=200)
    by_subfolder: bool = False
    active: bool = True


class WatchedIn(WatchedChange):
    """A watched folder, called as it is on the disk."""

    name: str = Field(max_length=60)


class WatchedFileOut(Schema):
    """A file that was found there: how far it is, and what was said of it."""

    name: str
    state: WatchedFile.State
    said: str
    run_id: int | None
    found_at: datetime


class WatchedOut(Schema):
    """A watched folder with where it lies, counts by state, and its last files."""

    id: int
    name: str
    path: str
    condition: str
    condition_slug: str
    output: str
    output_id: int | None
    has_recipe: bool
    recipe_name: str
    by_subfolder: bool
    name_rule: str
    active: bool
    counts: dict[str, int]
    files: list[WatchedFileOut]


def _watched(folder: WatchedFolder) -> WatchedOut:
    counts = dict(folder.files.order_by().values_list("state").annotate(count=Count("id")))
    condition, output = folder.condition, folder.output
    return WatchedOut(
        id=folder.id, name=folder.name, path=str(watched.path_of(folder)), active=folder.active,
        condition=condition.name if condition else "", condition_slug=condition.slug if condition else "",
        output=output.name if output else "", output_id=folder.output_id,
        has_recipe=folder.recipe is not None, recipe_name=folder.recipe_name,
        by_subfolder=folder.by_subfolder, name_rule=folder.name_rule, counts=counts,
        files=[WatchedFileOut.from_orm(each) for each in folder.files.all()[:8]],
    )  # fmt: skip


def _filled(folder: WatchedFolder, given: WatchedChange) -> WatchedFolder:
    folder.name_rule, folder.active, folder.by_subfolder = given.name_rule, given.active, given.by_subfolder
    if not given.recipe_stays:
        folder.recipe = given.recipe.to_json() if given.recipe else None
        folder.recipe_name = given.recipe_name if given.recipe else ""
    folder.condition = condition_by_slug(given.condition) if given.condition else None
    folder.output = output_by_id(given.output_id) if given.output_id is not None else None
    return folder


@router.get("/watched", response=list[WatchedOut])
def watched_folders(request: HttpRequest) -> list[WatchedOut]:
    """Watched folders by name."""
    return [_watched(each) for each in WatchedFolder.objects.select_related("condition", "output")]


@router.post("/watched", response={201: WatchedOut}, auth=may("house"))
def watch(request: HttpRequest, given: WatchedIn) -> Status[WatchedOut]:
    """Watch a folder, which is made where it is not there."""
    return Status(201, _watched(watched.save(_filled(WatchedFolder(name=given.name), given), person_of(request))))


@router.put("/watched/{folder_id}", response=WatchedOut, auth=may("house"))
def change_watched(request: HttpRequest, folder_id: int, given: WatchedChange) -> WatchedOut:
    """Have a folder do something else from now on; what is under way is finished as it was begun."""
    return _watched(watched.save(_filled(watched.by_id(folder_id), given), person_of(request)))


@router.post("/watched/{folder_id}/active", response=WatchedOut, auth=may("house"))
def switch_watched(request: HttpRequest, folder_id: int, on: bool) -> WatchedOut:
    """Switch a folder on or off; what is under way is finished."""
    folder = watched.by_id(folder_id)
    folder.active = on
    folder.save(update_fields=["active"])
    return _watched(folder)


@router.delete("/watched/{folder_id}", response={204: None}, auth=may("house"))
def unwatch(request: HttpRequest, folder_id: int) -> Status[None]:
    """Stop watching; nothing on the disk is touched."""
    watched.remove(watched.by_id(folder_id), person_of(request))
    return Status(204, None)


@router.get("/{batch_id}", response=BatchOut)
def batch(request: HttpRequest, batch_id: int) -> BatchOut:
    """One batch."""
    return _one(service.batch_by_id(batch_id))


@router.delete("/{batch_id}", response={204: None})
def remove(request: HttpRequest, batch_id: int) -> Status[None]:
    """Forget a batch that has ended; its files stay."""
    service.remove(service.batch_by_id(batch_id), person_of(request))
    return Status(204, None)


@router.get("/{batch_id}/items", response=ItemsOut)
def items(request: HttpRequest, batch_id: int, wanted: Query[ItemsFilter]) -> ItemsOut:
    """Files of a batch in their order."""
    found = service.items(service.batch_by_id(batch_id), wanted.state)
    page = found[wanted.offset : wanted.offset + wanted.limit]
    return ItemsOut(items=[_item(each) for each in page], total=found.count())


def _item(item: Item) -> ItemOut:
    run = item.run
    return ItemOut(
        number=item.number, of_name=item.of_name, for_name=item.for_name,
        file_name=run.file_name if run else item.file_name, state=service.state_of(item),
        said=(run.message if run else "") or item.said, progress=run.progress if run else 0.0, run_id=item.run_id,
    )  # fmt: skip


@router.post("/{batch_id}/pause", response=BatchOut)
def pause(request: HttpRequest, batch_id: int) -> BatchOut:
    """Hand out nothing more; what is under way is finished."""
    return _one(service.pause(service.batch_by_id(batch_id), True))


@router.post("/{batch_id}/resume", response=BatchOut)
def resume(request: HttpRequest, batch_id: int) -> BatchOut:
    """Go on."""
    return _one(service.pause(service.batch_by_id(batch_id), False))


@router.post("/{batch_id}/cancel", response=BatchOut)
def cancel(request: HttpRequest, batch_id: int) -> BatchOut:
    """Drop what waits, stop what is under way; finished files stay."""
    return _one(service.cancel(service.batch_by_id(batch_id)))


@router.post("/{batch_id}/retry", response=BatchOut)
def retry(request: HttpRequest, batch_id: int) -> BatchOut:
    """Ask once more for what failed, was refused or cancelled."""
    return _one(service.retry(service.batch_by_id(batch_id)))


@router.post("/{batch_id}/priority", response=BatchOut)
def set_priority(request: HttpRequest, batch_id: int, given: PriorityIn) -> BatchOut:
    """Of what is still to be handed out."""
    return _one(service.set_priority(service.batch_by_id(batch_id), given.priority))


@router.get("/{batch_id}/files", openapi_extra=file_of("application/zip"))
def files(request: HttpRequest, batch_id: int) -> FileResponse:
    """Every finished file with its run sheet, as one ZIP."""
    found = service.batch_by_id(batch_id)
    return FileResponse(
        handed_on.archive(found), as_attachment=True, filename=handed_on.archive_name(found),
        content_type="application/zip",
    )  # fmt: skip


@router.get("/{batch_id}/report", openapi_extra=file_of("text/html"))
def report(request: HttpRequest, batch_id: int) -> HttpResponse:
    """One page to print for the whole batch."""
    return HttpResponse(handed_on.page(service.batch_by_id(batch_id)), content_type="text/html; charset=utf-8")
