"""Profiles and conditions by digest, with what is expensive to know about them kept on disk."""

import contextlib
import os
import tempfile
import threading
import zipfile
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path

import numpy as np

from plinto_core.errors import RecipeError
from plinto_core.icc.profile import Profile
from plinto_core.icc.standard import RGB_SPACES, rgb_profile
from plinto_core.press.calibration import Calibration, calibration_of
from plinto_core.press.model import ForwardModel, model_from_profile
from plinto_core.separation.inverse import InverseTables, precompute

#: Part of every name on disk: what was kept by other code is not taken for this one's.
_TABLES_VERSION = 4


@dataclass(frozen=True)
class Condition:
    """A printing condition as the core needs it: its profile, and what the inks do."""

    profile: Profile
    model: ForwardModel
    tables: InverseTables = field(repr=False)

    @cached_property
    def calibration(self) -> Calibration | None:
        """What its separations are printed through, where the profile carries it."""
        return calibration_of(self.profile)


class Library:
    """Conditions by profile, computed once; inverse tables under `cache_dir` by the model's digest."""

    def __init__(self, cache_dir: Path) -> None:
        self._cache_dir = cache_dir
        self._conditions: dict[str, Condition] = {}
        self._lock = threading.Lock()

    def condition(self, profile: Profile) -> Condition:
        """The condition that an output profile describes. Raises `IccError` for other profiles."""
        with self._lock:
            found = self._conditions.get(profile.digest)
            if found is None:
                model = model_from_profile(profile)
                found = Condition(profile, model, self._tables(model))
                self._conditions[profile.digest] = found
            return found

    def _tables(self, model: ForwardModel) -> InverseTables:
        path = self._cache_dir / f"inverse-{_TABLES_VERSION}-{model.digest}.npz"
        if path.exists():
            try:
                with np.load(path) as kept:
                    return InverseTables(kept["inks"], kept["gray_component"])
            except (OSError, ValueError, KeyError, EOFError, zipfile.BadZipFile):
                # A damaged cache is no loss: what follows makes it again.
                path.unlink()
        tables = precompute(model)
        self._cache_dir.mkdir(parents=True, exist_ok=True)
        write_whole(path, lambda part: _save(part, tables))
        return tables


def _save(path: Path, tables: InverseTables) -> None:
    with path.open("wb") as file:
        np.savez(file, inks=tables.inks, gray_component=tables.gray_component)


def write_whole(path: Path, write: Callable[[Path], None]) -> None:
    """Let `write` fill a temporary file, flush it to disk, and rename it: it appears whole or not at all."""
    handle, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name[:60]}-", suffix=".part")
    os.close(handle)
    part = Path(name)
    try:
        write(part)
        with part.open("rb") as file:
            os.fsync(file.fileno())
        part.chmod(0o644)
        part.replace(path)
    except BaseException:
        with contextlib.suppress(FileNotFoundError):
            part.unlink()
        raise


_WAYS_OUT = {"RGB": f"choose a source ({', '.join(RGB_SPACES)} or an ICC file)", "CMYK": "choose a CMYK profile"}


def source_profile(
    choice: str, embedded: Profile | None, stored: dict[str, Profile] | None = None, space: str = "RGB"
) -> Profile:
    """The profile a recipe's source names, for artwork in `space`. `RecipeError` says what to choose instead."""
    way_out = _WAYS_OUT[space]
    if choice in RGB_SPACES and space == "RGB":
        return rgb_profile(choice)
    found = embedded if choice == "embedded" else (stored or {}).get(choice)
    if found is None and choice != "embedded":
        raise RecipeError(f"The source profile '{choice}' is not known for {space} artwork; {way_out}.")
    if found is None:
        raise RecipeError(f"The artwork has no embedded profile, so its numbers have no color yet: {way_out}.")
    if found.header.space.strip() != space:
        raise RecipeError(
            f"The profile '{found.name}' describes {found.header.space.strip()}, not {space}: {way_out}."
        )
    return found
