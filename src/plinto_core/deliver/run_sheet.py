"""The run sheet: how a file was made, completely; read again to make the file once more."""

import json
import platform
from importlib.metadata import version
from pathlib import Path
from typing import Any

from plinto_core import __version__
from plinto_core.chain.compiled import Chain
from plinto_core.deliver.separate import Outcome
from plinto_core.errors import RecipeError
from plinto_core.inks.drive import driven_by_rgb
from plinto_core.raster.opened import Artwork

RUN_SHEET_VERSION = 4
#: Version 2 had no margin and left the file that pixels were read from to its reader; until 3 the link had a digest of its
#: nodes, which a small picture does not need all of.
_READABLE = (2, 3, 4)


def run_sheet(artwork: Artwork, artwork_sha256: str, chain: Chain, outcome: Outcome, name: str) -> dict[str, Any]:
    """With it and the profiles it names, the same bytes can be made again."""
    source, target = chain.source.profile, chain.condition.profile
    negative, rgb = chain.recipe.deliver.format == "negative", driven_by_rgb(chain.condition.model.inks)
    measured = not negative and not rgb
    means = dict(zip(outcome.inks, (round(v, 3) for v in outcome.mean_percent), strict=True))
    return {
        "run_sheet": RUN_SHEET_VERSION,
        "written": {"name": name, "sha256": outcome.sha256, "bytes": outcome.bytes},
        "artwork": {
            "name": artwork.name,
            "sha256": artwork_sha256,
            "format": artwork.format,
            "stored_as": artwork.stored_as,
            "width": artwork.width,
            "height": artwork.height,
            "depth": artwork.depth,
            "resolution_ppi": artwork.resolution_ppi,
            "pixels_sha256": artwork_sha256,
            "page": artwork.flattening.page,
            "ground": list(artwork.flattening.ground),
            "notes": list(artwork.notes),
        },
        "source_profile": {"name": source.name, "sha256": source.digest},
        "condition": {
            "name": target.name,
            "sha256": target.digest,
            "inks": list(chain.condition.model.inks),
            "ink_names": [chain.condition.model.name_of(ink) for ink in chain.condition.model.inks],
            "driven_by": "RGB" if rgb else "inks",
            "profile_embedded": chain.recipe.deliver.embed_profile,
        },
        "recipe": chain.recipe.to_json(),
        "recipe_digest": chain.recipe.digest,
        "line_digest": chain.digest,
        "black_point_lab": [round(float(v), 3) for v in chain.inverse.black_point_lab] if chain.rebuilt else None,
        # A negative is no ink: its film is dark where the print is light.
        "total_ink_limit_percent": chain.recipe.ink.limits.total_percent if measured and chain.rebuilt else None,
        "margin_percent": round(outcome.margin_percent, 3),
        "held_share": round(outcome.held_share, 6),
        "written_inks": ["R", "G", "B"] if rgb and not negative else list(outcome.inks),
        # How much ink there is, a printer driven by RGB decides.
        "largest_coverage_percent": None if rgb and not negative else round(outcome.largest_percent, 3),
        "largest_coverage_at": None if rgb and not negative else list(outcome.largest_at),
        "mean_coverage_percent": {} if rgb and not negative else means,
        "versions": versions_here(),
    }


def versions_here() -> dict[str, str]:
    """Versions of everything that a file's bytes depend on."""
    parts = ("numpy", "scipy", "numba", "imagecodecs", "tifffile", "pillow", "pikepdf", "reportlab")
    return {"plinto": __version__, "python": platform.python_version(), **{part: version(part) for part in parts}}


def differing_versions(sheet: dict[str, Any]) -> list[str]:
    """What this machine has in another version than the one that wrote the sheet, as 'numpy 2.1 instead of 2.0'."""
    here, there = versions_here(), dict(sheet.get("versions", {}))
    return [f"{part} {here[part]} instead of {then}" for part, then in there.items() if here.get(part, then) != then]


def read_run_sheet(path: Path) -> dict[str, Any]:
    """A run sheet from its JSON file. Raises `RecipeError` saying what it lacks."""
    try:
        plain = json.loads(path.read_bytes())
        if plain["run_sheet"] not in _READABLE:
            raise RecipeError(
                f"'{path.name}' is a run sheet of version {plain['run_sheet']}; this Plinto reads {_READABLE}."
            )
        found: dict[str, Any] = plain
        for part in ("written", "artwork", "source_profile", "condition"):
            found[part]["sha256"], found[part]["name"]
    except (ValueError, KeyError, TypeError, RecursionError) as error:
        raise RecipeError(
            f"'{path.name}' is no run sheet ({error}). Take the JSON that came with the file."
        ) from error
    return found
