"""Documents taken in, looked at and read out: parsed and drawn in the sandbox, decided here."""

import tempfile
from pathlib import Path
from typing import Any, Literal

from django.contrib.auth.models import User
from django.db import transaction

from plinto_core.errors import DocumentError
from plinto_core.icc.standard import rgb_profile
from plinto_core.pdf.apply import apply
from plinto_core.pdf.plates import plate_documents
from plinto_core.pdf.proof import ProofView, paper, proof_document
from plinto_core.pdf.report import report
from plinto_core.policy.conversion import destination_of
from plinto_core.sandbox.client import Limits, sandbox
from plinto_server.errors import MissingError, TooLargeError
from plinto_server.files import store
from plinto_server.files.store import Part
from plinto_server.intake.names import clean_name
from plinto_server.policies.models import Document, Output
from plinto_server.policies.outputs import Prepared, prepared
from plinto_server.warm import shelves

MOST_BYTES = 1 << 30
#: A document of thousands of pages is walked while its sender waits.
_WALK, _DRAW = Limits(1536, 60, 75.0), Limits(1536, 20, 30.0)
Look = Literal["came", "prints", "plate"]
#: Decisions told to the screen; the report that is written has all of them.
_MOST_RECORDS = 5000


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
    told = sandbox.run("document", {"path": str(part.path), "name": name}, name, _WALK)
    with transaction.atomic():
        store.keep(part)
        found, _ = Document.objects.get_or_create(
            sha256=part.sha256,
            defaults={
                "name": name, "bytes": part.bytes, "pages": told["pages"], "facts": told["facts"], "taken_in_by": user,
            },
        )  # fmt: skip
    return found, f"'{name}' was taken in."


def remove(found: Document) -> None:
    """Take a document off the shelf; what was made of it stays."""
    found.delete()


def decisions(document: Document, output: Output) -> dict[str, Any]:
    """What an output would do with a document, color by color; worked out once for each version of either."""
    ready = prepared(output)

    def decide() -> dict[str, Any]:
        done = apply(
            store.path_of(document.sha256), None, ready.policy, ready.rule, ready.condition, name=document.name,
            limit=ready.limit, profiles=ready.profiles, boxes=True,
        )  # fmt: skip
        letters = destination_of(ready.policy.into, ready.condition, ready.limit).letters
        told = report(done, ready.policy, letters)
        told["objects"] = sum(done.counts.values())
        told["more"] = max(0, len(told["records"]) - _MOST_RECORDS)
        told["records"] = told["records"][:_MOST_RECORDS]
        return told

    return shelves.looks.get(("decisions", document.sha256, ready.key), decide)


def page_picture(
    document: Document, page: int, ppi: float, look: Look, output: Output | None, plate: str = ""
) -> bytes:
    """A page (from 0) as PNG: as it came, as it prints through an output, or one ink of that. Raises `PlintoError`."""
    if not 0 <= page < document.pages:
        raise DocumentError(f"There is no page {page + 1}; '{document.name}' has {document.pages}.")
    if look == "came" or output is None:
        key: tuple[object, ...] = ("page", document.sha256, page, ppi)
        path = store.path_of(document.sha256)
        return shelves.pictures.get(key, lambda: _drawn(path, page, ppi, (255, 255, 255), document.name))
    ready = prepared(output)
    key = ("page", document.sha256, page, ppi, look, plate, ready.key)
    return shelves.pictures.get(key, lambda: _printed(document, page, ppi, plate if look == "plate" else "", ready))


def _printed(document: Document, page: int, ppi: float, plate: str, ready: Prepared) -> bytes:
    path, white = store.path_of(document.sha256), (255, 255, 255)
    if plate:
        made = plate_documents(
            path, page, ready.policy, ready.condition, limit=ready.limit, profiles=ready.profiles, only=plate
        )
        data = made.pages[plate]
    else:
        view = ProofView(rgb_profile("sRGB"), substrate=True)
        data, _ = proof_document(
            path, page, ready.policy, ready.condition, limit=ready.limit, profiles=ready.profiles, view=view
        )
        white = paper(ready.condition, view)
    with tempfile.NamedTemporaryFile(dir=store.making_folder(), suffix=".pdf") as file:
        file.write(data)
        file.flush()
        return _drawn(Path(file.name), 0, ppi, white, document.name)


def _drawn(path: Path, page: int, ppi: float, white: tuple[int, int, int], name: str) -> bytes:
    with tempfile.NamedTemporaryFile(dir=store.making_folder(), suffix=".png") as out:
        given = {"path": str(path), "number": page, "ppi": ppi, "paper": list(white), "out": out.name}
        sandbox.run("page", given, name, _DRAW)
        return Path(out.name).read_bytes()
