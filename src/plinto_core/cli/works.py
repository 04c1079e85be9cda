"""What a batch makes, one file each: a picture separated for a condition, or a document sent through a policy.

Both know their file's name before anything is opened, whether that very file stands there already, and how it is made.
"""

import json
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cache, cached_property
from pathlib import Path
from typing import Any, Protocol

import click

from plinto_core.chain.compiled import Chain
from plinto_core.cli.lines import named, stem_of, write_delivery
from plinto_core.cli.settings import chain_of, library, opened, read_profile, write_text
from plinto_core.errors import PolicyError, RecipeError
from plinto_core.files import file_digest, write_whole
from plinto_core.raster.opened import Artwork
from plinto_core.recipe import Recipe, canonical_digest


class Work(Protocol):
    """A file to be made of `source`."""

    source: Path

    @property
    def label(self) -> str:
        """What is made of what, for messages."""
        ...

    @property
    def target(self) -> Path:
        """The file, known before the source is opened."""
        ...

    def stands(self) -> bool:
        """Whether this very file was made before. Raises `PlintoError` for what cannot be made."""
        ...

    def planned(self) -> str:
        """What would be written: its name, and how large it is before compression where that is known."""
        ...

    def make(self) -> None:
        """Write it with its run sheet. Raises `PlintoError`; nothing is left then."""
        ...


def line_of(source: Path, condition: Path, given: dict[str, Any]) -> tuple[Artwork, Chain]:
    """The artwork of a file, and its line to a condition's profile by the options that were given."""
    settings = {**given, "profile": condition}
    artwork = opened(source, settings)
    return artwork, chain_of(settings, artwork.profile, artwork.space)


def targets_of(out: Path, artwork: Artwork, chain: Chain) -> tuple[Path, Path]:
    """Where in a folder the file and its run sheet come to stand, by the recipe's name rule."""
    deliver = chain.recipe.deliver
    stem = named(artwork, chain, deliver)
    return out / f"{stem}{deliver.suffix}", out / f"{stem} run sheet.json"


def stands(target: Path, sheet: Path, source: Path, chain: Chain) -> bool:
    """Whether this very file was made before: same picture, recipe and condition, and not a byte changed since."""
    return _same(
        target, sheet, source,
        lambda told: told["recipe_digest"] == chain.recipe.digest
        and told["condition"]["sha256"] == chain.condition.profile.digest
        and told["source_profile"]["sha256"] == chain.source.profile.digest,
    )  # fmt: skip


def _same(target: Path, sheet: Path, source: Path, by_settings: Any) -> bool:
    if not (target.is_file() and sheet.is_file()):
        return False
    try:
        told = json.loads(sheet.read_bytes())
        same = by_settings(told) and told["artwork"]["sha256"] == file_digest(source)
        return bool(same) and told["written"]["sha256"] == file_digest(target)
    except (ValueError, KeyError, TypeError):
        return False


@cache
def _name_of(condition: Path) -> str:
    # A batch asks for the few names of its conditions once for each of its thousands of files.
    return read_profile(condition).name


@dataclass
class PictureWork:
    """A picture for a condition; `given` are the options of the line, and `recipe` what they say, read once for all."""

    source: Path
    condition: Path
    out: Path
    given: dict[str, Any]
    recipe: Recipe
    _opened: tuple[Artwork, Chain] | None = field(default=None, init=False, repr=False)

    @property
    def label(self) -> str:
        """See `Work`."""
        return f"'{self.source}' for {self._name}"

    @property
    def target(self) -> Path:
        """See `Work`."""
        deliver = self.recipe.deliver
        return self.out / f"{stem_of(self.source.name, self._name, self.recipe, deliver)}{deliver.suffix}"

    @property
    def _name(self) -> str:
        return _name_of(self.condition)

    def _line(self) -> tuple[Artwork, Chain]:
        # Opened and compiled once for looking and making, and let go then: a batch may have thousands.
        if self._opened is None:
            self._opened = line_of(self.source, self.condition, self.given)
        return self._opened

    def stands(self) -> bool:
        """See `Work`."""
        artwork, chain = self._line()
        there = stands(*targets_of(self.out, artwork, chain), self.source, chain)
        if there:
            self._opened = None
        return there

    def planned(self) -> str:
        """See `Work`."""
        artwork, chain = self._line()
        self._opened = None
        target, _ = targets_of(self.out, artwork, chain)
        size = artwork.width * artwork.height * len(chain.written_inks) * chain.recipe.deliver.depth // 8
        return (
            f"{self.source.name} for {self._name}: {target.name}, {artwork.width} × {artwork.height} pixels, "
            f"{size / 1e6:.1f} MB before compression"
        )

    def make(self) -> None:
        """See `Work`."""
        artwork, chain = self._line()
        self._opened = None
        target, sheet = targets_of(self.out, artwork, chain)
        write_delivery(self.source, target, artwork, chain, chain.recipe.deliver, sheet)


