"""Color lists and routes: taken in, sent along, sorted and paged, written."""

from datetime import datetime
from typing import Annotated, Any, Literal
from urllib.parse import quote

import numpy as np
from django.http import HttpRequest, HttpResponse
from ninja import Field, File, Router, Schema, Status, UploadedFile
from numpy.typing import NDArray

from plinto_core.analysis.cloud import screen_codes
from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.colorimetry.spectra import Illuminant
from plinto_core.errors import PipelineError
from plinto_core.pipeline.space import space_of
from plinto_core.policy.spots import Spot
from plinto_core.route import written
from plinto_core.route.color_list import MOST_COLORS, grid_of
from plinto_core.route.list_out import written_list
from plinto_core.route.route import OUT
from plinto_core.route.station import Station
from plinto_server.accounts.roles import person_of
from plinto_server.artworks.service import artwork_by_id
from plinto_server.colors import lists, routes
from plinto_server.colors.models import ColorList, Route
from plinto_server.colors.routes import Between, Step
from plinto_server.described import file_of
from plinto_server.files.uploads import part_of_upload
from plinto_server.house import service as house
from plinto_server.intake.names import clean_name
from plinto_server.records import history
from plinto_server.removals import bin as removals

router = Router(tags=["colors"])

_MOST_POINTS = 20_000
Pixel = Annotated[int, Field(ge=0, le=1_000_000)]


class ListOut(Schema):
    """A list: how many colors of which channels, and the artwork that it was sampled from."""

    id: int
    name: str
    channels: list[str]
    count: int
    artwork_id: int | None
    made_at: datetime


class TypedIn(Schema):
    """Typed or pasted colors."""

    name: str = Field(max_length=120)
    text: str = Field(max_length=8_000_000)


class SampleIn(Schema):
    """A rectangle of artwork (left, top, width, height in pixels) as `across` × `down` fields."""

    artwork_id: int
    rectangle: tuple[Pixel, Pixel, Pixel, Pixel]
    across: int = Field(8, ge=1, le=1000)
    down: int = Field(6, ge=1, le=1000)


class GridIn(Schema):
    """Every combination of `side` steps of each channel of a profile."""

    profile: str = Field(max_length=64)
    side: int = Field(9, ge=2, le=100)


class RouteIn(Schema):
    """A route to keep, and the version that was looked at (0 for a new one)."""

    name: str = Field(max_length=120)
    steps: list[Step] = Field(max_length=routes.MOST_STEPS)
    version: int = 0


class RouteOut(Schema):
    """A kept route."""

    id: int
    name: str
    steps: list[Step]
    version: int


class TravelIn(Schema):
    """A list along steps: which rows, in which order, and between which two columns ΔE00 is told.

    `sort` is 'given', 'name', 'difference', or 'L', 'C', 'h' with a column: 'C:1'. `over` keeps rows with a larger ΔE00.
    Under another `light` than D50, ΔE00 is what it makes of two colors with spectra that match under D50.
    """

    list_id: int
    steps: list[Step] = Field(max_length=routes.MOST_STEPS)
    first: int = Field(0, ge=0, le=routes.MOST_STEPS)
    second: int = Field(1, ge=0, le=routes.MOST_STEPS)
    light: Illuminant = "D50"
    sort: str = Field("given", max_length=12)
    descending: bool = False
    search: str = Field("", max_length=100)
    over: float = Field(0.0, ge=0, le=200)
    offset: int = Field(0, ge=0, le=MOST_COLORS)
    limit: int = Field(100, ge=1, le=1000)


class ColumnOut(Schema):
    """What stands in a column: a step's name and channels; `is_lab` where its values are Lab themselves, `has_color`
    where the numbers mean a color."""

    name: str
    channels: list[str]
    is_lab: bool
    has_color: bool


class CellOut(Schema):
    """A color after one step: its values (percent of inks, 0 to 255 of RGB, Lab), Lab and LCh, None where unknown."""

    values: list[float]
    lab: list[float] | None
    lch: list[float] | None
    swatch: str
    out_of_gamut: bool


