"""The house: rules, profiles, named adjustments."""

from datetime import datetime
from typing import Any
from urllib.parse import quote

from django.http import HttpRequest, JsonResponse
from ninja import Field, File, Router, Schema, Status, UploadedFile

from plinto_core.house_rules import HouseRules
from plinto_core.recipe import Recipe
from plinto_core.recipe.adjustment import Adjustment
from plinto_server.accounts.roles import may, person_of
from plinto_server.described import GivenRecipe, file_of
from plinto_server.files.uploads import part_of_upload
from plinto_server.house import kept_settings, service
from plinto_server.house.models import KeptSettings, RuleSet, SavedAdjustment, StoredProfile
from plinto_server.intake.names import clean_name
from plinto_server.records import history

router = Router(tags=["house"])


class RuleSetOut(Schema):
    """A set of house rules; one of them is in use."""

    id: int
    rules: HouseRules
    in_use: bool
    changed_at: datetime
    version: int


class RulesIn(Schema):
    """A set to make."""

    rules: HouseRules


class RulesChange(RulesIn):
    """A changed set, and the version that was looked at."""

    version: int = Field(ge=0, le=2**31)


class ProfileOut(Schema):
    """A profile that was brought in."""

    sha256: str
    name: str
    space: str
    profile_class: str


class AdjustmentIn(Schema):
    """An adjustment and its name; `version` of the one of that name that was looked at, 0 for a new name."""

    name: str = Field(min_length=1, max_length=80)
    adjustment: Adjustment
    version: int = Field(0, ge=0, le=2**31)


class AdjustmentOut(AdjustmentIn):
    """A named adjustment of the house."""

    id: int


def _out(found: RuleSet, versions: dict[str, int] | None = None) -> dict[str, Any]:
    known = history.versions_of(service.RULES, [str(found.id)]) if versions is None else versions
    return {
        "id": found.id, "rules": service.rules_of(found), "in_use": found.in_use, "changed_at": found.changed_at,
        "version": known.get(str(found.id), 0),
    }  # fmt: skip


def _named(found: list[SavedAdjustment]) -> list[dict[str, Any]]:
    versions = history.versions_of(service.ADJUSTMENT, [each.name for each in found])
    return [
        {"id": each.id, "name": each.name, "adjustment": each.adjustment, "version": versions.get(each.name, 0)}
        for each in found
    ]


@router.get("/rules", response=list[RuleSetOut])
def rule_sets(request: HttpRequest) -> list[dict[str, Any]]:
    """All sets of house rules, by name."""
    found = list(RuleSet.objects.all())
    versions = history.versions_of(service.RULES, [str(each.id) for each in found])
    return [_out(each, versions) for each in found]


@router.post("/rules", response={201: RuleSetOut}, auth=may("house"))
def make_rules(request: HttpRequest, given: RulesIn) -> Status[dict[str, Any]]:
    """Make a set."""
    return Status(201, _out(service.make(given.rules, person_of(request))))


@router.put("/rules/{set_id}", response=RuleSetOut, auth=may("house"))
def change_rules(request: HttpRequest, set_id: int, given: RulesChange) -> dict[str, Any]:
    """Change a set; 409 when somebody else changed it first."""
    return _out(service.change(set_id, given.rules, given.version, person_of(request)))


@router.post("/rules/{set_id}/use", response=RuleSetOut, auth=may("house"))
def use_rules(request: HttpRequest, set_id: int) -> dict[str, Any]:
    """Let this set hold for everyone."""
    return _out(service.use(service.set_by_id(set_id), person_of(request)))


@router.delete("/rules/{set_id}", response={204: None}, auth=may("house"))
def remove_rules(request: HttpRequest, set_id: int) -> Status[None]:
    """Remove a set that is not in use."""
    service.remove(service.set_by_id(set_id), person_of(request))
    return Status(204, None)


@router.get("/rules/{set_id}/file", openapi_extra=file_of("application/json"))
def rules_file(request: HttpRequest, set_id: int) -> JsonResponse:
    """The set as one file to hand on, its profiles inside."""
    found = service.set_by_id(set_id)
    name = quote(f"{found.name} house rules.json")
    return JsonResponse(
        service.export(found),
        json_dumps_params={"indent": 1, "ensure_ascii": False},
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{name}"},
    )


@router.post("/rule-files", response={201: RuleSetOut}, auth=may("house"))
def import_rules(request: HttpRequest, file: File[UploadedFile]) -> Status[dict[str, Any]]:
    """Import an exported set; one of the same name is replaced."""
    part = part_of_upload(file)
    found = service.import_file(part.path, clean_name(file.name or "", "house rules"), person_of(request))
    return Status(201, _out(found))


