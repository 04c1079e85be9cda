"""Documents as tasks of the sandbox: walked, drawn, decided, written and taken apart.

Every one of these unpacks what is in the document. Sides come as plain values (see `pdf.side.side_of_plain`); what is more
than a few words goes into a file. Whatever is written meanwhile lies beside it, so that one who is ended leaves nothing.
"""

import json
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PIL import Image

from plinto_core.errors import DocumentError, PolicyError
from plinto_core.icc.standard import RGB_SPACES, rgb_profile
from plinto_core.pdf.apply import apply
from plinto_core.pdf.compare import compare_sides
from plinto_core.pdf.document import opened
from plinto_core.pdf.draw import draw
from plinto_core.pdf.frames import frames
from plinto_core.pdf.inspect import inspect_document
from plinto_core.pdf.plates import plate_documents
from plinto_core.pdf.proof import ProofView, paper, proof_document
from plinto_core.pdf.report import report as as_report
from plinto_core.pdf.set_up import Converted, set_up_document
from plinto_core.pdf.side import Side, side_of_plain
from plinto_core.policy.policy import policy_from_json
from plinto_core.policy.ready_made import READY_MADE
from plinto_core.policy.rule import DeliveryRule, rule_from_json
from plinto_core.sandbox.progress import report

Plain = dict[str, Any]


def document(path: str, name: str, most_pages: int) -> Plain:
    """Pages of a document and, unless it has more than `most_pages`, what it is made of: every color of it walked."""
    with opened(Path(path), name) as pdf:
        pages = len(pdf.pages)
        if not pages:
            raise DocumentError(f"'{name}' has no pages. Export it again.")
        if pages > most_pages:
            return {"pages": pages, "frames": [each.to_json() for each in frames(pdf)], "facts": {}}
    told = inspect_document(Path(path), shown_as=name)
    return {"pages": pages, "frames": told.pop("frames"), "facts": told}


def page(path: str, number: int, ppi: float, paper: list[int], out: str, part: list[int] | None = None) -> Plain:
    """Draw a page (from 0) of a document, or a part of it in pixels, into a PNG."""
    red, green, blue = paper
    left, top, width, height = part or (0, 0, 0, 0)
    pixels = draw(Path(path), number, ppi, (red, green, blue), (left, top, width, height) if part else None)
    Image.fromarray(pixels).save(out, "PNG", compress_level=1)
    return {"width": pixels.shape[1], "height": pixels.shape[0]}


def decided(path: str, name: str, side: Plain, cache: str, out: str, page: int | None = None) -> Plain:
    """What a side would do with a document, or with a page of it (from 0), color by color, as a report (JSON) in `out`."""
    through = _side(side, cache, out)
    done = apply(
        Path(path), None, through.policy, through.rule, through.condition, name=name, limit=through.limit,
        profiles=through.profiles, boxes=True, pages=None if page is None else range(page, page + 1), progress=report,
    )  # fmt: skip
    told = as_report(done, through.policy, through.destination.letters)
    told["objects"] = sum(done.counts.values())
    Path(out).write_text(json.dumps(told, allow_nan=False))
    return {"pages": done.pages, "objects": told["objects"]}


def sent(path: str, name: str, side: Plain, cache: str, out: str, told: str) -> Plain:
    """Write what a side makes of a document to `out`, and the report to `told`. Raises `PolicyError` if it refuses."""
    through = _side(side, cache, out)
    done = apply(
        Path(path), Path(out), through.policy, through.rule, through.condition, name=name, limit=through.limit,
        profiles=through.profiles, boxes=True, progress=report,
    )  # fmt: skip
    if done.refused:
        reasons = "; ".join(done.refusals[:5])
        more = f"; and {len(done.refusals) - 5} more" if len(done.refusals) > 5 else ""
        raise PolicyError(f"Refused by '{through.policy.name}': {reasons}{more}")
    Path(told).write_text(json.dumps(as_report(done, through.policy, through.destination.letters), allow_nan=False))
    return {"pages": done.pages, "counts": dict(done.counts)}


def compared(path: str, name: str, one: Plain, other: Plain, cache: str, out: str) -> Plain:
    """Where two sides differ on a document, as JSON in `out`."""
    told = compare_sides(Path(path), _side(one, cache, out), _side(other, cache, out), shown_as=name, progress=report)
    Path(out).write_text(json.dumps(told, allow_nan=False))
    return {}


def printed(
    path: str, name: str, number: int, side: Plain, cache: str, out: str, converted: Converted | None = None
) -> Plain:
    """A page (from 0) as it prints, or as a ticket that converts `converted` prints it, as a document in `out`; the display
    color of its paper."""
    through = _side(side, cache, out)
    view = ProofView(rgb_profile("sRGB"), substrate=True)
    if converted:
        if through.condition is None:
            raise PolicyError("What a wrong ticket prints is known of a condition only: choose one for this output.")
        data = set_up_document(
            Path(path), number, converted, through.policy, through.condition, view=view, limit=through.limit,
            profiles=through.profiles, shown_as=name,
        )  # fmt: skip
    else:
        data, _ = proof_document(
            Path(path), number, through.policy, through.condition, limit=through.limit, profiles=through.profiles,
            view=view, shown_as=name,
        )  # fmt: skip
    Path(out).write_bytes(data)
    return {"paper": list(paper(through.condition, view))}


def plates(path: str, name: str, number: int, side: Plain, cache: str, out: str) -> Plain:
    """A page (from 0) taken apart: documents `0.pdf`, `1.pdf` … in the folder `out`, one a plate, and the plates' names."""
    through = _side(side, cache, f"{out}/0.pdf")
    made = plate_documents(
        Path(path), number, through.policy, through.condition, limit=through.limit, profiles=through.profiles,
        shown_as=name,
    )  # fmt: skip
    for at, data in enumerate(made.pages.values()):
        (Path(out) / f"{at}.pdf").write_bytes(data)
    return {"names": list(made.pages), "guessed": list(made.guessed)}


def _side(given: Plain, cache: str, out: str) -> Side:
    """The side, with whatever is written meanwhile beside `out`: the child has one task, and its own folder for it."""
    tempfile.tempdir = str(Path(out).parent)
    return side_of_plain(given, Path(cache))


def warm_documents() -> None:
    """Have what every document needs before the first one comes: how plain values are read, and the profiles that are
    assumed."""
    policy_from_json(next(iter(READY_MADE.values())).to_json())
    rule_from_json(DeliveryRule().to_json())
    for space in RGB_SPACES:
        rgb_profile(space)


DOCUMENT_TASKS: dict[str, Callable[..., Plain]] = {
    "document": document, "page": page, "decided": decided, "sent": sent, "compared": compared, "printed": printed,
    "plates": plates,
}  # fmt: skip
