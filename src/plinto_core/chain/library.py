"""Profiles and conditions by digest, with what is expensive to know about them kept on disk."""

import threading
import zipfile
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from plinto_core.chain.node_store import NodeStore
from plinto_core.computed_once import computed_once
from plinto_core.errors import RecipeError
from plinto_core.files import write_whole
from plinto_core.icc.profile import Profile
from plinto_core.icc.standard import RGB_SPACES, rgb_profile
from plinto_core.press.calibration import Calibration, calibration_of
from plinto_core.press.model import ForwardModel, model_from_profile
from plinto_core.separation.tables import InverseTables

#: Part of every name on disk: what was kept by other code is not taken for this one's.
_TABLES_VERSION = 8


@dataclass(frozen=True)
class Condition:
    """A printing condition as the core needs it: its profile, what the inks do, and where links' nodes are kept."""

    profile: Profile
    model: ForwardModel
    tables: InverseTables = field(repr=False)
    nodes: NodeStore | None = field(default=None, repr=False, compare=False)

    @computed_once
    def calibration(self) -> Calibration | None:
        """What its separations are printed through, where the profile carries it."""
        return calibration_of(self.profile)


class Library:
    """Conditions by profile, computed once; inverse tables under `cache_dir` by the profile's digest."""

    def __init__(self, cache_dir: Path) -> None:
        self._cache_dir = cache_dir
        self._conditions: dict[str, Condition] = {}
        self._lock = threading.Lock()

    def condition(self, profile: Profile) -> Condition:
        """The condition that an output profile describes. Raises `IccError` for other profiles."""
        with self._lock:
            found = self._conditions.get(profile.digest)
            if found is None:
                found = self._conditions[profile.digest] = compute_condition(profile, self._cache_dir)
            return found


def compute_condition(profile: Profile, cache_dir: Path) -> Condition:
    """The condition that an output profile describes; its inverse tables are kept in `cache_dir`.

    Raises `IccError` for other profiles.
    """
    model = model_from_profile(profile)
    path = tables_path(cache_dir, profile.digest)
    if path.exists():
        try:
            with np.load(path) as kept:
                tables = InverseTables(kept["inks"], kept["gray_component"])
                return Condition(profile, model, tables, NodeStore(cache_dir))
        except (OSError, ValueError, KeyError, EOFError, zipfile.BadZipFile):
            # A damaged cache is no loss: what follows makes it again.
            path.unlink(missing_ok=True)
    # What solves takes half a second to load, and is needed but once for a profile.
    from plinto_core.separation.inverse import precompute

    tables = precompute(model)
    cache_dir.mkdir(parents=True, exist_ok=True)
    write_whole(path, lambda part: _save(part, tables))
    return Condition(profile, model, tables, NodeStore(cache_dir))


def tables_path(cache_dir: Path, profile_digest: str) -> Path:
    """Where the inverse tables of a profile are kept."""
    return cache_dir / f"inverse-{_TABLES_VERSION}-{profile_digest}.npz"


def _save(path: Path, tables: InverseTables) -> None:
    with path.open("wb") as file:
        np.savez(file, inks=tables.inks, gray_component=tables.gray_component)


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