class RowOut(Schema):
    """A color of the list; `place` are the pixels it was sampled at."""

    index: int
    name: str
    cells: list[CellOut]
    difference: float | None
    place: list[int] | None


class TravelOut(Schema):
    """Columns, the rows that were asked for, how many there are, and figures between the two columns over all colors; where
    there are none, `unknown` says why."""

    columns: list[ColumnOut]
    rows: list[RowOut]
    total: int
    between: Between | None
    unknown: str
    worst_name: str


class SpanIn(TravelIn):
    """Colors that stand beside each other in an order: from `offset` to before `until`."""

    until: int = Field(ge=0, le=MOST_COLORS)


class PointsIn(TravelIn):
    """Colors for the view in space: `rows` are the chosen ones (none: all that are left by search and `over`)."""

    rows: list[int] = Field(default_factory=list, max_length=MOST_COLORS)


class PointsOut(Schema):
    """Colors as points with an sRGB code each, arrows to the second column, the share out of gamut (0…1); of sampled ones,
    the pixels they are from. `rows` and `arrow_rows` are their places in the list; `complete` where none of what was asked
    for was left out for there being too many."""

    rows: list[int]
    arrow_rows: list[int]
    complete: bool
    lab: list[list[float]]
    rgb: list[int]
    arrows: list[list[float]]
    outside_share: float
    places: list[list[int]]


class WriteIn(Schema):
    """A route to write: a device link, or its look as an abstract profile; `points` a channel (0: as fits), ICC version
    and bits of its table."""

    kind: Literal["link", "abstract"]
    name: str = Field(max_length=120)
    steps: list[Step] = Field(max_length=routes.MOST_STEPS)
    points: int = Field(0, ge=0, le=100)
    version: Literal[2, 4] = 4
    bits: Literal[8, 16] = 16


@router.get("/lists", response=list[ListOut])
def all_lists(request: HttpRequest) -> list[ColorList]:
    """Every list, by name."""
    return list(ColorList.objects.defer("values", "names", "places"))


@router.post("/lists", response={201: ListOut})
def take_in(request: HttpRequest, file: File[UploadedFile]) -> Status[ColorList]:
    """Import a list: CGATS, CxF, a table, ICC named colors, typed lines; 422 says what is wrong, and nothing is kept."""
    part = part_of_upload(file)
    return Status(201, lists.take_in(part.path, clean_name(file.name or "", "colors"), person_of(request)))


@router.post("/lists/typed", response={201: ListOut})
def typed(request: HttpRequest, given: TypedIn) -> Status[ColorList]:
    """A list of typed or pasted colors."""
    return Status(201, lists.typed(given.name, given.text, person_of(request)))


@router.post("/lists/sampled", response={201: ListOut})
def sampled(request: HttpRequest, given: SampleIn) -> Status[ColorList]:
    """A rectangle of artwork as a grid of samples."""
    artwork = artwork_by_id(given.artwork_id)
    made = lists.of_artwork(artwork, given.rectangle, given.across, given.down, person_of(request))
    return Status(201, made)


class PinsIn(Schema):
    """The artwork whose pins become a list."""

    artwork_id: int


@router.post("/lists/pins", response={201: ListOut})
def from_pins(request: HttpRequest, given: PinsIn) -> Status[ColorList]:
    """The colors under an artwork's pins."""
    return Status(201, lists.of_pins(artwork_by_id(given.artwork_id), person_of(request)))


@router.post("/lists/grid", response={201: ListOut})
def gridded(request: HttpRequest, given: GridIn) -> Status[ColorList]:
    """Every combination of even steps of a profile's channels."""
    profile = house.profile_by_choice(given.profile)
    colors = grid_of(space_of(profile).channels, given.side)
    return Status(201, lists.keep(f"Grid of {given.side}, {profile.name}", colors, person_of(request)))


@router.delete("/lists/{list_id}", response={204: None})
def remove_list(request: HttpRequest, list_id: int) -> Status[None]:
    """Remove a list."""
    found = lists.by_id(list_id)
    removals.remove([found], found.name, person_of(request), "artwork")
    return Status(204, None)


