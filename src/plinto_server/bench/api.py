"""The Bench: recipe, picture, figures, trace, pins."""

import tempfile
from datetime import datetime
from pathlib import Path
from typing import Annotated, Literal

import numpy as np
from django.http import HttpRequest, HttpResponse
from ninja import Field, Router, Schema, Status
from pydantic import FiniteFloat

from plinto_core.analysis.cloud import Cloud
from plinto_core.analysis.cost import Cost
from plinto_core.analysis.figures import Coverage, Differences, Loss
from plinto_core.analysis.hits import ColorCluster
from plinto_core.analysis.palette import PaletteVerdict, check_palette, parse_palette
from plinto_core.deliver.tone_table import from_cube, parse_wedge, table_from_wedge, to_cube
from plinto_core.deliver.wedge_sheet import write_wedge_sheet
from plinto_core.raster.pyramid import Window
from plinto_core.recipe import Recipe
from plinto_core.recipe.black import BLACK_PRESETS, BlackPolicy
from plinto_core.recipe.film import FilmSettings, ToneTable
from plinto_core.screen.proof import ColorFamily, HueRange, Marks, RenderRequest
from plinto_server.accounts.roles import person_of
from plinto_server.artworks.service import artwork_by_id
from plinto_server.bench import engine, recipes, reports
from plinto_server.bench.models import Pin
from plinto_server.bench.readout import Readout, readouts
from plinto_server.conditions.service import condition_by_slug
from plinto_server.described import GivenRecipe, file_of
from plinto_server.errors import MissingError
from plinto_server.records.api import ChangeOut
from plinto_server.removals import bin as removals
from plinto_server.warm.png import encode_png, encode_sketch

router = Router(tags=["bench"])
report_router = Router(tags=["conditions"])

MAX_SCREEN = 4096
#: Larger than any side of a picture; beyond it a number is no place.
_FAR = 10_000_000
Code = Annotated[int, Field(ge=0, le=255)]
Place = Annotated[int, Field(ge=0, le=_FAR)]


class RecipeStateOut(Schema):
    """The recipe in force; `version` goes back with the next change."""

    recipe: Recipe
    version: int
    can_undo: bool
    can_redo: bool
    changed_by: str
    changed_at: datetime | None


class PastOut(Schema):
    """One state of the settings, with what differs from the one before; number 0 is how it began."""

    number: int
    by: str
    at: datetime | None
    in_force: bool
    changes: list[ChangeOut]


class SaveRecipe(Schema):
    """A changed recipe, and the version that was changed."""

    recipe: GivenRecipe
    version: int


class StepRecipe(Schema):
    """Undo, redo, or to a state of the history (`number`), and the version that was looked at."""

    version: int
    direction: Literal["undo", "redo", "to"]
    number: int = Field(0, ge=0)


class WindowIn(Schema):
    """Part of the artwork: left top corner in its pixels, size in screen pixels, screen pixels a pixel."""

    left: float = Field(ge=0, le=_FAR)
    top: float = Field(ge=0, le=_FAR)
    width: int = Field(ge=1, le=MAX_SCREEN)
    height: int = Field(ge=1, le=MAX_SCREEN)
    zoom: float = Field(ge=1e-4, le=64)


class FamilyIn(Schema):
    """A family of wanted colors: its middle (Lab) and radius (ΔE*ab)."""

    lab: tuple[FiniteFloat, FiniteFloat, FiniteFloat]
    radius: float = Field(gt=0, le=200)


class HueIn(Schema):
    """A range of CIELAB hue angles of the artwork, in degrees: its middle and whole width."""

    center_deg: float = Field(ge=0, le=360)
    width_deg: float = Field(gt=0, le=360)


