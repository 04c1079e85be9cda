"""Printing conditions."""

from datetime import datetime
from typing import Annotated, Any, Literal
from urllib.parse import quote

from django.http import FileResponse, HttpRequest, HttpResponse
from ninja import Field, File, Query, Router, Schema, Status, UploadedFile
from pydantic import BeforeValidator, FiniteFloat

from plinto_core.analysis.cost import InkCost
from plinto_core.files import safe_name
from plinto_core.measurement.chart import chart_text, strip_chart
from plinto_core.press.from_inks import InkNumbers, ink_numbers_from_json
from plinto_core.profiling.build_preview import BuildPreview
from plinto_core.profiling.build_profile import BuildSettings
from plinto_core.profiling.drift import Drift, Tolerances
from plinto_core.profiling.judge import Judgement
from plinto_core.recipe.black import BlackPolicy
from plinto_server.accounts.roles import may, person_of
from plinto_server.conditions import (
    drift,
    intake,
    library,
    numbers,
    presets,
    profile_builds,
    profile_inspection,
    service,
)
from plinto_server.conditions.library import ConditionChange, MediumData
from plinto_server.conditions.models import Condition, Medium, StripReading
from plinto_server.conditions.presets import ListedPreset
from plinto_server.conditions.print_mode import PrintMode, mode_from_json
from plinto_server.conditions.profile_inspection import ProfileFacts, SentThrough
from plinto_server.conditions.reported import ConditionReport
from plinto_server.conditions.service import Gamut, condition_by_slug
from plinto_server.described import file_of
from plinto_server.files import store
from plinto_server.files.uploads import part_of_upload
from plinto_server.records import history

router = Router(tags=["conditions"])


class MediumOut(Schema):
    """What is printed on, as it is bought."""

    id: int
    name: str
    width_mm: float
    length_m: float
    price: float
    currency: str
    cost_per_m2: float
    version: int = 0


class LastStrip(Schema):
    """The latest control strip in short (ΔE00)."""

    measured_at: datetime
    mean: float
    within: bool
    broken: list[str]


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
    status: library.Status
    made_from: str
    medium: MediumOut | None
    tolerances: Tolerances
    last_strip: LastStrip | None
    has_device: bool
    device_inks: list[str]
    ink_costs: dict[str, InkCost]
    smallest_dot_percent: float
    smallest_dot: Literal["raise", "cut"]
    mode: PrintMode
    mode_in_words: str
    from_numbers: bool

    version: int

    @staticmethod
    def resolve_tolerances(condition: Condition) -> Tolerances:
        return drift.tolerances_of(condition)

    @staticmethod
    def resolve_last_strip(condition: Condition) -> dict[str, Any] | None:
        return service.last_strip(condition)

    @staticmethod
    def resolve_mode(condition: Condition) -> PrintMode:
        return mode_from_json(condition.mode)

    @staticmethod
    def resolve_mode_in_words(condition: Condition) -> str:
        return mode_from_json(condition.mode).in_words()

    @staticmethod
    def resolve_has_device(condition: Condition) -> bool:
        return drift.device_for(condition) is not None

    @staticmethod
    def resolve_device_inks(condition: Condition) -> list[str]:
        return list(condition.device_inks or condition.inks)

    @staticmethod
    def resolve_version(condition: Condition) -> int:
        return service.version(condition)


class ConditionDetail(ConditionOut):
    """A condition with what its characterization said."""

    report: ConditionReport

    @staticmethod
    def resolve_report(condition: Condition) -> ConditionReport:
        return ConditionReport.of(condition.report)


class TakenIn(Schema):
    """The run that makes a condition of a file."""

    run_id: int


Version = Annotated[int, Field(ge=0, le=2**31)]
Level = Annotated[float, Query(ge=0, le=1, allow_inf_nan=False)]


class StatusIn(Schema):
    """How far a condition is to be trusted, and the version that was looked at."""

    status: library.Status
    version: Version


class MediumIn(Schema):
    """A medium to make."""

    medium: MediumData


class MediumChange(MediumIn):
    """A changed medium, and the version that was looked at."""

    version: Version


class PresetIn(Schema):
    """Settings to keep under a name, and the version of that name that was looked at, 0 for a new one."""

    name: str = Field(max_length=80)
    total_percent: float = Field(ge=50, le=800)
    black: BlackPolicy
    why: str = Field("", max_length=200)
    version: Version = 0


