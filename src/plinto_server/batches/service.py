"""Batches: asked for, handed out a few files at a time, paused, resumed, tried again, ended."""

from collections import Counter
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from typing import Literal, cast

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Count, Q, QuerySet

from plinto_core.errors import PlintoError, RecipeError
from plinto_core.recipe import recipe_from_json
from plinto_server.batches.models import Batch, Item
from plinto_server.batches.plan import Planned
from plinto_server.bench import engine, separations
from plinto_server.errors import ConflictError, MissingError
from plinto_server.files.space import even_when_full
from plinto_server.jobs import runs
from plinto_server.jobs.models import Run
from plinto_server.policies import sending
from plinto_server.removals import bin as removals

#: So many runs of a batch wait or work at once: what a person asks for meanwhile is behind few of them.
AHEAD = 6
#: Runs of batches stand behind what a person waits for.
_BEHIND = -50
#: Whoever has claimed an item for so long without asking for it has died.
_CLAIM = timedelta(seconds=90)
#: How far a file of a batch is.
ItemState = Literal["waiting", "queued", "running", "done", "failed", "refused", "cancelled", "removed"]
_MOVING = (Run.State.QUEUED, Run.State.RUNNING)


def batch_by_id(batch_id: int) -> Batch:
    """Raises `MissingError`."""
    found = Batch.objects.filter(id=batch_id).select_related("asked_by").first()
    if found is None:
        raise MissingError("This batch is not here any more. Go back to the list of runs.")
    return found


@transaction.atomic
def ask(name: str, files: Sequence[Planned], priority: int, user: User | None) -> Batch:
    """Keep a batch with its files as planned. Raises `RecipeError` where names clash; other files with a problem are
    kept as refused, with the reason."""
    if not 1 <= len(name.strip()) <= 120:
        raise RecipeError("A batch needs a name, of 1 to 120 letters.")
    if not -10 <= priority <= 10:
        raise RecipeError("A priority is from -10 to 10.")
    clashing = sorted({each.file_name for each in files if "would be called" in each.problem})
    if clashing:
        more = f" and {len(clashing) - 3} more" if len(clashing) > 3 else ""
        raise RecipeError(
            f"Several files would have one name: {', '.join(clashing[:3])}{more}. "
            "Put artwork and condition into the rule for names."
        )
    # Many files have few recipes: each is put into words once.
    plain = {
        id(each.recipe): each.recipe.to_json() for each in {id(f.recipe): f for f in files}.values() if each.recipe
    }
    batch = Batch.objects.create(name=name.strip(), priority=priority, asked_by=user)
    Item.objects.bulk_create(
        (
            Item(
                batch=batch, number=number, artwork=each.artwork, condition=each.condition, document=each.document,
                output=each.output, recipe=plain.get(id(each.recipe)), of_name=each.of_name,
                for_name=each.for_name, file_name=each.file_name, said=each.problem,
                state=Item.State.REFUSED if each.problem else Item.State.WAITING,
            )
            for number, each in enumerate(files)
        ),
        batch_size=500,
    )  # fmt: skip
    return batch


def hand_out() -> int:
    """Ask for the next runs of every batch that has room; returns how many. Workers do this, again and again."""
    count = 0
    for batch in Batch.objects.filter(handed_out=False, paused=False).order_by("-priority", "id"):
        _free_claims(batch)
        while (item := _claimed(batch)) is not None:
            count += 1
            _ask_for(item, batch)
        if not batch.items.filter(state__in=(Item.State.WAITING, Item.State.CLAIMED)).exists():
            Batch.objects.filter(id=batch.id).update(handed_out=True)
    return count


def _free_claims(batch: Batch) -> None:
    since = datetime.now(UTC) - _CLAIM
    batch.items.filter(state=Item.State.CLAIMED, claimed_at__lt=since).update(state=Item.State.WAITING)


@transaction.atomic
def _claimed(batch: Batch) -> Item | None:
    """The next item, for this process alone; None where enough is under way already."""
    if not Batch.objects.filter(id=batch.id, paused=False).exists():
        return None
    under_way = batch.items.filter(Q(state=Item.State.CLAIMED) | Q(run__state__in=_MOVING)).count()
    item = batch.items.filter(state=Item.State.WAITING).first() if under_way < AHEAD else None
    if item is None:
        return None
    now = datetime.now(UTC)
    mine = Item.objects.filter(id=item.id, state=Item.State.WAITING).update(state=Item.State.CLAIMED, claimed_at=now)
    return item if mine else None