class ViewIn(Schema):
    """What is shown, and what is marked; `display` is a space's name or a profile's digest."""

    show: Literal["artwork", "adjusted", "print", "coverage", "difference", "film", "negative"] = "print"
    substrate: bool = False
    black_depth: bool = True
    plates: list[str] = Field(default_factory=list)
    tint: Literal["ink", "gray"] = "ink"
    mark: Literal["", "gamut", "loss", "display", "family", "hue", "region"] = ""
    family: FamilyIn | None = None
    hue: HueIn | None = None
    region: str = ""
    tolerance: float = Field(3.0, ge=0.5, le=30)
    mark_color: tuple[Code, Code, Code] = (255, 255, 255)
    mark_angle_deg: float = Field(38.0, ge=-360, le=360)
    display: str = "sRGB"

    def view(self) -> RenderRequest:
        """The core's view."""
        family = ColorFamily(self.family.lab, self.family.radius) if self.family else None
        hue = HueRange(self.hue.center_deg, self.hue.width_deg) if self.hue else None
        marks = Marks(self.tolerance, self.mark_color, self.mark_angle_deg)
        return RenderRequest(
            self.show, self.substrate, self.black_depth, tuple(self.plates), self.tint, self.mark, family, hue,
            self.region, marks,
        )  # fmt: skip


class PictureIn(Schema):
    """A recipe, saved or still moving, and what to show of it; `sketch` for a small picture first, over a thin line."""

    recipe: GivenRecipe
    view: ViewIn
    window: WindowIn
    sketch: bool = False


class FiguresIn(Schema):
    """A recipe and the tolerance from which a color counts as out of gamut."""

    recipe: GivenRecipe
    tolerance: float = Field(3.0, ge=0.5, le=30)


class InkIn(FiguresIn):
    """A recipe, and how many copies are to be printed."""

    copies: int = Field(1, ge=1, le=10_000_000)


class InkFigures(Schema):
    """Coverage over the artwork and the inks of the gray axis (light to dark, fractions); what the copies take and cost,
    where the artwork has a size."""

    coverage: Coverage
    cost: Cost | None
    gray_axis: dict[str, list[float]]
    black_point_lab: list[float]


class HitOut(Schema):
    """A family of colors with what the screen shows of it."""

    family: ColorCluster
    wanted_swatch: str
    printed_swatch: str


class PaletteIn(FiguresIn):
    """Text of colors: hex, Lab or CGATS."""

    text: str = Field(max_length=200_000)


class PaletteOut(Schema):
    """A color's verdict with what the screen shows of it."""

    verdict: PaletteVerdict
    swatch: str
    printed_swatch: str


class DisplayGapIn(Schema):
    """A display, and whether the substrate is shown."""

    display: str
    substrate: bool = False


class DisplayGap(Schema):
    """Share (0…1) of the condition's gamut that the display cannot show."""

    share: float


class ToneTableIn(Schema):
    """A measured wedge or a .cube, as text."""

    kind: Literal["wedge", "cube"]
    text: str = Field(max_length=4_000_000)


class CubeIn(Schema):
    """A tone table to be written as .cube."""

    table: ToneTable
    title: str = Field("tone table", max_length=120)


class WedgeIn(Schema):
    """The film that a wedge is written as."""

    film: FilmSettings


class TraceIn(Schema):
    """Pixels (x, y) to follow down the line."""

    recipe: GivenRecipe
    points: list[tuple[Place, Place]] = Field(max_length=200)


class PinIn(Schema):
    """A place on the artwork."""

    x: Place
    y: Place
    name: str = Field("", max_length=40)


class PinOut(PinIn):
    """A pin."""

    id: int


@router.get("/black-kinds", response=dict[str, BlackPolicy])
def black_kinds(request: HttpRequest) -> dict[str, BlackPolicy]:
    """The trade's kinds of black generation as values of its settings."""
    return BLACK_PRESETS


@router.get("/{artwork_id}/{slug}/recipe", response=RecipeStateOut)
def recipe(request: HttpRequest, artwork_id: int, slug: str) -> recipes.RecipeState:
    """The settings in force for this artwork in this condition."""
    return recipes.current(artwork_by_id(artwork_id), condition_by_slug(slug))


@router.put("/{artwork_id}/{slug}/recipe", response=RecipeStateOut)
def save_recipe(request: HttpRequest, artwork_id: int, slug: str, given: SaveRecipe) -> recipes.RecipeState:
    """Keep changed settings; 409 when somebody else changed them first."""
    user = request.user if request.user.is_authenticated else None
    found = artwork_by_id(artwork_id), condition_by_slug(slug)
    return recipes.save(*found, given.recipe, given.version, user)