class ConditionIn(Schema):
    """What is to change, and the version that was looked at."""

    change: ConditionChange
    version: Version


class BuildIn(Schema):
    """Settings of a profile."""

    settings: BuildSettings


class TolerancesIn(Schema):
    """ΔE00 that a condition may be off, and the version that was looked at."""

    tolerances: Tolerances
    version: Version


class StripOut(Schema):
    """A control strip compared with the aims."""

    id: int
    measured_at: datetime
    file_name: str
    drift: Drift


class ThroughIn(Schema):
    """Ink values in percent (`to_lab`) or Lab, at most 500 rows, and a second condition to set beside."""

    values: list[list[FiniteFloat]] = Field(min_length=1, max_length=500)
    to_lab: bool = True
    intent: str = "relative"
    beside: str = ""


def _with_versions(media_: list[Medium]) -> list[Medium]:
    versions = history.versions_of(library.MEDIUM, [str(medium.pk) for medium in media_])
    for medium in media_:
        medium.version = versions.get(str(medium.pk), 0)  # type: ignore[attr-defined]
    return media_


@router.get("", response=list[ConditionOut])
def conditions(request: HttpRequest) -> list[Condition]:
    """All conditions, in the order of the house."""
    return service.listed()


@router.get("/gamuts", response=list[Gamut])
def gamuts(request: HttpRequest, of: str) -> list[Gamut]:
    """Hulls of conditions (slugs) and RGB spaces, comma between them; shares are of the first one."""
    return service.gamuts([key for key in of.split(",") if key])


@router.get("/media", response=list[MediumOut])
def media(request: HttpRequest) -> list[Medium]:
    """All media."""
    return _with_versions(list(Medium.objects.all()))


@router.post("/media", response={201: MediumOut}, auth=may("conditions"))
def add_medium(request: HttpRequest, given: MediumIn) -> Status[Medium]:
    """A new medium."""
    return Status(201, _with_versions([library.save_medium(given.medium, person_of(request))])[0])


@router.put("/media/{medium_id}", response=MediumOut, auth=may("conditions"))
def change_medium(request: HttpRequest, medium_id: int, given: MediumChange) -> Medium:
    """Change a medium; what costs more costs more everywhere at once."""
    medium = library.medium_by_id(medium_id)
    return _with_versions([library.save_medium(given.medium, person_of(request), medium, given.version)])[0]


@router.delete("/media/{medium_id}", response={204: None}, auth=may("conditions"))
def remove_medium(request: HttpRequest, medium_id: int) -> Status[None]:
    """Remove a medium; conditions on it stay."""
    library.remove_medium(library.medium_by_id(medium_id), person_of(request))
    return Status(204, None)


@router.get("/presets", response=list[ListedPreset])
def list_presets(request: HttpRequest) -> list[ListedPreset]:
    """Where a profile's settings start from: by process, and the house's own."""
    return presets.listed()


@router.post("/presets", response={201: ListedPreset}, auth=may("conditions"))
def save_preset(request: HttpRequest, given: PresetIn) -> Status[ListedPreset]:
    """Keep settings as a preset of the house; 409 when somebody else changed it first."""
    values = given.name, given.total_percent, given.black, given.why, given.version
    return Status(201, presets.save(*values, person_of(request)))


@router.delete("/presets", response={204: None}, auth=may("conditions"))
def remove_preset(request: HttpRequest, name: str) -> Status[None]:
    """Remove a preset of the house."""
    presets.remove(name, person_of(request))
    return Status(204, None)


@router.get("/{slug}", response=ConditionDetail)
def condition(request: HttpRequest, slug: str) -> Condition:
    """One condition with its report."""
    return condition_by_slug(slug)


@router.put("/{slug}", response=ConditionOut, auth=may("conditions"))
def change(request: HttpRequest, slug: str, given: ConditionIn) -> Condition:
    """Name, process, notes, limit, medium."""
    return library.change(condition_by_slug(slug), given.change, given.version, person_of(request))


@router.get("/{slug}/build-settings", response=BuildSettings)
def build_settings(request: HttpRequest, slug: str) -> BuildSettings:
    """What its profile was built with."""
    return profile_builds.settings_for(condition_by_slug(slug))


