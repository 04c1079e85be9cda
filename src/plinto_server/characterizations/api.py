"""Characterizations: the steps from a new medium to a judged profile."""

from datetime import datetime
from typing import Any, Literal
from urllib.parse import quote

from django.http import HttpRequest, HttpResponse
from ninja import Field, File, Router, Schema, Status, UploadedFile

from plinto_core.measurement.chart import chart_text
from plinto_server.accounts.roles import may, person_of
from plinto_server.characterizations import analysis, chart_pdf, service
from plinto_server.characterizations.models import Characterization
from plinto_server.characterizations.steps import BuildRequest, StepResult, StepSettings
from plinto_server.conditions.library import medium_by_id
from plinto_server.described import file_of
from plinto_server.devices import devices
from plinto_server.files.uploads import part_of_upload

router = Router(tags=["characterizations"])


class DeviceOut(Schema):
    """A press or printer with its instrument."""

    slug: str
    name: str
    process: str
    inks: list[str]
    lights: list[str]


class StepOut(Schema):
    """A step with its state (open, measuring, done, stale); `live` are colors read so far, sRGB codes."""

    step: str
    state: Literal["open", "measuring", "done", "stale"]
    settings: StepSettings
    result: StepResult
    live: list[int]
    measured_at: str
    run_id: int | None


class CharacterizationOut(Schema):
    """A characterization with its steps in order."""

    id: int
    name: str
    device_slug: str
    medium_id: int | None
    inks: list[str]
    device_inks: list[str]
    condition_slug: str
    changed_at: datetime
    steps: list[StepOut]

    @staticmethod
    def resolve_condition_slug(found: Characterization) -> str:
        return found.condition.slug if found.condition else ""

    @staticmethod
    def resolve_steps(found: Characterization) -> list[dict[str, Any]]:
        empty: dict[str, Any] = {
            "state": "open",
            "settings": {},
            "result": {},
            "live": [],
            "measured_at": "",
            "run_id": None,
        }
        steps = analysis.steps_of(found, service.device_of(found))
        return [{"step": step, **empty, **found.steps.get(step, {})} for step in steps]


class StartIn(Schema):
    """A new characterization; without a device its inks are named, and everything comes in as files."""

    name: str = Field(max_length=400)
    device_slug: str = ""
    inks: list[str] = Field(default_factory=list, max_length=15)
    medium_id: int | None = None


class SettingsIn(Schema):
    """A step's settings."""

    settings: StepSettings


class BuildIn(Schema):
    """What the profile is to be."""

    settings: BuildRequest


@router.get("/devices", response=list[DeviceOut])
def list_devices(request: HttpRequest) -> list[dict[str, Any]]:
    """Presses and printers that the house can measure on."""
    return [
        {"slug": d.slug, "name": d.name, "process": d.process, "inks": list(d.inks), "lights": list(d.lights)}
        for d in devices()
    ]


@router.get("", response=list[CharacterizationOut])
def characterizations(request: HttpRequest) -> list[Characterization]:
    """All, the latest changed first."""
    return list(Characterization.objects.all())


@router.post("", response={201: CharacterizationOut}, auth=may("conditions"))
def start(request: HttpRequest, given: StartIn) -> Status[Characterization]:
    """Begin one."""
    medium = medium_by_id(given.medium_id) if given.medium_id else None
    return Status(201, service.start(given.name, given.device_slug, given.inks, medium))


@router.get("/{characterization_id}", response=CharacterizationOut)
def characterization(request: HttpRequest, characterization_id: int) -> Characterization:
    """One, while it goes on."""
    return service.by_id(characterization_id)


@router.delete("/{characterization_id}", response={204: None}, auth=may("conditions"))
def remove(request: HttpRequest, characterization_id: int) -> Status[None]:
    """Remove it; the condition it led to stays."""
    service.remove(service.by_id(characterization_id), person_of(request))
    return Status(204, None)


@router.put("/{characterization_id}/steps/{step}", response=CharacterizationOut, auth=may("conditions"))
def set_settings(request: HttpRequest, characterization_id: int, step: str, given: SettingsIn) -> Characterization:
    """Decide a step's settings; what comes after it goes stale."""
    return service.set_settings(service.by_id(characterization_id), step, given.settings.plain())


@router.post(
    "/{characterization_id}/steps/{step}/measure", response={201: CharacterizationOut}, auth=may("conditions")
)
def measure(request: HttpRequest, characterization_id: int, step: str) -> Status[Characterization]:
    """Print and measure the step on its device, as a run."""
    service.ask_to_measure(service.by_id(characterization_id), step, person_of(request))
    return Status(201, service.by_id(characterization_id))


@router.post("/{characterization_id}/steps/{step}/file", response=CharacterizationOut, auth=may("conditions"))
def load_file(
    request: HttpRequest, characterization_id: int, step: str, file: File[UploadedFile]
) -> Characterization:
    """Measurements from elsewhere (CGATS, CxF)."""
    return service.load_file(service.by_id(characterization_id), step, part_of_upload(file), file.name or "")


@router.get("/{characterization_id}/steps/{step}/sheet.pdf", openapi_extra=file_of("application/pdf"))
def sheet_pdf(request: HttpRequest, characterization_id: int, step: str, check: bool = False) -> HttpResponse:
    """What the step prints, as PDF in the printer's inks; or a check of what it came to."""
    found = service.by_id(characterization_id)
    answer = HttpResponse(chart_pdf.sheet_pdf(found, step, check=check), content_type="application/pdf")
    answer["Content-Disposition"] = f"attachment; filename*=UTF-8''{quote(f'{found.name} {step}.pdf')}"
    return answer


@router.get("/{characterization_id}/steps/{step}/sheet.txt", openapi_extra=file_of("text/plain"))
def sheet_text(request: HttpRequest, characterization_id: int, step: str) -> HttpResponse:
    """The same as CGATS text, for the instrument."""
    found = service.by_id(characterization_id)
    sheet = analysis.step_chart(found, step)
    answer = HttpResponse(chart_text(sheet.asked, sheet.inks), content_type="text/plain; charset=utf-8")
    answer["Content-Disposition"] = f"attachment; filename*=UTF-8''{quote(f'{found.name} {step}.txt')}"
    return answer


@router.post("/{characterization_id}/build", response={201: CharacterizationOut}, auth=may("conditions"))
def build(request: HttpRequest, characterization_id: int, given: BuildIn) -> Status[Characterization]:
    """Build the profile with these settings, as a run; it becomes a condition in draft."""
    asked = given.settings
    service.ask_to_build(
        service.by_id(characterization_id), asked.plain(), person_of(request), asked.light, asked.smoothing
    )  # fmt: skip
    return Status(201, service.by_id(characterization_id))


@router.post("/{characterization_id}/judge", response=CharacterizationOut, auth=may("conditions"))
def judge(request: HttpRequest, characterization_id: int) -> Characterization:
    """The profile is good: its condition is trusted from now on."""
    return service.judge(service.by_id(characterization_id), person_of(request))
