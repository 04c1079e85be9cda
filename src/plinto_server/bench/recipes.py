"""Recipes kept per artwork and condition: saved, undone, redone."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import F

from plinto_core.recipe import AimStation, Recipe, SourceStation, recipe_from_json
from plinto_server.artworks.models import Artwork
from plinto_server.bench.models import RecipeHistory, RecipeRevision
from plinto_server.conditions.library import held_plates, own_recipe
from plinto_server.conditions.models import Condition
from plinto_server.errors import ConflictError, MissingError
from plinto_server.house import service as house
from plinto_server.house.models import RuleSet
from plinto_server.records.history import Change, differences

#: How far back undo goes.
KEPT_REVISIONS = 200
#: How many artworks are asked for in one query.
_AT_ONCE = 5000


@dataclass(frozen=True)
class RecipeState:
    """The recipe in force, what can be done with its history, and who set it so, when; nobody for the condition's own."""

    recipe: Recipe
    version: int
    can_undo: bool
    can_redo: bool
    changed_by: str = ""
    changed_at: datetime | None = None


@dataclass(frozen=True)
class Past:
    """One state of the settings: what differs from the state before it, who set it and when. `number` 0 is how
    it began: the condition's own, with what was set for this artwork elsewhere."""

    number: int
    by: str
    at: datetime | None
    in_force: bool
    changes: list[Change]


def _starting(artwork: Artwork, condition: Condition, besides: RecipeHistory | None = None) -> Recipe:
    """The condition's own limits and black; all else as it was last set for this artwork, but in `besides`, or as the
    house says."""
    recipe = own_recipe(condition)
    others = RecipeHistory.objects.filter(artwork=artwork, cursor__gt=0)
    if besides is not None:
        others = others.exclude(pk=besides.pk)
    elsewhere = others.order_by("-changed_at").first()
    revision = elsewhere and elsewhere.revisions.filter(number=elsewhere.cursor).first()
    if revision:
        return _carried(recipe_from_json(revision.recipe), recipe, condition)
    aim = _house_aim()
    return replace(recipe, aim=aim) if aim else recipe


def _house_aim() -> AimStation | None:
    """How artwork is aimed at first where the house has rules."""
    if not RuleSet.objects.filter(in_use=True).exists():
        return None
    rules = house.in_use()
    return AimStation(rules.intent, rules.bpc)


def _carried(last: Recipe, own: Recipe, condition: Condition) -> Recipe:
    """Today's steps for tomorrow's other press: what was set station by station, where that press has the inks."""
    inks = set(condition.inks)
    plates = tuple(plate for plate in last.plate.plates if plate.ink in inks)
    keep = tuple(kept for kept in last.ink.keep if set(kept) <= inks)
    rebuilt = own.ink.method == "rebuilt"
    return replace(
        own,
        source=last.source,
        adjust=last.adjust,
        aim=last.aim,
        ink=replace(own.ink, keep=keep) if rebuilt else own.ink,
        plate=held_plates(condition, replace(last.plate, plates=plates)),
        deliver=last.deliver,
    )


def fitted(
    recipe: Recipe, artwork: Artwork, condition: Condition, own: Recipe | None = None
) -> tuple[Recipe, str]:  # fmt: skip
    """A recipe that was made for something else, on this artwork and condition, and what of it does not fit, in words.

    `own` is the condition's, where it was read already.

    Regions stay with the artwork that they were drawn on; the condition's own limit is never exceeded.
    """
    own = own or own_recipe(condition)
    inks, notes = set(condition.inks), list[str]()
    base, letters = recipe.adjust.base, set(artwork.space)
    channels = tuple(each for each in base.channels if each.channel in letters)
    if recipe.adjust.regions:
        notes.append("regions are left out")
    if len(channels) < len(base.channels):
        notes.append(f"curves of channels that {artwork.space} has not are left out")
    base = replace(base, channels=channels)
    if artwork.space == "CMYK" and (base.hues or base.chroma_percent or base.lightness != type(base.lightness)()):
        notes.append("lightness, chroma and hues are left out on CMYK")
        base = replace(base, hues=(), chroma_percent=0.0, lightness=type(base.lightness)())
    ink = recipe.ink
    named = (
        {each for each, _ in ink.limits.per_ink_percent} | set(ink.without) | {i for kept in ink.keep for i in kept}
    )
    if own.ink.method != ink.method or not named <= inks:
        notes.append("limits and black are the condition's own")
        ink = own.ink
    elif ink.limits.total_percent > own.ink.limits.total_percent:
        notes.append(f"total ink {own.ink.limits.total_percent:g} % as the condition has it")
        ink = replace(ink, limits=replace(ink.limits, total_percent=own.ink.limits.total_percent))
    plates = tuple(plate for plate in recipe.plate.plates if plate.ink in inks)
    if len(plates) < len(recipe.plate.plates):
        notes.append("plates of other inks are left out")
    given = replace(recipe.plate, plates=plates)
    plate = held_plates(condition, given)
    if plate != given:
        becomes = "raised to it" if condition.smallest_dot == "raise" else "cut"
        notes.append(f"dots under {condition.smallest_dot_percent:g} % are {becomes} as the condition has it")
    untagged = not artwork.profile_sha256
    source = recipe.source if untagged else SourceStation()
    fitting = replace(
        recipe, source=source, adjust=replace(recipe.adjust, base=base, regions=()), ink=ink, plate=plate,
    )  # fmt: skip
    return fitting, "; ".join(notes)


