"""Proofing systems judged: figures to look at, and a page to print."""

from dataclasses import asdict
from datetime import UTC, datetime

from django.http import HttpRequest, HttpResponse
from ninja import Field, Query, Router, Schema

from plinto_core.route.proof_report import proof_html
from plinto_core.route.proofing import ProofJudgement, ProofTolerances, judged, proofed_colors
from plinto_server.colors import lists
from plinto_server.described import file_of
from plinto_server.house import service as house

router = Router(tags=["colors"])


class ProofIn(Schema):
    """A proofing system: the press's profile and the proofing printer's, over a list or a grid of the press's inks, with
    the spot inks of a list; and what a proof may be off at most, ΔE00, ΔH*ab of hue and ΔCh of grays."""

    press: str = Field(max_length=64)
    printer: str = Field(max_length=64)
    list_id: int | None = None
    spots_id: int | None = None
    side: int = Field(9, ge=2, le=20)
    paper: float = Field(ProofTolerances.paper, ge=0, le=100)
    solids: float = Field(ProofTolerances.solids, ge=0, le=100)
    solids_hue: float = Field(ProofTolerances.solids_hue, ge=0, le=100)
    grays_mean: float = Field(ProofTolerances.grays_mean, ge=0, le=100)
    grays_largest: float = Field(ProofTolerances.grays_largest, ge=0, le=100)
    outer_mean: float = Field(ProofTolerances.outer_mean, ge=0, le=100)
    spots: float = Field(ProofTolerances.spots, ge=0, le=100)
    mean: float = Field(ProofTolerances.mean, ge=0, le=100)
    p95: float = Field(ProofTolerances.p95, ge=0, le=100)


class CheckOut(Schema):
    """A requirement, by the name of its tolerance: what was found of how many colors, None where none tells of it."""

    tolerance: str
    what: str
    unit: str
    figure: float | None
    allowed: float
    colors: int
    held: bool | None


class OffOut(Schema):
    """One of the largest errors of a proof."""

    color: str
    delta_e: float
    values: list[float]
    press_lab: list[float]
    proof_lab: list[float]


class ProofOut(Schema):
    """ΔE00 from the press's colors to their proof, with a verdict; `apart` are paper and solids by themselves."""

    press: str
    proofer: str
    colors: int
    mean: float
    p95: float
    p99: float
    largest: float
    over_three_percent: float
    apart: dict[str, float]
    held: bool | None
    verdict: str
    checks: list[CheckOut]
    worst: list[OffOut]


@router.post("/proof", response=ProofOut)
def proof(request: HttpRequest, given: ProofIn) -> ProofJudgement:
    """A proofing system judged, ICC-absolute: the press's colors against what the printer makes of them."""
    return _judged(given)


@router.get("/proof/report", url_name="proof_report", openapi_extra=file_of("text/html"))
def report(request: HttpRequest, given: Query[ProofIn]) -> HttpResponse:
    """The same as a page of HTML, to be printed."""
    return HttpResponse(
        proof_html(_judged(given), f"{datetime.now(UTC):%Y-%m-%d}"), content_type="text/html; charset=utf-8"
    )


def _judged(given: ProofIn) -> ProofJudgement:
    press, printer = house.profile_by_choice(given.press), house.profile_by_choice(given.printer)
    colors = (
        proofed_colors(press, given.side) if given.list_id is None else lists.colors_of(lists.by_id(given.list_id))
    )
    allowed = ProofTolerances(**{name: getattr(given, name) for name in asdict(ProofTolerances())})
    spots = None if given.spots_id is None else lists.colors_of(lists.by_id(given.spots_id))
    return judged(press, printer, colors, allowed, spots)