@router.post("/{slug}/variant", response=BuildPreview)
def variant(request: HttpRequest, slug: str, given: BuildIn) -> BuildPreview:
    """What other settings would give: separation of the grays, black point, darkness, gamut."""
    return profile_builds.preview(condition_by_slug(slug), given.settings)


@router.post("/{slug}/build", response={201: TakenIn}, auth=may("conditions"))
def build(request: HttpRequest, slug: str, given: BuildIn) -> Status[TakenIn]:
    """A profile with other settings, as a run; it becomes a condition of its own."""
    run = profile_builds.ask(condition_by_slug(slug), given.settings, person_of(request))
    return Status(201, TakenIn(run_id=run.id))


@router.get("/{slug}/strips", response=list[StripOut])
def strips(request: HttpRequest, slug: str) -> list[StripReading]:
    """All control strips, the oldest first."""
    return list(condition_by_slug(slug).strips.all())


@router.get("/{slug}/strip.txt", openapi_extra=file_of("text/plain"))
def strip_to_print(request: HttpRequest, slug: str) -> HttpResponse:
    """The control strip's ink values as CGATS, to be printed elsewhere."""
    condition = condition_by_slug(slug)
    letters = tuple(condition.inks)
    name = safe_name(f"{condition.name} control strip", "control strip")
    return HttpResponse(
        chart_text(strip_chart(letters), letters), content_type="text/plain; charset=utf-8",
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}.txt"},
    )  # fmt: skip


@router.post("/{slug}/strips", response={201: StripOut}, auth=may("conditions"))
def add_strip(request: HttpRequest, slug: str, file: File[UploadedFile]) -> Status[StripReading]:
    """A measured control strip."""
    return Status(201, drift.take_strip(condition_by_slug(slug), part_of_upload(file), file.name or ""))


@router.post("/{slug}/strips/measured", response={201: StripOut}, auth=may("conditions"))
def measure_strip(request: HttpRequest, slug: str) -> Status[StripReading]:
    """Print a strip on the condition's device and measure it now."""
    return Status(201, drift.measure_strip(condition_by_slug(slug)))


@router.delete("/{slug}/strips/{strip_id}", response={204: None}, auth=may("conditions"))
def forget_strip(request: HttpRequest, slug: str, strip_id: int) -> Status[None]:
    """Take a reading out."""
    drift.forget(condition_by_slug(slug), strip_id, person_of(request))
    return Status(204, None)


@router.put("/{slug}/tolerances", response=ConditionOut, auth=may("conditions"))
def set_tolerances(request: HttpRequest, slug: str, given: TolerancesIn) -> Condition:
    """ΔE00 that it may be off; readings so far are judged anew."""
    return drift.set_tolerances(condition_by_slug(slug), given.tolerances, given.version, person_of(request))


@router.get("/{slug}/facts", response=ProfileFacts)
def facts(request: HttpRequest, slug: str) -> ProfileFacts:
    """Header, tags and curves of its profile."""
    return profile_inspection.facts(profile_inspection.profile_of(slug))


@router.get("/{slug}/plane.png", openapi_extra=file_of("image/png"))
def plane(request: HttpRequest, slug: str, tag: str, level: Level = 0.5) -> HttpResponse:
    """A plane of one of its profile's tables, an output beside the other, black is full."""
    return HttpResponse(
        profile_inspection.plane(profile_inspection.profile_of(slug), tag, level), content_type="image/png"
    )


@router.post("/{slug}/through", response=SentThrough)
def through(request: HttpRequest, slug: str, given: ThroughIn) -> SentThrough:
    """Values through its profile, and through another one beside it."""
    profiles = [profile_inspection.profile_of(each) for each in (slug, given.beside) if each]
    return profile_inspection.send_through(profiles, given.values, given.intent, to_lab=given.to_lab)


@router.get("/{slug}/put-together.icc", openapi_extra=file_of("application/vnd.iccprofile"))
def put_together(request: HttpRequest, slug: str, source: str = "", tags: str = "", name: str = "") -> HttpResponse:
    """Its profile with tags (comma between them) of another condition's, under another name: always a new file."""
    made = profile_inspection.put_together(slug, source, [tag for tag in tags.split(",") if tag], name)
    answer = HttpResponse(made.raw, content_type="application/vnd.iccprofile")
    answer["Content-Disposition"] = f"attachment; filename*=UTF-8''{quote(made.name[:80])}.icc"
    return answer


