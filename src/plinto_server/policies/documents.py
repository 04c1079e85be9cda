"""Documents taken in, looked at and read out: parsed, decided and drawn in the sandbox."""

import io
import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

import numpy as np
from django.contrib.auth.models import User
from django.db import transaction
from PIL import Image

from plinto_core.errors import DocumentError
from plinto_core.pdf.draw import POINTS_PER_INCH
from plinto_core.pdf.plates import PlateDocuments, Plates, coverage_picture
from plinto_core.policy.conversion import destination_of
from plinto_core.policy.ticket import Ticket, ticket_from_json
from plinto_core.sandbox.client import Limits, sandbox
from plinto_server.errors import MissingError, TooLargeError
from plinto_server.files import store
from plinto_server.files.store import Part
from plinto_server.intake.names import clean_name
from plinto_server.policies import sealed
from plinto_server.policies.models import Document, Output
from plinto_server.policies.outputs import Prepared, prepared
from plinto_server.removals import bin as removals
from plinto_server.warm import shelves
from plinto_server.warm.png import encode_png

MOST_BYTES = 1 << 30
_WALK, _DRAW = Limits(1536, 60, 75.0), Limits(1536, 20, 30.0)
Look = Literal["came", "prints", "plate", "coverage", "ticket"]
#: Documents up to this are walked while their sender waits.
_WALKED_PAGES, _WALKED_BYTES = 200, 24 << 20
#: Plates for figures are drawn as finely as a coverage meter sees a sheet.
_FIGURES_PPI = 72.0


def by_id(document_id: int) -> Document:
    """Raises `MissingError`."""
    found = Document.objects.filter(id=document_id).first()
    if found is None:
        raise MissingError("This document is not here any more. Choose another one.")
    return found


def take_in(part: Part, file_name: str, user: User | None) -> tuple[Document, str]:
    """A document from outside, and what to say of it. Raises `PlintoError`; nothing is kept then."""
    name = clean_name(file_name, "document.pdf")
    if part.bytes > MOST_BYTES:
        raise TooLargeError(f"'{name}' has {part.bytes >> 20} MB; a document has at most {MOST_BYTES >> 20}.")
    if not part.bytes:
        raise DocumentError(f"'{name}' is empty. Export it again.")
    if (known := Document.objects.filter(sha256=part.sha256).first()) is not None:
        return known, f"'{name}' is here already as '{known.name}': the same document to the last byte."
    # A large document is opened at once; what is in it is read by jobs, with progress.
    most = 0 if part.bytes > _WALKED_BYTES else _WALKED_PAGES
    told = sandbox.run("document", {"path": str(part.path), "name": name, "most_pages": most}, name, _WALK)
    with transaction.atomic():
        store.keep(part)
        found, _ = Document.objects.get_or_create(
            sha256=part.sha256,
            defaults={
                "name": name, "bytes": part.bytes, "pages": told["pages"], "facts": told["facts"], "frames": told["frames"],
                "taken_in_by": user,
            },
        )  # fmt: skip
    return found, f"'{name}' was taken in."


def remove(found: Document, author: User | None) -> None:
    """Take a document off the shelf; what was made of it stays."""
    removals.remove([found], found.name, author, "artwork")


@dataclass(frozen=True)
class Wanted:
    """How a page (from 0) is looked at: `part` is left, top, width and height in pixels at `ppi`; () is all of it."""

    page: int
    ppi: float
    look: Look = "came"
    plate: str = ""
    part: tuple[int, ...] = ()


def page_picture(document: Document, wanted: Wanted, output: Output | None) -> bytes:
    """A page as PNG: as it came, or as an output has it printed. Raises `PlintoError`."""
    _check_page(document, wanted.page)
    if wanted.look == "came" or output is None:
        key: tuple[object, ...] = ("page", document.sha256, wanted)
        path = store.path_of(document.sha256)
        return shelves.pictures.get(key, lambda: drawn(path, wanted.page, wanted, (255, 255, 255), document.name))
    ready = prepared(output)
    ticket = ticket_from_json(output.ticket)
    key = ("page", document.sha256, wanted, ready.key, ticket if wanted.look == "ticket" else None)
    return shelves.pictures.get(key, lambda: _printed(document, wanted, ready, ticket))