@router.get("/{artwork_id}/{slug}/recipe/history", response=list[PastOut])
def recipe_history(request: HttpRequest, artwork_id: int, slug: str) -> list[recipes.Past]:
    """Who changed what and when, the newest first."""
    return recipes.past(artwork_by_id(artwork_id), condition_by_slug(slug))


@router.post("/{artwork_id}/{slug}/recipe/step", response=RecipeStateOut)
def step_recipe(request: HttpRequest, artwork_id: int, slug: str, given: StepRecipe) -> recipes.RecipeState:
    """Undo, redo, or go to a state of the history."""
    if given.direction == "to":
        return recipes.go_to(artwork_by_id(artwork_id), condition_by_slug(slug), given.number, given.version)
    by = -1 if given.direction == "undo" else 1
    return recipes.step(artwork_by_id(artwork_id), condition_by_slug(slug), given.version, by)


@router.post("/{artwork_id}/{slug}/picture", openapi_extra=file_of("image/png", "image/webp"))
def picture(request: HttpRequest, artwork_id: int, slug: str, given: PictureIn) -> HttpResponse:
    """The picture of what is visible: exact as PNG, as a sketch in WebP."""
    window = Window(**given.window.dict())
    found = artwork_by_id(artwork_id), condition_by_slug(slug)
    pixels = engine.picture(*found, given.recipe, given.view.view(), window, given.view.display)
    if given.sketch:
        return HttpResponse(encode_sketch(pixels), content_type="image/webp")
    return HttpResponse(encode_png(pixels), content_type="image/png")


@router.post("/{artwork_id}/{slug}/differences", response=Differences)
def differences(request: HttpRequest, artwork_id: int, slug: str, given: FiguresIn) -> Differences:
    """ΔE00 over the artwork and the share out of gamut."""
    return engine.gamut_figures(artwork_by_id(artwork_id), condition_by_slug(slug), given.recipe, given.tolerance)


@router.post("/{artwork_id}/{slug}/ink", response=InkFigures)
def ink_figures(request: HttpRequest, artwork_id: int, slug: str, given: InkIn) -> InkFigures:
    """Coverage, the gray axis and the black point."""
    artwork, condition = artwork_by_id(artwork_id), condition_by_slug(slug)
    line = engine.chain(artwork, condition, given.recipe)
    axis = engine.gray_axis(artwork, condition, given.recipe)
    coverage = engine.coverage_figures(artwork, condition, given.recipe)
    return InkFigures(
        coverage=coverage,
        cost=engine.cost(artwork, condition, coverage, given.copies),
        gray_axis={ink: axis[:, i].tolist() for i, ink in enumerate(condition.inks)},
        black_point_lab=line.condition.model.lab(axis[-1]).tolist(),
    )


@router.post("/{artwork_id}/{slug}/loss", response=Loss)
def ink_loss(request: HttpRequest, artwork_id: int, slug: str, given: FiguresIn) -> Loss:
    """ΔE00 between the print with all inks and without those left out."""
    return engine.loss_figures(artwork_by_id(artwork_id), condition_by_slug(slug), given.recipe, given.tolerance)


@router.post("/{artwork_id}/{slug}/hits", response=list[HitOut])
def hits(request: HttpRequest, artwork_id: int, slug: str, given: FiguresIn) -> list[HitOut]:
    """The families of colors that the print misses by most."""
    found = engine.hits(artwork_by_id(artwork_id), condition_by_slug(slug), given.recipe, given.tolerance)
    shown = engine.swatches([lab for f in found for lab in (np.array(f.wanted_lab), np.array(f.printed_lab))])
    pairs = zip(found, shown[::2], shown[1::2], strict=True)
    return [HitOut(family=f, wanted_swatch=wanted, printed_swatch=printed) for f, wanted, printed in pairs]


@router.post("/{artwork_id}/{slug}/palette", response=list[PaletteOut])
def palette(request: HttpRequest, artwork_id: int, slug: str, given: PaletteIn) -> list[PaletteOut]:
    """Which colors of a text print here, and the nearest that does."""
    line = engine.chain(artwork_by_id(artwork_id), condition_by_slug(slug), given.recipe)
    found = check_palette(line, parse_palette(given.text), given.tolerance)
    shown = engine.swatches([lab for v in found for lab in (np.array(v.lab), np.array(v.printed_lab))])
    pairs = zip(found, shown[::2], shown[1::2], strict=True)
    return [PaletteOut(verdict=v, swatch=wanted, printed_swatch=printed) for v, wanted, printed in pairs]