def _ask_for(item: Item, batch: Batch) -> None:
    """Queue an item's run, or say why not. The run and the item that it belongs to are written together."""
    try:
        if item.artwork and item.condition and item.recipe:
            # A line takes a moment to compile; the database is not held meanwhile.
            engine.chain(item.artwork, item.condition, recipe_from_json(item.recipe))
        with transaction.atomic():
            # Whoever paused or cancelled it meanwhile was faster.
            if not Item.objects.filter(id=item.id, state=Item.State.CLAIMED).exists():
                return
            run = _run_of(item, batch)
            Item.objects.filter(id=item.id).update(state=Item.State.ASKED, run=run, said="")
    except PlintoError as error:
        Item.objects.filter(id=item.id).update(state=Item.State.REFUSED, said=str(error))


def _run_of(item: Item, batch: Batch) -> Run:
    priority = _BEHIND + batch.priority
    if item.document is not None and item.output is not None:
        return sending.send(item.document, item.output, batch.asked_by, priority)
    if item.artwork is None or item.condition is None or item.recipe is None:
        raise MissingError(f"'{item.of_name}' or '{item.for_name}' was removed before its file could be made.")
    recipe = recipe_from_json(item.recipe)
    return separations.ask(item.artwork, item.condition, recipe, batch.asked_by, priority=priority)


def pause(batch: Batch, paused: bool) -> Batch:
    """Hand out nothing more, or go on; what is under way is finished."""
    Batch.objects.filter(id=batch.id).update(paused=paused)
    return batch_by_id(batch.id)


@even_when_full
@transaction.atomic
def cancel(batch: Batch) -> Batch:
    """Drop what waits and stop what is under way; finished files stay."""
    waiting = (Item.State.WAITING, Item.State.CLAIMED)
    dropped = batch.items.filter(state__in=waiting).update(
        state=Item.State.CANCELLED, said="Cancelled with its batch."
    )
    moving = list(Run.objects.filter(batch_item__batch=batch, state__in=_MOVING))
    if not dropped and not moving:
        raise ConflictError(f"'{batch.name}' has ended already; there is nothing left to cancel.")
    for run in moving:
        runs.cancel(run)
    Batch.objects.filter(id=batch.id).update(handed_out=True, paused=False)
    return batch_by_id(batch.id)


@transaction.atomic
def retry(batch: Batch) -> Batch:
    """What failed, was refused or cancelled is asked for once more. Raises `ConflictError` where there is nothing."""
    ended = Q(state__in=(Item.State.REFUSED, Item.State.CANCELLED)) | Q(
        run__state__in=(Run.State.FAILED, Run.State.CANCELLED)
    )
    count = batch.items.filter(ended).update(state=Item.State.WAITING, run=None, said="", claimed_at=None)
    if not count:
        raise ConflictError(f"Nothing of '{batch.name}' failed; there is nothing to try again.")
    Batch.objects.filter(id=batch.id).update(handed_out=False, paused=False)
    return batch_by_id(batch.id)


def set_priority(batch: Batch, priority: int) -> Batch:
    """Of what is still to be handed out. Raises `RecipeError`."""
    if not -10 <= priority <= 10:
        raise RecipeError("A priority is from -10 to 10.")
    Batch.objects.filter(id=batch.id).update(priority=priority)
    return batch_by_id(batch.id)


@transaction.atomic
def remove(batch: Batch, author: User | None) -> None:
    """Forget a batch that has ended; its runs and their files stay. Raises `ConflictError`."""
    if batch.items.filter(Q(state__in=(Item.State.WAITING, Item.State.CLAIMED)) | Q(run__state__in=_MOVING)).exists():
        raise ConflictError(f"'{batch.name}' is still under way. Cancel it first.")
    removals.remove([batch], batch.name, author, "artwork")


def state_of(item: Item) -> ItemState:
    """How far an item is: its run's state once it has one; 'removed' where that run is gone."""
    if item.state == Item.State.CLAIMED:
        return "waiting"
    found = (item.run.state if item.run else "removed") if item.state == Item.State.ASKED else item.state
    return cast("ItemState", str(found))


def counts(batches: Sequence[Batch]) -> dict[int, Counter[str]]:
    """How many files of each batch are in each state."""
    found = {batch.id: Counter[str]() for batch in batches}
    rows = Item.objects.filter(batch__in=batches).order_by().values_list("batch_id", "state", "run__state")
    for batch_id, state, run_state, count in rows.annotate(count=Count("id")):
        word = (
            run_state or "removed"
            if state == Item.State.ASKED
            else "waiting"
            if state == Item.State.CLAIMED
            else state
        )
        found[batch_id][word] += count
    return found


def items(batch: Batch, state: str = "") -> "QuerySet[Item]":
    """Files of a batch in order, all or those in one state (`state_of`)."""
    found = batch.items.select_related("run")
    if state == "waiting":
        return found.filter(state__in=(Item.State.WAITING, Item.State.CLAIMED))
    if state in (Item.State.REFUSED, Item.State.CANCELLED):
        return found.filter(Q(state=state) | Q(run__state=state))
    return found.filter(run__state=state) if state else found
