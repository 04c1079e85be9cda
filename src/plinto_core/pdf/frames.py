"""What of each page is shown: its crop box inside its media box, turned as it says (ISO 32000-2, 14.11.2 and 7.7.3.3)."""

from collections.abc import Iterator
from dataclasses import dataclass
from math import isfinite
from typing import Any

import pikepdf

from plinto_core.pdf.state import Box

#: Where a page has no box that can be used, as PDFium shows it: US letter.
_LETTER: Box = (0.0, 0.0, 612.0, 792.0)


@dataclass(frozen=True)
class Frame:
    """Pages one after the other that are shown alike: how many, left, bottom, right, top in points, and degrees
    clockwise."""

    pages: int
    box: Box
    turned: int

    def to_json(self) -> dict[str, Any]:
        """Plain values."""
        return {"pages": self.pages, "box": list(self.box), "turned": self.turned}


def frames(pdf: pikepdf.Pdf) -> list[Frame]:
    """The frames of all pages in their order; pages that are alike and stand together are told once."""
    found: list[Frame] = []
    for page in pdf.pages:
        box, turned = _box(page), _turned(page)
        if found and (found[-1].box, found[-1].turned) == (box, turned):
            found[-1] = Frame(found[-1].pages + 1, box, turned)
        else:
            found.append(Frame(1, box, turned))
    return found


def _box(page: pikepdf.Page) -> Box:
    media = _rectangle(_inherited(page, "/MediaBox")) or _LETTER
    crop = _rectangle(_inherited(page, "/CropBox")) or media
    left, bottom = max(media[0], crop[0]), max(media[1], crop[1])
    right, top = min(media[2], crop[2]), min(media[3], crop[3])
    return (left, bottom, right, top) if right > left and top > bottom else media


def _rectangle(found: Any) -> Box | None:
    try:
        x0, y0, x1, y1 = (round(float(value), 3) for value in found)
    except (TypeError, ValueError, ArithmeticError):
        return None
    if not isfinite(x0 + y0 + x1 + y1):
        return None
    box = min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1)
    return box if box[2] > box[0] and box[3] > box[1] else None


def _turned(page: pikepdf.Page) -> int:
    try:
        return int(_inherited(page, "/Rotate") or 0) % 360 // 90 * 90
    except (TypeError, ValueError, ArithmeticError):
        return 0


def _inherited(page: pikepdf.Page, key: str) -> Any:
    """A page's own value, or that of the nodes above it."""
    return next((node[key] for node in _upward(page.obj) if key in node), None)


def _upward(node: Any) -> Iterator[Any]:
    for _ in range(64):
        if not isinstance(node, pikepdf.Dictionary):
            return
        yield node
        node = node.get("/Parent")