@router.post("/{artwork_id}/{slug}/histogram", response=dict[str, list[float]])
def histogram(request: HttpRequest, artwork_id: int, slug: str, given: FiguresIn) -> dict[str, list[float]]:
    """How the artwork's channels and its lightness L are spread."""
    return engine.channel_histogram(artwork_by_id(artwork_id), condition_by_slug(slug), given.recipe)


@router.post("/{artwork_id}/{slug}/cloud", response=Cloud)
def cloud(request: HttpRequest, artwork_id: int, slug: str, given: FiguresIn) -> Cloud:
    """The artwork's colors as a cloud in Lab, with arrows from wanted to printed."""
    return engine.cloud(artwork_by_id(artwork_id), condition_by_slug(slug), given.recipe, given.tolerance)


@report_router.get("/{slug}/report.html", openapi_extra=file_of("text/html"))
def report(request: HttpRequest, slug: str, artwork: int | None = None) -> HttpResponse:
    """The judgement of a condition as a page that prints, with an artwork before and after."""
    found = artwork_by_id(artwork) if artwork else None
    return HttpResponse(reports.report(condition_by_slug(slug), found), content_type="text/html; charset=utf-8")


@router.post("/conditions/{slug}/display-gap", response=DisplayGap)
def display_gap(request: HttpRequest, slug: str, given: DisplayGapIn) -> DisplayGap:
    """How much of the condition a display cannot show."""
    return DisplayGap(share=engine.display_gap(condition_by_slug(slug), given.display, given.substrate))


@router.post("/tone-tables", response=ToneTable)
def read_tone_table(request: HttpRequest, given: ToneTableIn) -> ToneTable:
    """A tone table from a measured wedge or a .cube."""
    return table_from_wedge(parse_wedge(given.text)) if given.kind == "wedge" else from_cube(given.text)


@router.post("/tone-tables/cube", openapi_extra=file_of("text/plain"))
def write_tone_table(request: HttpRequest, given: CubeIn) -> HttpResponse:
    """The table as .cube text."""
    return HttpResponse(to_cube(given.table, given.title), content_type="text/plain; charset=utf-8")


@router.post("/wedges", openapi_extra=file_of("application/pdf", "image/tiff"))
def write_wedge(request: HttpRequest, given: WedgeIn) -> HttpResponse:
    """A step wedge as the negative's film, to expose, measure and make a tone table of."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "wedge"
        write_wedge_sheet(path, given.film)
        kind = "application/pdf" if given.film.container == "pdf" else "image/tiff"
        return HttpResponse(path.read_bytes(), content_type=kind)


@router.post("/{artwork_id}/{slug}/trace", response=list[Readout])
def trace(request: HttpRequest, artwork_id: int, slug: str, given: TraceIn) -> list[Readout]:
    """Colors at every station of the line."""
    return readouts(artwork_by_id(artwork_id), condition_by_slug(slug), given.recipe, given.points)


@router.get("/{artwork_id}/pins", response=list[PinOut])
def pins(request: HttpRequest, artwork_id: int) -> list[Pin]:
    """The artwork's pins, in the order in which they were dropped."""
    return list(artwork_by_id(artwork_id).pins.all())


@router.post("/{artwork_id}/pins", response={201: PinOut})
def drop_pin(request: HttpRequest, artwork_id: int, given: PinIn) -> Status[Pin]:
    """Drop a pin."""
    return Status(201, Pin.objects.create(artwork=artwork_by_id(artwork_id), **given.dict()))


@router.delete("/{artwork_id}/pins/{pin_id}", response={204: None})
def take_pin(request: HttpRequest, artwork_id: int, pin_id: int) -> Status[None]:
    """Take a pin off."""
    found = artwork_by_id(artwork_id).pins.filter(id=pin_id).first()
    if found is None:
        raise MissingError("This pin is not here any more.")
    removals.remove([found], "A pin", person_of(request), "artwork")
    return Status(204, None)
