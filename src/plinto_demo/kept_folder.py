"""Where what takes the demo long to make stays, for whatever process asks for it next."""

import hashlib
import os
import tempfile
from functools import cache
from pathlib import Path


@cache
def kept_folder() -> Path:
    """A folder for what exactly this code makes, under PLINTO_SHOP or the temporary folder; it exists."""
    code = hashlib.sha256()
    for package in ("plinto_core", "plinto_demo"):
        for file in sorted((Path(__file__).parent.parent / package).rglob("*.py")):
            code.update(file.read_bytes())
    parent = Path(os.environ.get("PLINTO_SHOP") or Path(tempfile.gettempdir()) / "plinto-shop")
    folder = parent / code.hexdigest()[:16]
    folder.mkdir(parents=True, exist_ok=True)
    return folder
