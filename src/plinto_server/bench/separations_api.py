"""Asking for separations, and for a file once more: routes beside those of all runs."""

from django.http import HttpRequest
from ninja import Field, Schema, Status

from plinto_core.policy.rule import DeliveryRule
from plinto_core.recipe import Recipe
from plinto_server.accounts.roles import person_of
from plinto_server.artworks.service import artwork_by_id
from plinto_server.bench import separations
from plinto_server.conditions.service import condition_by_slug
from plinto_server.jobs.again import again
from plinto_server.jobs.api import RunDetail, router
from plinto_server.jobs.models import Run
from plinto_server.jobs.runs import run_by_id

__all__ = ["router"]


class RunIn(Schema):
    """A separation to make; `rule` is the delivery rule of its page, `output_id` the output that has it."""

    artwork_id: int
    condition: str
    recipe: Recipe
    rule: DeliveryRule | None = None
    output_id: int | None = Field(None, ge=1, le=2**31 - 1)


@router.post("", response={201: RunDetail})
def ask(request: HttpRequest, given: RunIn) -> Status[Run]:
    """Queue a separation."""
    artwork, condition = artwork_by_id(given.artwork_id), condition_by_slug(given.condition)
    run = separations.ask(artwork, condition, given.recipe, person_of(request), given.rule, given.output_id)
    return Status(201, run)


@router.post("/{run_id}/again", response={201: RunDetail})
def make_again(request: HttpRequest, run_id: int) -> Status[Run]:
    """Make the file of a run once more from its sheet; its message says whether it is the same to the bit."""
    return Status(201, again(run_by_id(run_id), person_of(request)))
