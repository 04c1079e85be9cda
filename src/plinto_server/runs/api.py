"""Runs: ask, watch, cancel, download."""

from datetime import datetime
from pathlib import Path
from typing import Any
from urllib.parse import quote

from django.http import FileResponse, HttpRequest, JsonResponse
from ninja import Router, Schema, Status

from plinto_core.recipe import Recipe
from plinto_server import store
from plinto_server.artworks.service import artwork_by_id
from plinto_server.conditions.service import condition_by_slug
from plinto_server.errors import ConflictError
from plinto_server.runs import service
from plinto_server.runs.models import Run

router = Router(tags=["runs"])

_TYPES = {
    ".tif": "image/tiff",
    ".jpg": "image/jpeg",
    ".pdf": "application/pdf",
    ".zip": "application/zip",
    ".icc": "application/vnd.iccprofile",
}


class RunIn(Schema):
    """A separation to make."""

    artwork_id: int
    condition: str
    recipe: Recipe


class RunOut(Schema):
    """A run; `state` is queued, running, done, failed or cancelled; `progress` 0…1."""

    id: int
    kind: str
    artwork_id: int | None
    artwork_name: str
    condition_name: str
    file_name: str
    state: str
    progress: float
    message: str
    result_bytes: int
    run_sheet: dict[str, Any] | None
    asked_at: datetime
    ended_at: datetime | None


@router.get("", response=list[RunOut])
def runs(request: HttpRequest) -> list[Run]:
    """The latest hundred runs; what a killed worker left is queued again."""
    service.recover()
    return list(Run.objects.all()[:100])


@router.post("", response={201: RunOut})
def ask(request: HttpRequest, given: RunIn) -> Status[Run]:
    """Queue a separation."""
    user = request.user if request.user.is_authenticated else None
    artwork, condition = artwork_by_id(given.artwork_id), condition_by_slug(given.condition)
    return Status(201, service.ask(artwork, condition, given.recipe, user))


@router.get("/{run_id}", response=RunOut)
def run(request: HttpRequest, run_id: int) -> Run:
    """One run."""
    return service.run_by_id(run_id)


@router.post("/{run_id}/cancel", response=RunOut)
def cancel(request: HttpRequest, run_id: int) -> Run:
    """Stop a run."""
    return service.cancel(service.run_by_id(run_id))


def _finished(run_id: int) -> Run:
    found = service.run_by_id(run_id)
    if found.state != Run.State.DONE:
        raise ConflictError(f"'{found.file_name}' is {found.state}; there is no file yet.")
    return found


@router.get("/{run_id}/file")
def result(request: HttpRequest, run_id: int) -> FileResponse:
    """The file that was made."""
    found = _finished(run_id)
    file = store.path_of(found.result_sha256).open("rb")
    kind = _TYPES.get(Path(found.file_name).suffix, "application/octet-stream")
    return FileResponse(file, as_attachment=True, filename=found.file_name, content_type=kind)


@router.get("/{run_id}/sheet")
def sheet(request: HttpRequest, run_id: int) -> JsonResponse:
    """The run sheet as JSON."""
    found = _finished(run_id)
    name = f"{Path(found.file_name).stem} run sheet.json"
    return JsonResponse(
        found.run_sheet,
        json_dumps_params={"indent": 2, "ensure_ascii": False},
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"},
    )