@router.get("/{slug}/profile", openapi_extra=file_of("application/vnd.iccprofile"))
def profile(request: HttpRequest, slug: str) -> FileResponse:
    """The condition's ICC profile."""
    found = condition_by_slug(slug)
    return FileResponse(
        store.path_of(found.profile_sha256).open("rb"),
        as_attachment=True,
        filename=f"{found.name}.icc",
        content_type="application/vnd.iccprofile",
    )


@router.post("", response={202: TakenIn}, auth=may("conditions"))
def take_in(request: HttpRequest, file: File[UploadedFile]) -> Status[TakenIn]:
    """A condition from an ICC profile or from measurements (CGATS, CxF), as a run; 422 says what is wrong with them."""
    run = intake.take_in(part_of_upload(file), file.name or "", person_of(request))
    return Status(202, TakenIn(run_id=run.id))


def _given_numbers(given: object) -> InkNumbers:
    return given if isinstance(given, InkNumbers) else ink_numbers_from_json(given)


class NumbersIn(Schema):
    """A supplier's numbers; `total_ink_percent` None: as dark as is worth it."""

    numbers: Annotated[InkNumbers, BeforeValidator(_given_numbers)]
    total_ink_percent: float | None = Field(None, ge=50, le=800)


@router.post("/numbers/look", response=numbers.NumbersLook)
def look_at_numbers(request: HttpRequest, given: NumbersIn) -> numbers.NumbersLook:
    """Solids, predicted overprints and gamut of numbers; nothing is kept."""
    return numbers.look(given.numbers)


@router.post("/numbers/make", response={202: TakenIn}, auth=may("conditions"))
def from_numbers(request: HttpRequest, given: NumbersIn) -> Status[TakenIn]:
    """A condition of a supplier's numbers, as a run."""
    return Status(202, TakenIn(run_id=numbers.ask(given.numbers, given.total_ink_percent, person_of(request)).id))


@router.get("/{slug}/numbers", response=InkNumbers)
def its_numbers(request: HttpRequest, slug: str) -> InkNumbers:
    """The numbers that a condition comes from; 422 where it does not."""
    return numbers.numbers_of(condition_by_slug(slug))


@router.get("/{slug}/numbers/patches", openapi_extra=file_of("text/plain"))
def correcting_patches(request: HttpRequest, slug: str) -> HttpResponse:
    """A few patches to print and measure, as CGATS."""
    condition = condition_by_slug(slug)
    disposition = f"attachment; filename*=UTF-8''{quote(f'{condition.name} patches.txt')}"
    text = numbers.patches_for(condition)
    return HttpResponse(text, content_type="text/plain; charset=utf-8", headers={"Content-Disposition": disposition})


@router.post("/{slug}/numbers/correct", response={202: TakenIn}, auth=may("conditions"))
def correct_numbers(request: HttpRequest, slug: str, file: File[UploadedFile]) -> Status[TakenIn]:
    """A condition of the same numbers moved by measured patches, as a run; 422 says what does not fit."""
    run = numbers.correct(condition_by_slug(slug), part_of_upload(file), file.name or "", person_of(request))
    return Status(202, TakenIn(run_id=run.id))


@router.get("/{slug}/judgement", response=Judgement)
def judgement(request: HttpRequest, slug: str) -> Judgement:
    """Round trip, neutrality, dot gain, ink laid down, smoothness and gamut of its profile."""
    return service.judged(condition_by_slug(slug))


@router.put("/{slug}/status", response=ConditionOut, auth=may("conditions"))
def set_status(request: HttpRequest, slug: str, given: StatusIn) -> Condition:
    """Draft, trusted or out of date."""
    return library.set_status(condition_by_slug(slug), given.status, given.version, person_of(request))


@router.delete("/{slug}", response={204: None}, auth=may("conditions"))
def remove(request: HttpRequest, slug: str) -> Status[None]:
    """Remove a condition; files already written stay."""
    service.remove(condition_by_slug(slug), person_of(request))
    return Status(204, None)