@dataclass
class DocumentWork:
    """A document through a policy, into a condition where the policy asks for one, under a delivery rule."""

    source: Path
    policy: Path
    condition: Path | None
    rule: Path | None
    total_ink: float | None
    out: Path

    @property
    def label(self) -> str:
        """See `Work`."""
        return f"'{self.source}' through {self.policy.name}"

    @property
    def target(self) -> Path:
        """See `Work`."""
        return self.out / f"{self.source.stem} {self.policy.stem}.pdf"

    @property
    def _sheet(self) -> Path:
        return self.target.with_name(f"{self.target.stem} run sheet.json")

    def stands(self) -> bool:
        """See `Work`."""
        return _same(self.target, self._sheet, self.source, lambda told: told["settings"] == self._settings)

    def planned(self) -> str:
        """See `Work`."""
        return f"{self.source.name} through {self.policy.name}: {self.target.name}"

    def make(self) -> None:
        """See `Work`. A document in which anything is refused is not written: `PolicyError` says what and why."""
        from plinto_core.pdf.apply import apply
        from plinto_core.pdf.report import report
        from plinto_core.policy.conversion import destination_of
        from plinto_core.policy.files import read_policy
        from plinto_core.policy.rule import read_rule

        policy, profiles = read_policy(self.policy)
        press = library().condition(read_profile(self.condition)) if self.condition else None
        digest = file_digest(self.source)
        done = apply(
            self.source, self.target, policy, read_rule(self.rule), press, limit=self.total_ink, profiles=profiles
        )
        if done.refused:
            raise PolicyError(f"refused, nothing was written: {' '.join(done.refusals[:5])}")
        told = {
            "artwork": {"name": self.source.name, "sha256": digest},
            "settings": self._settings,
            "written": {"name": self.target.name, "sha256": file_digest(self.target)},
            "report": report(done, policy, destination_of(policy.into, press, self.total_ink).letters),
        }
        write_whole(self._sheet, lambda part: write_text(part, json.dumps(told, indent=2)))
        counts = ", ".join(f"{count} {word}" for word, count in sorted(done.counts.items()))
        click.echo(f"{self.target}: {done.pages} pages, {counts}")

    @cached_property
    def _settings(self) -> dict[str, Any]:
        """What decides what comes out, by digest."""
        from plinto_core.policy.files import read_policy
        from plinto_core.policy.rule import read_rule

        policy, _ = read_policy(self.policy)
        return {
            "policy_digest": canonical_digest(policy.to_json()),
            "rule_digest": canonical_digest(read_rule(self.rule).to_json()),
            "condition": read_profile(self.condition).digest if self.condition else None,
            "total_ink_percent": self.total_ink,
        }


def check_names(works: Sequence[Work]) -> None:
    """Before anything is written: no file over another one, and none over an original. Raises `RecipeError`."""
    originals = {each.source.resolve() for each in works}
    taken: dict[Path, str] = {}
    for work in works:
        target = work.target
        if target.resolve() in originals:
            raise RecipeError(
                f"'{target.name}' is an original, and originals are never changed. Choose another --out."
            )
        if target in taken:
            raise RecipeError(f"{taken[target]} and {work.label} would both become '{target.name}'. Rename one.")
        taken[target] = work.label
