"""Documents decided and taken apart in the sandbox: what a document does to its decoders, it does to no process of ours."""

import json
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.conf import settings

from plinto_core.sandbox.client import Limits, sandbox
from plinto_server.files import store

Plain = dict[str, Any]
#: Somebody waits: a document of as many objects as are decided while one does.
AT_ONCE = Limits(1536, 60, 60.0)
#: Of a job: what any document may take, and what each megabyte and page adds. 1 GB of pictures took 42 to 58 s, 600 pages
#: of 300 objects 8 s, on two cores.
_JOB_MEGABYTES, _SECONDS, _A_MEGABYTE, _A_PAGE = 3072, 300, 1.0, 0.5


def limits_of(document_bytes: int, pages: int, times: int = 1) -> Limits:
    """For a job that goes through a document so many times."""
    seconds = round(times * (_SECONDS + _A_MEGABYTE * document_bytes / 1e6 + _A_PAGE * pages))
    return Limits(_JOB_MEGABYTES, seconds, seconds * 2.0)


def told(
    task: str, sha256: str, name: str, given: Plain, limits: Limits, *,
    progress: Callable[[float], None] = lambda share: None, cancelled: Callable[[], bool] = lambda: False,
) -> Plain:  # fmt: skip
    """What a task that writes JSON says of a stored document called `name`. Raises `PlintoError`."""
    with _folder() as folder:
        out = Path(folder) / "told.json"
        sandbox.run(task, _asked(sha256, name, out) | given, name, limits, cancelled, progress)
        found: Plain = json.loads(out.read_bytes())
        return found


def page_document(
    sha256: str, name: str, number: int, side: Plain, converted: str | None = None
) -> tuple[bytes, list[int]]:
    """A page (from 0) as it prints, as a document to be drawn; the color of its paper. Raises `PlintoError`."""
    with _folder() as folder:
        out = Path(folder) / "page.pdf"
        given = _asked(sha256, name, out) | {"number": number, "side": side, "converted": converted}
        paper = sandbox.run("printed", given, name, AT_ONCE)["paper"]
        return out.read_bytes(), paper


def page_plates(sha256: str, name: str, number: int, side: Plain) -> tuple[dict[str, bytes], tuple[str, ...]]:
    """A page's plates (from 0), each a document to be drawn, and what was no ink and was guessed. Raises `PlintoError`."""
    with _folder() as folder:
        given = _asked(sha256, name, Path(folder)) | {"number": number, "side": side}
        found = sandbox.run("plates", given, name, AT_ONCE)
        pages = {plate: (Path(folder) / f"{at}.pdf").read_bytes() for at, plate in enumerate(found["names"])}
        return pages, tuple(found["guessed"])


def _asked(sha256: str, name: str, out: Path) -> Plain:
    return {"path": str(store.path_of(sha256)), "name": name, "cache": str(settings.CACHE_DIR), "out": str(out)}


def _folder() -> "tempfile.TemporaryDirectory[str]":
    return tempfile.TemporaryDirectory(dir=store.making_folder(), prefix="document-")