def _state(history: RecipeHistory | None, artwork: Artwork, condition: Condition) -> RecipeState:
    starting = _starting(artwork, condition)
    if history is None:
        return RecipeState(starting, 0, False, False)
    last = history.revisions.count() and history.revisions.order_by("-number")[0].number
    revision = history.revisions.filter(number=history.cursor).first()
    recipe = recipe_from_json(revision.recipe) if revision else starting
    first = history.revisions.order_by("number").values_list("number", flat=True).first() or 1
    return RecipeState(
        recipe, history.version, history.cursor >= first, history.cursor < last, _who(revision),
        history.changed_at if revision else None,
    )  # fmt: skip


def _who(revision: RecipeRevision | None) -> str:
    return revision.made_by.get_username() if revision and revision.made_by else ""


def past(artwork: Artwork, condition: Condition) -> list[Past]:
    """Every state that can be gone back to, the newest first."""
    history = RecipeHistory.objects.filter(artwork=artwork, condition=condition).first()
    if history is None:
        return []
    revisions = list(history.revisions.select_related("made_by").order_by("number"))
    # What was dropped at the far end is not known any more: the oldest kept state stands for itself.
    whole = bool(revisions) and revisions[0].number == 1
    before = _starting(artwork, condition, besides=history).to_json() if whole else None
    found = [Past(0, "", None, history.cursor == 0, [])] if whole else []
    for revision in revisions:
        changes = differences(before, revision.recipe) if before is not None else []
        found.append(
            Past(revision.number, _who(revision), revision.made_at, history.cursor == revision.number, changes)
        )
        before = revision.recipe
    return found[::-1]


def current(artwork: Artwork, condition: Condition) -> RecipeState:
    """The recipe in force; the condition's own where nothing was saved yet."""
    return _state(RecipeHistory.objects.filter(artwork=artwork, condition=condition).first(), artwork, condition)


def in_force(artworks: Sequence[Artwork], conditions: Sequence[Condition]) -> dict[tuple[int, int], Recipe]:
    """The recipes of all artworks for all conditions by their ids, as `current` has each, in a few queries.

    What is alike is one object: ten thousand files have a handful of recipes.
    """
    kept: dict[int, list[RecipeRevision]] = {each.pk: [] for each in artworks}
    ids = list(kept)
    for at in range(0, len(ids), _AT_ONCE):
        revisions = RecipeRevision.objects.filter(
            history__artwork__in=ids[at : at + _AT_ONCE], history__cursor__gt=0, number=F("history__cursor")
        )
        for revision in revisions.select_related("history"):
            kept[revision.history.artwork_id].append(revision)
    aim = _house_aim()
    own = {each.pk: own_recipe(each) for each in conditions}
    begun = {key: replace(recipe, aim=aim) if aim else recipe for key, recipe in own.items()}
    found = {}
    for artwork in artworks:
        here = {each.history.condition_id: each for each in kept[artwork.pk]}
        latest = max(here.values(), key=lambda each: each.history.changed_at, default=None)
        elsewhere = recipe_from_json(latest.recipe) if latest else None
        for condition in conditions:
            if (set_here := here.get(condition.pk)) is not None:
                recipe = recipe_from_json(set_here.recipe)
            elif elsewhere is not None:
                recipe = _carried(elsewhere, own[condition.pk], condition)
            else:
                recipe = begun[condition.pk]
            found[artwork.pk, condition.pk] = recipe
    return found


def _locked(artwork: Artwork, condition: Condition, version: int) -> RecipeHistory:
    # The transaction is IMMEDIATE: whoever comes second waits here, and then sees the newer version.
    history, _ = RecipeHistory.objects.get_or_create(artwork=artwork, condition=condition)
    if history.version != version:
        raise ConflictError(
            "Somebody else changed these settings in the meantime. What they chose is shown now; set yours again."
        )
    return history


@transaction.atomic
def save(artwork: Artwork, condition: Condition, recipe: Recipe, version: int, user: User | None) -> RecipeState:
    """Add a revision after the one in force; what had been undone is dropped. Raises `ConflictError`."""
    history = _locked(artwork, condition, version)
    if recipe == _state(history, artwork, condition).recipe:
        return _state(history, artwork, condition)
    history.revisions.filter(number__gt=history.cursor).delete()
    history.cursor += 1
    history.version += 1
    RecipeRevision.objects.create(history=history, number=history.cursor, recipe=recipe.to_json(), made_by=user)
    history.revisions.filter(number__lte=history.cursor - KEPT_REVISIONS).delete()
    history.save()
    return _state(history, artwork, condition)


@transaction.atomic
def go_to(artwork: Artwork, condition: Condition, number: int, version: int) -> RecipeState:
    """Put another state of the history in force. Raises `ConflictError`, and `MissingError` for one that is not there."""
    history = _locked(artwork, condition, version)
    first = history.revisions.order_by("number").values_list("number", flat=True).first()
    known = first == 1 if number == 0 else history.revisions.filter(number=number).exists()
    if not known:
        raise MissingError(f"State {number} of these settings is not kept any more. Choose one of the list.")
    history.cursor = number
    history.version += 1
    history.save()
    return _state(history, artwork, condition)


@transaction.atomic
def step(artwork: Artwork, condition: Condition, version: int, by: int) -> RecipeState:
    """Undo (-1) or redo (+1); at the end of the history nothing happens. Raises `ConflictError`."""
    history = _locked(artwork, condition, version)
    state = _state(history, artwork, condition)
    if (by < 0 and state.can_undo) or (by > 0 and state.can_redo):
        history.cursor += by
        history.version += 1
        history.save()
    return _state(history, artwork, condition)