@router.get("/lists/{list_id}/spots", response=list[Spot])
def as_spots(request: HttpRequest, list_id: int) -> list[Spot]:
    """The colors of a list as spot inks that a policy may know by their names."""
    return list(lists.as_spots(lists.by_id(list_id)))


@router.get("/lists/{list_id}/file", openapi_extra=file_of("application/octet-stream"))
def list_file(
    request: HttpRequest, list_id: int, kind: Literal["cgats", "csv", "cxf", "icc"] = "cgats", profile: str = ""
) -> HttpResponse:  # fmt: skip
    """A list in an open format; `profile` says what device values mean."""
    found = lists.by_id(list_id)
    colors = lists.colors_of(found)
    lab = None if colors.is_lab or not profile else routes.travelled(found, [Step(profile)])[0].lab
    ending = {"cgats": "txt", "csv": "csv", "cxf": "cxf", "icc": "icc"}[kind]
    return _download(written_list(colors, lab, kind, found.name), f"{found.name}.{ending}")


def _download(data: bytes, name: str) -> HttpResponse:
    disposition = f"attachment; filename*=UTF-8''{quote(clean_name(name, 'colors'))}"
    return HttpResponse(data, content_type="application/octet-stream", headers={"Content-Disposition": disposition})


@router.post("/travel", response=TravelOut)
def travel(request: HttpRequest, given: TravelIn) -> TravelOut:
    """A list along a route, a page of it."""
    found, stations, one, other = _two_columns(given)
    off, figures, unknown = routes.between(one, other, given.light)
    rows = routes.ordered(found, stations, off, given.sort, given.descending, given.search, given.over)
    page = rows[given.offset : given.offset + given.limit]
    cells = [_cells(station, page, stations[at - 1] if at else None) for at, station in enumerate(stations)]
    told = [
        RowOut(
            index=int(row), name=found.names[row], cells=[column[at] for column in cells],
            difference=None if np.isnan(off[row]) else round(float(off[row]), 3),
            place=found.places[row] if found.places else None,
        )
        for at, row in enumerate(page)
    ]  # fmt: skip
    columns = [
        ColumnOut(
            name=each.name, channels=list(each.channels), is_lab=each.channels == ("L*", "a*", "b*"),
            has_color=not bool(np.isnan(each.lab).any()),
        )
        for each in stations
    ]  # fmt: skip
    worst = found.names[figures.worst] if figures else ""
    return TravelOut(
        columns=columns, rows=told, total=len(rows), between=figures, unknown=unknown, worst_name=worst
    )  # fmt: skip


def _cells(station: Station, page: NDArray[np.int64], before: Station | None) -> list[CellOut]:
    values, lab, lch = station.values[page], station.lab[page], station.lch[page]
    scale = 1.0 if station.channels == ("L*", "a*", "b*") else 255.0 if station.channels == ("R", "G", "B") else 100.0
    known = np.asarray(~np.isnan(lab).any(axis=1))
    codes = screen_codes(np.where(known[:, None], lab, 0.0)) if len(lab) else []
    out = np.zeros(len(lab), bool)
    if before is not None and len(lab):
        step = np.asarray(delta_e_2000(before.lab[page], lab))
        out = np.nan_to_num(step) > OUT
    return [
        CellOut(
            values=[round(float(v) * scale, 3) for v in values[at]],
            lab=[round(float(v), 2) for v in lab[at]] if known[at] else None,
            lch=[round(float(v), 2) for v in lch[at]] if known[at] else None,
            swatch=f"#{codes[at]:06x}" if known[at] else "", out_of_gamut=bool(out[at]),
        )
        for at in range(len(lab))
    ]  # fmt: skip


@router.post("/rows", response=list[int])
def rows_between(request: HttpRequest, given: SpanIn) -> list[int]:
    """Which colors stand between two places of a list as it is sorted and searched."""
    found, stations, one, other = _two_columns(given)
    off, *_ = routes.between(one, other, given.light)
    rows = routes.ordered(found, stations, off, given.sort, given.descending, given.search, given.over)
    return [int(each) for each in rows[given.offset : given.until]]


