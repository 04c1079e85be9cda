"""What a document is made of: boxes, output intents, color spaces, pictures, spots, overprint, transparency."""

from collections import defaultdict
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import pikepdf

from plinto_core.errors import IccError
from plinto_core.icc.profile import parse
from plinto_core.pdf.conformance import conformance, said_of_itself
from plinto_core.pdf.document import opened
from plinto_core.pdf.frames import frames
from plinto_core.pdf.guesses import spread_of_guesses
from plinto_core.pdf.reading import cause
from plinto_core.pdf.state import ColorUse
from plinto_core.pdf.walk import walk

_MM = 25.4 / 72
_BOXES = ("MediaBox", "CropBox", "BleedBox", "TrimBox", "ArtBox")


@dataclass
class SpaceUse:
    """How often colors of a space are painted, by kind of object, and on which pages (from 1)."""

    kind: str
    tagged: bool
    said: str = ""
    text: int = 0
    line_art: int = 0
    images: int = 0
    shadings: int = 0
    pages: set[int] = field(default_factory=set)


@dataclass
class PictureUse:
    """A picture, once however often it is placed; ppi as it is placed most coarsely and most finely."""

    space: str
    width: int
    height: int
    bits: int
    compression: str
    least_ppi: float
    most_ppi: float
    placed: int
    first: str


def inspect_document(path: Path, password: str = "", shown_as: str = "") -> dict[str, Any]:
    """All there is to tell of a PDF without drawing it, as plain values. Raises `DocumentError`."""
    with opened(path, shown_as, password) as pdf:
        uses = list(walk(pdf))
        return {
            "name": shown_as or path.name,
            "version": pdf.pdf_version,
            "pages": len(pdf.pages),
            "locked": pdf.is_encrypted,
            "frames": [each.to_json() for each in frames(pdf)],
            "objects": sum(not use.in_mask for use in uses),
            "boxes mm": _boxes(pdf),
            "output intents": [_intent(intent) for intent in pdf.Root.get("/OutputIntents", [])],
            "spaces": _spaces(uses),
            "pictures": _pictures(uses),
            "guesses": spread_of_guesses(uses),
            "spots": _spots(uses),
            "text colors": _text_colors(uses),
            "overprint": _overprint(uses),
            "transparency": _transparency(pdf, uses),
            "layers": _layers(pdf),
            "says it is": said_of_itself(pdf),
            "PDF/X": conformance(pdf, [use for use in uses if not use.in_mask]),
        }


def _layers(pdf: pikepdf.Pdf) -> int:
    optional = pdf.Root.get("/OCProperties")
    return len(optional.get("/OCGs", [])) if isinstance(optional, pikepdf.Dictionary) else 0


def _boxes(pdf: pikepdf.Pdf) -> dict[str, list[list[float]]]:
    """Width and height of each box in millimeters, each size once."""
    found: dict[str, list[list[float]]] = {}
    for page in pdf.pages:
        for name in _BOXES:
            box = page.obj.get(f"/{name}") if name != "MediaBox" else page.mediabox
            if box is None:
                continue
            left, bottom, right, top = (float(value) for value in box)
            size = [round(abs(right - left) * _MM, 1), round(abs(top - bottom) * _MM, 1)]
            if size not in found.setdefault(name, []):
                found[name].append(size)
    return found


def _intent(intent: Any) -> dict[str, str]:
    told = {
        "kind": str(intent.get("/S", ""))[1:],
        "condition": str(intent.get("/OutputConditionIdentifier", "")),
        "info": str(intent.get("/Info", "")),
    }
    profile = intent.get("/DestOutputProfile")
    if isinstance(profile, pikepdf.Stream):
        try:
            known = parse(bytes(profile.read_bytes()))
            told |= {"profile": known.name, "space": known.header.space.strip()}
        except (IccError, pikepdf.PdfError) as error:
            told["profile"] = f"cannot be used: {cause(error)}"
    return told


