"""Runs: watch, cancel, download."""

from datetime import datetime, timedelta
from pathlib import Path
from typing import Any
from urllib.parse import quote

from django.db.models import Q
from django.http import FileResponse, HttpRequest, JsonResponse
from ninja import Field, Query, Router, Schema

from plinto_server.described import file_of
from plinto_server.errors import ConflictError
from plinto_server.files import store
from plinto_server.jobs import runs
from plinto_server.jobs.models import Run

router = Router(tags=["runs"])

_TYPES = {
    ".tif": "image/tiff",
    ".jpg": "image/jpeg",
    ".pdf": "application/pdf",
    ".zip": "application/zip",
    ".icc": "application/vnd.iccprofile",
}
#: A change may be written a moment after its time was taken: whoever asks what is new hears of it twice, not never.
_OVERLAP = timedelta(seconds=5)


class RunFigures(Schema):
    """What a list shows of a run sheet; percent of ink, None where there is no such limit."""

    largest_coverage_percent: float
    total_ink_limit_percent: float | None


class RunOut(Schema):
    """A run; `progress` 0…1. `again_of_id` is the run whose file this one made once more. `handed_out` ones come from a
    batch or a watched folder: nobody waits for each of them. The file of a done one may be gone by the house's rules."""

    id: int
    kind: str
    artwork_id: int | None
    artwork_name: str
    condition_name: str
    condition_slug: str
    file_name: str
    state: Run.State
    progress: float
    message: str
    result_bytes: int
    figures: RunFigures | None
    again_of_id: int | None
    handed_out: bool
    has_file: bool
    asked_by: str
    asked_at: datetime
    began_at: datetime | None
    changed_at: datetime
    ended_at: datetime | None

    @staticmethod
    def resolve_condition_slug(run: Run) -> str:
        return run.condition.slug if run.condition else ""

    @staticmethod
    def resolve_has_file(run: Run) -> bool:
        return run.state == Run.State.DONE and bool(run.result_sha256)

    @staticmethod
    def resolve_handed_out(run: Run) -> bool:
        return run.priority < 0

    @staticmethod
    def resolve_asked_by(run: Run) -> str:
        return run.asked_by.get_username() if run.asked_by else ""

    @staticmethod
    def resolve_figures(run: Run) -> dict[str, Any] | None:
        if hasattr(run, "largest"):
            largest, limit, format_ = run.largest, run.limit, run.format  # type: ignore[attr-defined]
        else:
            sheet = run.run_sheet or {}
            largest, limit = sheet.get("largest_coverage_percent"), sheet.get("total_ink_limit_percent")
            format_ = run.recipe.get("deliver", {}).get("format")
        # A negative is no ink.
        if largest is None or run.kind != "separation" or format_ == "negative":
            return None
        return {"largest_coverage_percent": largest, "total_ink_limit_percent": limit}


class RunDetail(RunOut):
    """A run with its sheet."""

    run_sheet: dict[str, Any] | None


class RunFilter(Schema):
    """Which runs: changed since a time that an earlier answer named, before a number, of an artwork, how many; with all
    words of `search` in the names of file, artwork, condition or person; in a state; of a kind."""

    since: datetime | None = None
    before: int | None = Field(None, ge=0, le=2**62)
    artwork: int | None = Field(None, ge=0, le=2**62)
    limit: int = Field(100, ge=1, le=200)
    search: str = Field("", max_length=100)
    state: Run.State | None = None
    kind: str = Field("", max_length=12)


@router.get("", response=list[RunOut])
def all_runs(request: HttpRequest, wanted: Query[RunFilter]) -> list[Run]:
    """Runs without their sheets, the latest first; nothing is written."""
    found = runs.listed()
    if wanted.since is not None:
        found = found.filter(changed_at__gte=wanted.since - _OVERLAP)
    if wanted.before is not None:
        found = found.filter(id__lt=wanted.before)
    if wanted.artwork is not None:
        found = found.filter(artwork_id=wanted.artwork)
    for word in wanted.search.split():
        named = Q(file_name__icontains=word) | Q(artwork_name__icontains=word) | Q(condition_name__icontains=word)
        found = found.filter(named | Q(asked_by__username__icontains=word))
    if wanted.state is not None:
        found = found.filter(state=wanted.state)
    if wanted.kind:
        found = found.filter(kind=wanted.kind)
    return list(found[: wanted.limit])


@router.get("/{run_id}", response=RunDetail)
def run(request: HttpRequest, run_id: int) -> Run:
    """One run with its sheet."""
    return runs.run_by_id(run_id)


@router.post("/{run_id}/cancel", response=RunDetail)
def cancel(request: HttpRequest, run_id: int) -> Run:
    """Stop a run."""
    return runs.cancel(runs.run_by_id(run_id))


def _finished(run_id: int) -> Run:
    found = runs.run_by_id(run_id)
    if found.state != Run.State.DONE or not found.result_sha256:
        why = found.message if found.state == Run.State.DONE else f"It is {found.state}."
        raise ConflictError(f"There is no file '{found.file_name}'. {why}")
    return found


@router.get("/{run_id}/file", openapi_extra=file_of(*_TYPES.values(), "application/octet-stream"))
def result(request: HttpRequest, run_id: int) -> FileResponse:
    """The file that was made."""
    found = _finished(run_id)
    file = store.path_of(found.result_sha256).open("rb")
    kind = _TYPES.get(Path(found.file_name).suffix, "application/octet-stream")
    return FileResponse(file, as_attachment=True, filename=found.file_name, content_type=kind)


@router.get("/{run_id}/sheet", openapi_extra=file_of("application/json"))
def sheet(request: HttpRequest, run_id: int) -> JsonResponse:
    """The run sheet as JSON."""
    found = runs.run_by_id(run_id)
    if found.state != Run.State.DONE or found.run_sheet is None:
        raise ConflictError(f"There is no run sheet of '{found.file_name}': it is {found.state}.")
    name = f"{Path(found.file_name).stem} run sheet.json"
    return JsonResponse(
        found.run_sheet,
        json_dumps_params={"indent": 2, "ensure_ascii": False},
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"},
    )
