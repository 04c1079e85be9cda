"""The house: rules, profiles, named adjustments."""

import json
from datetime import datetime
from typing import Any
from urllib.parse import quote

from django.http import HttpRequest, JsonResponse
from ninja import Field, File, Router, Schema, Status, UploadedFile

from plinto_core.adjust.adjustment import Adjustment
from plinto_core.errors import IccError, RecipeError
from plinto_core.house_rules import HouseRules
from plinto_core.icc.profile import parse
from plinto_server.errors import MissingError
from plinto_server.house import service
from plinto_server.house.models import RuleSet, SavedAdjustment, StoredProfile

router = Router(tags=["house"])

MAX_PROFILE_BYTES = 64 << 20


class RuleSetOut(Schema):
    """A set of house rules; one of them is in use."""

    id: int
    rules: HouseRules
    in_use: bool
    changed_at: datetime


class RulesIn(Schema):
    """A set to make or to change."""

    rules: HouseRules


class ProfileOut(Schema):
    """A profile that was brought in."""

    sha256: str
    name: str
    space: str
    profile_class: str


class AdjustmentIn(Schema):
    """An adjustment and its name."""

    name: str = Field(min_length=1, max_length=80)
    adjustment: Adjustment


class AdjustmentOut(AdjustmentIn):
    """A named adjustment of the house."""

    id: int


def _out(found: RuleSet) -> dict[str, Any]:
    return {"id": found.id, "rules": service.rules_of(found), "in_use": found.in_use, "changed_at": found.changed_at}


@router.get("/rules", response=list[RuleSetOut])
def rule_sets(request: HttpRequest) -> list[dict[str, Any]]:
    """All sets of house rules, by name."""
    return [_out(found) for found in RuleSet.objects.all()]


@router.post("/rules", response={201: RuleSetOut})
def make_rules(request: HttpRequest, given: RulesIn) -> Status[dict[str, Any]]:
    """Make a set."""
    return Status(201, _out(service.save(given.rules)))


@router.put("/rules/{set_id}", response=RuleSetOut)
def change_rules(request: HttpRequest, set_id: int, given: RulesIn) -> dict[str, Any]:
    """Change a set."""
    return _out(service.save(given.rules, set_id))


@router.post("/rules/{set_id}/use", response=RuleSetOut)
def use_rules(request: HttpRequest, set_id: int) -> dict[str, Any]:
    """Let this set hold for everyone."""
    return _out(service.use(service.set_by_id(set_id)))


@router.delete("/rules/{set_id}", response={204: None})
def remove_rules(request: HttpRequest, set_id: int) -> Status[None]:
    """Remove a set that is not in use."""
    service.remove(service.set_by_id(set_id))
    return Status(204, None)


@router.get("/rules/{set_id}/file")
def rules_file(request: HttpRequest, set_id: int) -> JsonResponse:
    """The set as one file to hand on, its profiles inside."""
    found = service.set_by_id(set_id)
    name = quote(f"{found.name} house rules.json")
    return JsonResponse(
        service.export(found),
        json_dumps_params={"indent": 1, "ensure_ascii": False},
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{name}"},
    )


@router.post("/rule-files", response={201: RuleSetOut})
def import_rules(request: HttpRequest, file: File[UploadedFile]) -> Status[dict[str, Any]]:
    """Take in an exported set; one of the same name is replaced."""
    try:
        plain = json.loads(file.read())
    except (json.JSONDecodeError, UnicodeDecodeError) as error:
        raise RecipeError(f"'{file.name}' is no JSON ({error}). Export a set from Plinto and import that.") from error
    return Status(201, _out(service.import_file(plain)))


@router.get("/profiles", response=list[ProfileOut])
def profiles(request: HttpRequest) -> list[StoredProfile]:
    """Profiles that were brought in, by name."""
    return list(StoredProfile.objects.all())


@router.post("/profiles", response={201: ProfileOut})
def take_in_profile(request: HttpRequest, file: File[UploadedFile]) -> Status[StoredProfile]:
    """Bring in an ICC profile; 422 says what is wrong with it, and nothing of it is kept."""
    if file.size is not None and file.size > MAX_PROFILE_BYTES:
        raise IccError(f"'{file.name}' has {file.size >> 20} MB; no profile needs more than 64")
    return Status(201, service.keep_profile(parse(file.read())))


@router.get("/adjustments", response=list[AdjustmentOut])
def adjustments(request: HttpRequest) -> list[SavedAdjustment]:
    """Named adjustments of the house."""
    return list(SavedAdjustment.objects.all())


@router.post("/adjustments", response={201: AdjustmentOut})
def name_adjustment(request: HttpRequest, given: AdjustmentIn) -> Status[SavedAdjustment]:
    """Keep an adjustment under a name; the same name again replaces it."""
    plain = given.model_dump(mode="json")["adjustment"]
    found, _ = SavedAdjustment.objects.update_or_create(name=given.name, defaults={"adjustment": plain})
    return Status(201, found)


@router.delete("/adjustments/{adjustment_id}", response={204: None})
def forget_adjustment(request: HttpRequest, adjustment_id: int) -> Status[None]:
    """Forget a named adjustment; artwork that uses it keeps what it has."""
    count, _ = SavedAdjustment.objects.filter(id=adjustment_id).delete()
    if not count:
        raise MissingError("This adjustment is not here any more.")
    return Status(204, None)
