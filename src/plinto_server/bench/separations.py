"""Separations: asked for on the Bench, made by a job, made again from their run sheet."""

from dataclasses import asdict
from datetime import UTC, datetime
from pathlib import Path

from django.contrib.auth.models import User
from django.db import transaction

from plinto_core.analysis.cost import cost_of_sheet
from plinto_core.chain.compiled import Chain
from plinto_core.deliver.run_sheet import run_sheet
from plinto_core.deliver.separate import check_delivery, separate
from plinto_core.errors import RecipeError
from plinto_core.pdf.as_delivered import deliver_by_rule
from plinto_core.policy.rule import DeliveryRule, rule_from_json
from plinto_core.raster.decoded import DecodedArtwork
from plinto_core.recipe import Recipe, recipe_from_json
from plinto_server.artworks import levels, versions
from plinto_server.artworks.models import Artwork
from plinto_server.bench import engine, pieces
from plinto_server.conditions.models import Condition
from plinto_server.conditions.print_mode import mode_from_json
from plinto_server.errors import MissingError
from plinto_server.files import store
from plinto_server.house import service as house
from plinto_server.jobs.again import compared
from plinto_server.jobs.attempt import Attempt
from plinto_server.jobs.kinds import Done, Kind
from plinto_server.jobs.models import Run
from plinto_server.jobs.queue import enqueue

KIND = "separation"


def file_name_of(artwork: Artwork, condition: Condition, recipe: Recipe, inks: int | None = None) -> str:
    """The name that a recipe's rule gives, with its ending; `inks` are those that are written."""
    stem = recipe.deliver.file_name(
        artwork=artwork.name.rpartition(".")[0] or artwork.name,
        condition=condition.name,
        intent=recipe.aim.intent,
        limit=f"{recipe.ink.limits.total_percent:.0f}" if recipe.ink.method == "rebuilt" else "as profiled",
        date=datetime.now(UTC).strftime("%Y-%m-%d"),
    )
    return f"{stem}{recipe.deliver.suffix_for(len(condition.inks) if inks is None else inks)}"


def ask(
    artwork: Artwork, condition: Condition, recipe: Recipe, user: User | None, rule: DeliveryRule | None = None,
    output_id: int | None = None, priority: int = 0,
) -> Run:  # fmt: skip
    """Queue a separation, whose page is delivered by `rule`, that of an output where one is named. Raises `PlintoError` at
    once where the recipe cannot work on this artwork."""
    if rule is not None and recipe.deliver.format != "pdf":
        raise RecipeError("A delivery rule is for pages: choose PDF as the format, or no rule.")
    line = engine.chain(artwork, condition, recipe)
    check_delivery(line.delivering(recipe.deliver))
    with transaction.atomic():
        run = Run.objects.create(
            kind=KIND, artwork=artwork, condition=condition, artwork_name=artwork.name, condition_name=condition.name,
            artwork_version=artwork.version, recipe=recipe.to_json(), asked_by=user,
            delivery_rule=rule.to_json() if rule else None, output_id=output_id if rule else None,
            pinned={"condition": condition.profile_sha256, "source": _kept_source(line)},
            file_name=file_name_of(artwork, condition, recipe, len(line.written_inks)), priority=priority,
        )  # fmt: skip
        return enqueue(run)


def _kept_source(line: Chain) -> str:
    """The source profile's digest, kept where the house has it; embedded and standard ones are found again."""
    digest = line.source.profile.digest
    return digest if house.is_stored(digest) else ""


def check_again(run: Run) -> None:
    """Raises `MissingError` naming what a run's file would have to be made of, and is not here any more."""
    sheet = run.run_sheet or {}
    if run.artwork is None:
        raise MissingError(
            f"The artwork '{sheet['artwork']['name']}' ({sheet['artwork']['sha256'][:12]}…) is not here any more. "
            "Add it again, then make the file from there."
        )
    if not store.is_here(str(run.pinned.get("condition", ""))):
        raise MissingError(
            f"The profile '{sheet['condition']['name']}' of this run is not here any more. Add it again."
        )


def make(run: Run, attempt: Attempt) -> Done:
    """Make the file of a run."""
    if run.artwork is None:
        raise MissingError(f"The artwork of '{run.file_name}' was removed before it could be made.")
    source, artwork, chain = line_of(run)
    path = attempt.folder / f"made{Path(run.file_name).suffix}"
    outcome = pieces.made(run, attempt, artwork, chain, path)
    if outcome is None:
        outcome = separate(artwork, chain, path, attempt.progress, attempt.cancelled)
    sheet = run_sheet(artwork, run.artwork.sha256, chain, outcome, run.file_name)
    sheet["artwork"] |= {"version": run.artwork_version, "pixels_sha256": source.pixels_sha256, "notes": source.log}
    if run.condition and (mode := mode_from_json(run.condition.mode).in_words()):
        sheet["condition"]["mode"] = mode
    if run.condition and sheet["mean_coverage_percent"] and artwork.resolution_ppi:
        sheet["cost"] = asdict(cost_of_sheet(sheet, run.condition.costs))
    part = store.Part(path, outcome.sha256, outcome.bytes)
    if run.delivery_rule is None:
        return Done(part, sheet, pieces.let_go, message=compared(run, part.sha256))
    rule, out = rule_from_json(run.delivery_rule), attempt.folder / "delivered.pdf"
    notes = deliver_by_rule(path, out, rule, chain)
    part = store.part_of(out)
    sheet["delivery_rule"] = rule.to_json() | {"notes": notes}
    sheet["written"] |= {"sha256": part.sha256, "bytes": part.bytes}
    return Done(part, sheet, message=compared(run, part.sha256) or " ".join(notes))


def line_of(run: Run) -> tuple[Artwork, DecodedArtwork, Chain]:
    """The version that a run is made of, its pixels, and the line that they go through. Raises `PlintoError`."""
    if run.artwork is None:
        raise MissingError(f"The artwork of '{run.file_name}' was removed before it could be made.")
    recipe = recipe_from_json(run.recipe)
    source = versions.at_version(run.artwork, run.artwork_version)
    pinned = Condition(profile_sha256=run.pinned.get("condition") or _profile_of(run), inks=_inks_of(run))
    # The chain may have been compiled for another name or compression; those are this recipe's.
    return source, levels.opened(source), engine.chain(source, pinned, recipe).delivering(recipe.deliver)


def make_piece(run: Run, attempt: Attempt) -> Done:
    """Make some rows of another run's file."""
    if run.piece_of is None:
        raise MissingError(f"What '{run.file_name}' is a piece of is not here any more.")
    _source, artwork, chain = line_of(run.piece_of)
    return pieces.make(run, attempt, artwork, chain)


def _profile_of(run: Run) -> str:
    if run.condition is None:
        raise MissingError(f"The condition of '{run.file_name}' was removed before it could be made.")
    return run.condition.profile_sha256


def _inks_of(run: Run) -> list[str]:
    if run.condition is not None:
        return list(run.condition.inks)
    before = run.again_of.run_sheet if run.again_of else None
    return list(before["condition"]["inks"]) if before else []


SEPARATING = Kind(KIND, make, check_again=check_again, ended=pieces.let_go)
PIECES = Kind(pieces.KIND, make_piece)
