"""Printing conditions."""

from typing import Any, Literal

from django.http import FileResponse, HttpRequest
from ninja import File, Router, Schema, Status, UploadedFile

from plinto_core.press.judge import Judgement
from plinto_server import store
from plinto_server.conditions import service
from plinto_server.conditions.models import Condition
from plinto_server.conditions.service import Gamut, condition_by_slug

router = Router(tags=["conditions"])


class ConditionOut(Schema):
    """A printing condition with what is known of it. Lab is ICC-absolute for the substrate, else media-relative."""

    slug: str
    name: str
    process: str
    notes: str
    inks: list[str]
    profile_sha256: str
    total_ink_percent: float
    substrate_lab: list[float]
    darkest_lab: list[float]
    fit_mean: float
    fit_p95: float
    patches: int
    status: str
    made_from: str
    report: dict[str, Any]


@router.get("", response=list[ConditionOut])
def conditions(request: HttpRequest) -> list[Condition]:
    """All conditions, in the order of the house."""
    return list(Condition.objects.all())


@router.get("/gamuts", response=list[Gamut])
def gamuts(request: HttpRequest, of: str) -> list[Gamut]:
    """Hulls of conditions (slugs) and RGB spaces, comma between them; shares are of the first one."""
    return service.gamuts([key for key in of.split(",") if key])


@router.get("/{slug}/profile")
def profile(request: HttpRequest, slug: str) -> FileResponse:
    """The condition's ICC profile."""
    found = condition_by_slug(slug)
    return FileResponse(
        store.path_of(found.profile_sha256).open("rb"), as_attachment=True, filename=f"{found.name}.icc"
    )


class TakenIn(Schema):
    """What came of a file: a condition at once, or the run that makes one."""

    slug: str | None = None
    run_id: int | None = None


class StatusIn(Schema):
    """How far a condition is to be trusted."""

    status: Literal["draft", "trusted", "out of date"]


@router.post("", response={201: TakenIn})
def take_in(request: HttpRequest, file: File[UploadedFile]) -> Status[TakenIn]:
    """A condition from an ICC profile, or from measurements (CGATS, CxF) by a run; 422 says what is wrong with them."""
    made = service.take_in(file, request.user if request.user.is_authenticated else None)
    found = TakenIn(slug=made.slug) if isinstance(made, Condition) else TakenIn(run_id=made.id)
    return Status(201, found)


@router.get("/{slug}/judgement", response=Judgement)
def judgement(request: HttpRequest, slug: str) -> Judgement:
    """Round trip, neutrality, dot gain, ink laid down, smoothness and gamut of its profile."""
    return service.judged(condition_by_slug(slug))


@router.put("/{slug}/status", response=ConditionOut)
def set_status(request: HttpRequest, slug: str, given: StatusIn) -> Condition:
    """Draft, trusted or out of date."""
    return service.set_status(condition_by_slug(slug), given.status)


@router.delete("/{slug}", response={204: None})
def remove(request: HttpRequest, slug: str) -> Status[None]:
    """Remove a condition; files already written stay."""
    service.remove(condition_by_slug(slug))
    return Status(204, None)
