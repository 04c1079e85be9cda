"""What on a page has no appearance of its own: whoever opens the document draws it, in colors that no policy reaches."""

from typing import Any

import pikepdf

#: Flags of an annotation (table 165).
_HIDDEN, _PRINTED = 1 << 1, 1 << 2
#: Opened by a click, and not printed.
_NOT_DRAWN = {"/Popup", "/Link"}


def drawn_by_readers(pdf: pikepdf.Pdf, page: Any) -> int:
    """How many annotations of a page are printed, and drawn by whoever opens the document: those without a normal
    appearance (12.5.5), and form fields of a document that asks for theirs to be drawn anew (table 218)."""
    form = pdf.Root.get("/AcroForm")
    anew = isinstance(form, pikepdf.Dictionary) and form.get("/NeedAppearances", False) is True
    given = page.obj.get("/Annots", [])
    return sum(
        _printed(each) and (not _appears(each) or (anew and each.get("/Subtype", "") == "/Widget"))
        for each in (given if isinstance(given, pikepdf.Array) else [])
        if isinstance(each, pikepdf.Dictionary)
    )


def _printed(annotation: Any) -> bool:
    flags = annotation.get("/F", 0)
    shown = isinstance(flags, int) and flags & _PRINTED and not flags & _HIDDEN
    return bool(shown) and str(annotation.get("/Subtype", "")) not in _NOT_DRAWN


def _appears(annotation: Any) -> bool:
    appearances = annotation.get("/AP")
    return isinstance(appearances, pikepdf.Dictionary) and "/N" in appearances
