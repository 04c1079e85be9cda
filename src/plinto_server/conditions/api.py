"""Printing conditions."""

from django.http import FileResponse, HttpRequest
from ninja import Router, Schema

from plinto_server import store
from plinto_server.conditions.models import Condition
from plinto_server.errors import MissingError

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


def condition_by_slug(slug: str) -> Condition:
    """Raises `MissingError`."""
    found = Condition.objects.filter(slug=slug).first()
    if found is None:
        raise MissingError("This printing condition is not here any more. Choose another one.")
    return found


@router.get("", response=list[ConditionOut])
def conditions(request: HttpRequest) -> list[Condition]:
    """All conditions, in the order of the house."""
    return list(Condition.objects.all())


@router.get("/{slug}/profile")
def profile(request: HttpRequest, slug: str) -> FileResponse:
    """The condition's ICC profile."""
    found = condition_by_slug(slug)
    return FileResponse(
        store.path_of(found.profile_sha256).open("rb"), as_attachment=True, filename=f"{found.name}.icc"
    )
