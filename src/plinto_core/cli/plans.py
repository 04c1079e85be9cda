"""Batch plans: a JSON file of what is to be made of which files, so that a long batch is one thing to keep and repeat.

    {"batch": "Night garden", "out": "made", "jobs": [
      {"files": ["scans/*.tif"], "conditions": ["cotton.icc", "news.icc"], "recipe": "night.json"},
      {"files": ["pages/*.pdf"], "policy": "press.json", "conditions": ["news.icc"], "rule": "to-ad.json",
       "total_ink": 240}]}

Paths stand from the plan's own folder; `*` and `?` in the last part of a path mean what they mean in a shell.
"""

import json
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from plinto_core.cli.settings import recipe_of
from plinto_core.cli.works import DocumentWork, PictureWork, Work
from plinto_core.errors import RecipeError
from plinto_core.plain import read_plain


@dataclass(frozen=True)
class BatchJob:
    """Files, and what is made of each: for every condition a separation by the recipe, or a document through the policy.

    `total_ink` (%) is for documents; a recipe has its own. Raises `RecipeError`.
    """

    files: tuple[str, ...]
    conditions: tuple[str, ...] = ()
    recipe: str | None = None
    policy: str | None = None
    rule: str | None = None
    total_ink: float | None = None

    def __post_init__(self) -> None:
        if self.policy is None and not self.conditions:
            raise RecipeError("A job names 'conditions' to separate for, or a 'policy' to send documents through.")
        if self.policy is not None and (self.recipe is not None or len(self.conditions) > 1):
            raise RecipeError("A job with a 'policy' has no 'recipe', and one condition at most.")
        if self.policy is None and (self.rule is not None or self.total_ink is not None):
            raise RecipeError(
                "'rule' and 'total_ink' belong to a job with a 'policy'; a recipe has limits of its own."
            )


@dataclass(frozen=True)
class BatchPlan:
    """What a plan's file says."""

    batch: str
    out: str
    jobs: tuple[BatchJob, ...]


def read_plan(path: Path) -> BatchPlan:
    """Read a plan's file. Raises `RecipeError` that names the place and what fits there."""
    try:
        plain = json.loads(path.read_bytes())
    except (ValueError, RecursionError) as error:
        raise RecipeError(f"'{path.name}' is no JSON, so no batch plan ({error}).") from error
    return read_plain(BatchPlan, plain, f"The batch plan '{path.name}'", RecipeError)


def works_of(path: Path, out: Path | None, given: dict[str, Any]) -> tuple[Path, list[Work]]:
    """The folder to write to (`out`, or the plan's own) and everything that a plan asks for, in its order."""
    plan, folder = read_plan(path), path.resolve().parent
    made: list[Work] = []
    target = out or folder / plan.out
    for job in plan.jobs:
        conditions = [_file(folder, name) for name in job.conditions]
        sources = [file for name in job.files for file in _files(folder, name)]
        if job.policy is not None:
            policy, rule = _file(folder, job.policy), _file(folder, job.rule) if job.rule else None
            into = conditions[0] if conditions else None
            made += [DocumentWork(each, policy, into, rule, job.total_ink, target) for each in sources]
        else:
            settings = {**given, "recipe": _file(folder, job.recipe)} if job.recipe else given
            recipe = recipe_of(settings)
            made += [PictureWork(each, press, target, settings, recipe) for each in sources for press in conditions]
    return target, made


def _file(folder: Path, name: str) -> Path:
    found = folder / name
    if not found.is_file():
        raise RecipeError(f"The batch plan names '{name}', and there is no such file in '{folder}'.")
    return found


def _files(folder: Path, name: str) -> list[Path]:
    if not set(Path(name).name) & set("*?["):
        return [_file(folder, name)]
    found = sorted(each for each in (folder / name).parent.glob(Path(name).name) if each.is_file())
    if not found:
        raise RecipeError(f"The batch plan names '{name}', and nothing of that name is in '{folder}'.")
    return found