def _two_columns(given: TravelIn) -> tuple[ColorList, tuple[Station, ...], Station, Station]:
    """The list, all its columns, and the two between which ΔE00 is told."""
    found = lists.by_id(given.list_id)
    stations = routes.travelled(found, given.steps)
    one, other = (stations[min(at, len(stations) - 1)] for at in (given.first, given.second))
    return found, stations, one, other


@router.post("/points", response=PointsOut)
def points(request: HttpRequest, given: PointsIn) -> dict[str, Any]:
    """Colors of the first column as points, with arrows to the second; of more than 20,000 an even choice."""
    found, stations, one, other = _two_columns(given)
    off, *_ = routes.between(one, other, given.light)
    rows = np.array([each for each in given.rows if each < found.count], int)
    if not given.rows:
        rows = routes.ordered(found, stations, off, "given", False, given.search, given.over)
    step = max(1, -(-len(rows) // _MOST_POINTS))
    rows = rows[::step]
    rows = rows[~np.isnan(one.lab[rows]).any(axis=1)]
    lab = one.lab[rows]
    arrow_rows = rows[~np.isnan(off[rows])] if one is not other else rows[:0]
    arrows = np.hstack([one.lab[arrow_rows], other.lab[arrow_rows]])
    outside = float((np.nan_to_num(off[rows]) > OUT).mean()) if len(rows) else 0.0
    # Plain values: ten thousand floats are looked through once, by the answer.
    return {
        "rows": rows.tolist(), "lab": lab.round(2).tolist(), "rgb": screen_codes(lab) if len(lab) else [],
        "arrow_rows": arrow_rows.tolist(), "arrows": arrows.round(2).tolist(), "complete": step == 1,
        "outside_share": outside, "places": [found.places[row] for row in rows] if found.places else [],
    }  # fmt: skip


@router.post("/write", openapi_extra=file_of("application/octet-stream"))
def write(request: HttpRequest, given: WriteIn) -> HttpResponse:
    """A route as an ICC profile; how near it comes to the route stands in the header X-Plinto-Fit (ΔE00)."""
    way = routes.waypoints(given.steps)
    if not way:
        raise PipelineError("A route needs one profile at least.")
    form = written.TableForm(given.version, given.bits, given.points)
    made = (written.route_link if given.kind == "link" else written.route_look)(way, given.name, form)
    answer = _download(made.profile.raw, f"{given.name or made.profile.name}.icc")
    answer["X-Plinto-Fit"] = f"mean {made.mean:.2f}, 99 % {made.p99:.2f}, largest {made.largest:.2f}"
    return answer


def _route(found: Route, version: int) -> RouteOut:
    return RouteOut(
        id=found.id, name=found.name, steps=[routes.step_of(each) for each in found.steps], version=version
    )


@router.get("/routes", response=list[RouteOut])
def all_routes(request: HttpRequest) -> list[RouteOut]:
    """Kept routes, by name."""
    found = list(Route.objects.all())
    versions = history.versions_of(routes.ROUTE, [str(each.id) for each in found])
    return [_route(each, versions.get(str(each.id), 0)) for each in found]


@router.post("/routes", response={201: RouteOut})
def keep_route(request: HttpRequest, given: RouteIn) -> Status[RouteOut]:
    """Keep a new route."""
    found = routes.save(given.name, given.steps, 0, person_of(request))
    return Status(201, _route(found, history.version_of(routes.ROUTE, str(found.id))))


@router.put("/routes/{route_id}", response=RouteOut)
def change_route(request: HttpRequest, route_id: int, given: RouteIn) -> RouteOut:
    """Change a route; 409 where somebody else did meanwhile."""
    found = routes.save(given.name, given.steps, given.version, person_of(request), route_id)
    return _route(found, history.version_of(routes.ROUTE, str(found.id)))


@router.delete("/routes/{route_id}", response={204: None})
def remove_route(request: HttpRequest, route_id: int) -> Status[None]:
    """Remove a route."""
    routes.remove(routes.by_id(route_id), person_of(request))
    return Status(204, None)
