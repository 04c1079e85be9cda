"""The run sheet: how a file was made, completely."""

import platform
from importlib.metadata import version
from typing import Any

from plinto_core import __version__
from plinto_core.artwork.opened import Artwork
from plinto_core.chain.compiled import Chain
from plinto_core.deliver.separate import Outcome


def run_sheet(artwork: Artwork, artwork_sha256: str, chain: Chain, outcome: Outcome, name: str) -> dict[str, Any]:
    """With it and the profiles it names, the same bytes can be made again."""
    source, target = chain.source.profile, chain.condition.profile
    return {
        "run_sheet": 2,
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
            "page": artwork.flattening.page,
            "ground": list(artwork.flattening.ground),
            "notes": list(artwork.notes),
        },
        "source_profile": {"name": source.name, "sha256": source.digest},
        "condition": {
            "name": target.name,
            "sha256": target.digest,
            "inks": list(chain.condition.model.inks),
            "profile_embedded": chain.recipe.deliver.embed_profile,
        },
        "recipe": chain.recipe.to_json(),
        "recipe_digest": chain.recipe.digest,
        "link_digest": chain.link.digest if chain.recipe.deliver.format != "negative" else None,
        "black_point_lab": [round(float(v), 3) for v in chain.inverse.black_point_lab] if chain.rebuilt else None,
        "total_ink_limit_percent": chain.recipe.ink.limits.total_percent if chain.rebuilt else None,
        "largest_coverage_percent": round(outcome.largest_percent, 3),
        "largest_coverage_at": list(outcome.largest_at),
        "mean_coverage_percent": dict(zip(outcome.inks, (round(v, 3) for v in outcome.mean_percent), strict=True)),
        "versions": {
            "plinto": __version__,
            "python": platform.python_version(),
            **{
                part: version(part)
                for part in ("numpy", "scipy", "numba", "imagecodecs", "tifffile", "pillow", "pikepdf", "psd-tools")
            },
        },
    }
