"""Apps of the server know only what stands above them."""

from pathlib import Path

import plinto_server
from tests.circles import circle_of
from tests.core.test_layers import imported

ROOT = Path(plinto_server.__file__).parent

#: In the order of their layers; `api` and `urls` put them together.
LAYERS = (
    "errors", "strict_json", "two_ways", "described", "machines", "settings", "one_writer", "devices", "files", "records",
    "warm", "jobs", "intake", "accounts", "removals", "house", "conditions", "artworks", "bench", "characterizations",
    "policies", "colors", "batches", "api", "guide", "urls",
)  # fmt: skip


def test_each_app_imports_only_what_stands_above_it():
    """Six apps imported each other in a circle, held together by twenty imports inside functions."""
    found = []
    for path in ROOT.rglob("*.py"):
        parts = path.relative_to(ROOT).parts
        own = parts[0] if len(parts) > 1 else path.stem
        if own not in LAYERS or "migrations" in parts:
            continue
        for name in imported(path):
            other = name.split(".")[1] if name.startswith("plinto_server.") else own
            if LAYERS.index(other) > LAYERS.index(own):
                found.append(f"{path.relative_to(ROOT)} imports {name}")
    assert found == []


def test_no_files_import_each_other_in_a_circle():
    """Layers are packages; inside of one, queue, brokers and tasks did."""
    assert circle_of(ROOT, "plinto_server") == []