def page_inks(document: Document, page: int, output: Output) -> dict[str, Any]:
    """Inks of a page with what each covers, and the most on one spot with its place in points from left and top."""
    _check_page(document, page)
    ready = prepared(output)
    return shelves.looks.get(("inks", document.sha256, page, ready.key), lambda: _inks(document, page, ready))


def _inks(document: Document, page: int, ready: Prepared) -> dict[str, Any]:
    found = _plates(document, Wanted(page, _FIGURES_PPI), ready)
    largest, (column, row) = found.largest_total_percent
    scale = POINTS_PER_INCH / _FIGURES_PPI
    return {
        "inks": [{"name": name, "mean_percent": mean} for name, mean in found.mean_percent.items()],
        "largest_percent": round(largest, 1), "at": [round(column * scale, 1), round(row * scale, 1)],
        "limit_percent": ready.limit, "guessed": list(found.guessed),
    }  # fmt: skip


def _check_page(document: Document, page: int) -> None:
    if not 0 <= page < document.pages:
        raise DocumentError(f"There is no page {page + 1}; '{document.name}' has {document.pages}.")


def _plates(document: Document, wanted: Wanted, ready: Prepared) -> Plates:
    """Every plate of a page, or of the wanted part of it, drawn; the documents are made once a page."""
    made = _plate_pages(document, wanted.page, ready)
    planes = {}
    for name, data in made.pages.items():
        png = _drawn_bytes(data, Wanted(0, wanted.ppi, part=wanted.part), (255, 255, 255), document.name)
        planes[name] = np.asarray(Image.open(io.BytesIO(png)).convert("RGB"))
    return Plates.of(planes, made.guessed)


def _plate_pages(document: Document, page: int, ready: Prepared) -> PlateDocuments:
    """A page's documents, one a plate: for the plate that is looked at, for figures and for the map of ink alike."""
    return shelves.pictures.get(
        ("plate pages", document.sha256, page, ready.key),
        lambda: PlateDocuments(*sealed.page_plates(document.sha256, document.name, page, ready.plain)),
    )


def _printed(document: Document, wanted: Wanted, ready: Prepared, ticket: Ticket) -> bytes:
    white = (255, 255, 255)
    if wanted.look == "coverage":
        limit = ready.limit or destination_of(ready.policy.into, ready.condition).total_percent
        left, top = wanted.part[:2] if wanted.part else (0, 0)
        return encode_png(coverage_picture(_plates(document, wanted, ready), limit, (left, top)))
    if wanted.look == "plate":
        plates = _plate_pages(document, wanted.page, ready).pages
        if wanted.plate not in plates:
            raise DocumentError(f"There is no ink '{wanted.plate}' on this page. Choose one of {', '.join(plates)}.")
        return _drawn_bytes(plates[wanted.plate], wanted, white, document.name)
    # Tiles of one page are cut from one document.
    converted = ticket.converted if wanted.look == "ticket" else None
    data, (red, green, blue) = shelves.pictures.get(
        ("page document", document.sha256, wanted.page, ready.key, converted),
        lambda: sealed.page_document(document.sha256, document.name, wanted.page, ready.plain, converted),
    )
    return _drawn_bytes(data, wanted, (red, green, blue), document.name)


def _drawn_bytes(data: bytes, wanted: Wanted, white: tuple[int, int, int], name: str) -> bytes:
    with tempfile.NamedTemporaryFile(dir=store.making_folder(), suffix=".pdf") as file:
        file.write(data)
        file.flush()
        return drawn(Path(file.name), 0, wanted, white, name)


def drawn(path: Path, page: int, wanted: Wanted, white: tuple[int, int, int], name: str) -> bytes:
    """A page (from 0) of a file as PNG, on paper of this color, drawn in the sandbox. Raises `PlintoError`."""
    with tempfile.NamedTemporaryFile(dir=store.making_folder(), suffix=".png") as out:
        given = {
            "path": str(path), "number": page, "ppi": wanted.ppi, "paper": list(white), "out": out.name,
            "part": list(wanted.part) or None,
        }  # fmt: skip
        sandbox.run("page", given, name, _DRAW)
        return Path(out.name).read_bytes()