def _spaces(uses: list[ColorUse]) -> dict[str, dict[str, Any]]:
    found: dict[str, SpaceUse] = {}
    counts = {"text": "text", "line art": "line_art", "image": "images", "shading": "shadings"}
    for use in uses:
        if use.in_mask:
            continue
        space = use.space
        entry = found.setdefault(space.label, SpaceUse(space.kind, space.tagged, space.said))
        name = counts[use.object]
        setattr(entry, name, getattr(entry, name) + 1)
        entry.pages.add(use.page)
    return {
        label: {
            "kind": each.kind, "tagged": each.tagged, "text": each.text, "line art": each.line_art,
            "pictures": each.images, "shadings": each.shadings, "on pages": len(each.pages), "first page": min(each.pages),
            **({"note": each.said} if each.said else {}),
        }
        for label, each in found.items()
    }  # fmt: skip


def _pictures(uses: list[ColorUse]) -> list[dict[str, Any]]:
    found: dict[Any, PictureUse] = {}
    for use in uses:
        picture = use.picture
        if picture is None or use.in_mask:
            continue
        key = picture.key if picture.key != (0, 0) else use.where
        known = found.get(key)
        if known is None:
            space = "mask, painted in " + use.space.label if picture.is_mask else use.space.label
            found[key] = PictureUse(
                space, picture.width, picture.height, picture.bits, picture.compression, picture.ppi, picture.ppi, 1,
                f"page {use.page}",
            )  # fmt: skip
            continue
        known.least_ppi, known.most_ppi = min(known.least_ppi, picture.ppi), max(known.most_ppi, picture.ppi)
        known.placed += 1
    return [
        {
            "space": each.space, "width": each.width, "height": each.height, "bits": each.bits,
            "compression": each.compression, "least ppi": round(each.least_ppi, 1), "most ppi": round(each.most_ppi, 1),
            "placed": each.placed, "first": each.first,
        }
        for each in found.values()
    ]  # fmt: skip


def _spots(uses: list[ColorUse]) -> dict[str, dict[str, Any]]:
    """Inks by name, process names in DeviceN and Separation included, with the space that they come down to."""
    found: dict[str, dict[str, Any]] = {}
    for use in uses:
        space = use.space if use.space.kind == "spot" or not use.space.under else use.space.under
        for name in space.names if space.kind == "spot" else ():
            if name == "None" or use.in_mask:
                continue
            under = space.under.label if space.under else ""
            entry = found.setdefault(name, {"comes down to": under, "objects": 0, "pages": set()})
            entry["objects"] += 1
            entry["pages"].add(use.page)
    return {name: each | {"pages": len(each["pages"])} for name, each in found.items()}


def _text_colors(uses: list[ColorUse]) -> list[dict[str, Any]]:
    found: dict[Any, dict[str, Any]] = {}
    for use in uses:
        if use.object != "text" or use.in_mask:
            continue
        key = use.space.label, use.values
        entry = found.setdefault(key, {"space": key[0], "values": list(use.values), "fonts": set(), "times": 0})
        entry["fonts"].add(use.font)
        entry["times"] += 1
    return [each | {"fonts": sorted(each["fonts"])} for each in found.values()]


def _overprint(uses: list[ColorUse]) -> dict[str, int]:
    """Objects that overprint, and among them white ones, which vanish."""
    over = [use for use in uses if use.overprint and not use.in_mask]
    white = [use for use in over if _is_white(use)]
    return {"objects": len(over), "with mode 1": sum(use.overprint_mode == 1 for use in over), "white": len(white)}


def _is_white(use: ColorUse) -> bool:
    if not use.values:
        return False
    nothing = 0.0 if use.space.kind in ("CMYK", "spot") else 1.0
    return use.space.kind != "Lab" and all(value == nothing for value in use.values)


def _transparency(pdf: pikepdf.Pdf, uses: list[ColorUse]) -> dict[str, Any]:
    blends: dict[str, int] = defaultdict(int)
    for use in uses:
        if use.blend not in ("Normal", "Compatible"):
            blends[use.blend] += 1
    groups = {str(page.obj["/Group"].get("/CS", "of the page"))[:60] for page in pdf.pages if "/Group" in page.obj}
    return {
        "blend modes": dict(blends),
        "see-through objects": sum(use.alpha < 1 for use in uses),
        "masked objects": sum(use.masked for use in uses),
        "page groups blend in": sorted(groups),
    }