@router.get("/profiles", response=list[ProfileOut])
def profiles(request: HttpRequest) -> list[StoredProfile]:
    """Profiles that were brought in, by name."""
    return list(StoredProfile.objects.all())


@router.post("/profiles", response={201: ProfileOut})
def take_in_profile(request: HttpRequest, file: File[UploadedFile]) -> Status[StoredProfile]:
    """Bring in an ICC profile; 422 says what is wrong with it, and nothing of it is kept."""
    return Status(201, service.take_in_profile(part_of_upload(file), clean_name(file.name or "", "profile")))


@router.get("/adjustments", response=list[AdjustmentOut])
def adjustments(request: HttpRequest) -> list[dict[str, Any]]:
    """Named adjustments of the house."""
    return _named(list(SavedAdjustment.objects.all()))


@router.post("/adjustments", response={201: AdjustmentOut})
def name_adjustment(request: HttpRequest, given: AdjustmentIn) -> Status[dict[str, Any]]:
    """Keep an adjustment under a name; the same name again replaces it, if its version was looked at."""
    found = service.save_adjustment(given.name, given.adjustment, given.version, person_of(request))
    return Status(201, _named([found])[0])


@router.delete("/adjustments/{adjustment_id}", response={204: None})
def forget_adjustment(request: HttpRequest, adjustment_id: int) -> Status[None]:
    """Forget a named adjustment; artwork that uses it keeps what it has."""
    service.remove_adjustment(adjustment_id, person_of(request))
    return Status(204, None)


class KeptIn(Schema):
    """Settings to keep, as a recipe has them; `version` of those of that name that were looked at, 0 for a new name."""

    station: kept_settings.Station
    name: str = Field(max_length=80)
    inks: list[str] = Field(max_length=8)
    recipe: GivenRecipe
    version: int = 0


class KeptOut(Schema):
    """Kept settings: of `recipe` the station counts, the rest is as usual; `inks` are those that they were made for."""

    id: int
    station: kept_settings.Station
    name: str
    inks: list[str]
    recipe: Recipe
    version: int


def _kept(found: list[KeptSettings]) -> list[KeptOut]:
    keys = [kept_settings.key_of(each.station, each.name) for each in found]
    versions = history.versions_of(kept_settings.KIND, keys)
    return [
        KeptOut.model_validate({
            "id": each.pk, "station": each.station, "name": each.name, "inks": each.inks,
            "recipe": kept_settings.recipe_of(each.station, each.settings), "version": versions.get(key, 0),
        })
        for each, key in zip(found, keys, strict=True)
    ]  # fmt: skip


@router.get("/settings", response=list[KeptOut])
def all_settings(request: HttpRequest) -> list[KeptOut]:
    """Kept settings of every station, by name."""
    return _kept(list(KeptSettings.objects.all()))


@router.post("/settings", response={201: KeptOut})
def keep_settings(request: HttpRequest, given: KeptIn) -> Status[KeptOut]:
    """Keep settings under a name; the same name again replaces them, if their version was looked at."""
    found = kept_settings.save(given.station, given.name, given.inks, given.recipe, given.version, person_of(request))
    return Status(201, _kept([found])[0])


@router.post("/settings/file", response={201: KeptOut})
def import_settings(request: HttpRequest, file: File[UploadedFile]) -> Status[KeptOut]:
    """Import settings that were exported; those of the same name are replaced."""
    part = part_of_upload(file)
    found = kept_settings.from_file(part.path, clean_name(file.name or "", "settings"), person_of(request))
    return Status(201, _kept([found])[0])


@router.get("/settings/{settings_id}/file", openapi_extra=file_of("application/json"))
def export_settings(request: HttpRequest, settings_id: int) -> JsonResponse:
    """Settings as a file for other houses."""
    found = kept_settings.by_id(settings_id)
    disposition = f"attachment; filename*=UTF-8''{quote(f'{found.name}, {found.station}.json')}"
    plain = kept_settings.to_file(found)
    return JsonResponse(plain, json_dumps_params={"indent": 2}, headers={"Content-Disposition": disposition})


@router.delete("/settings/{settings_id}", response={204: None})
def forget_settings(request: HttpRequest, settings_id: int) -> Status[None]:
    """Forget settings; recipes that took them over keep what they have."""
    kept_settings.remove(kept_settings.by_id(settings_id), person_of(request))
    return Status(204, None)
