"""Charts as files to print: patches in numbered rows, as a TIFF or as PDF pages."""

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from plinto_core.deliver.pdf_out import POINTS_PER_MM, Page, picture_of, write_pdf
from plinto_core.deliver.tiff_out import RGB, encoded_strips, write_ink_tiff
from plinto_core.inks.drive import driven_by_rgb, turned_codes
from plinto_core.inks.names import name_of
from plinto_core.press.model import ForwardModel

Array = NDArray[np.float64]

_PATCH_MM, _GAP_MM, _MARGIN_MM = 7.0, 0.5, 12.0
_PAGE_MM = (297.0, 420.0)
_PPI = 100.8  # four dots a millimetre, near enough: 7 mm patches come out as 28 dots
_COLUMNS = int((_PAGE_MM[0] - 2 * _MARGIN_MM - 8) // _PATCH_MM)
_ROWS = int((_PAGE_MM[1] - 2 * _MARGIN_MM - 24) // _PATCH_MM)


def place_of(patch: int) -> str:
    """Where a patch stands: page, row letter and column, as printed beside the rows ('1 B7')."""
    page, rest = divmod(patch, _COLUMNS * _ROWS)
    row, column = divmod(rest, _COLUMNS)
    letters = (chr(64 + row // 26) if row >= 26 else "") + chr(65 + row % 26)
    return f"{page + 1} {letters}{column + 1}"


def chart_codes(layout: Array) -> list[NDArray[np.uint8]]:
    """Ink codes (rows, columns, inks) of 8 bit for each page, bare substrate after the last patch."""
    pages = []
    on_a_page = _COLUMNS * _ROWS
    for begin in range(0, len(layout), on_a_page):
        part = layout[begin : begin + on_a_page]
        rows = -(-len(part) // _COLUMNS)
        codes = np.zeros((rows * _COLUMNS, layout.shape[1]), np.uint8)
        codes[: len(part)] = np.rint(part * 255)
        pages.append(codes.reshape(rows, _COLUMNS, -1))
    return pages


def chart_pages(layout: Array, inks: tuple[str, ...], title: str) -> list[Page]:
    """Pages of A3 with row letters, column numbers and the title."""
    width, height = (side * POINTS_PER_MM for side in _PAGE_MM)
    made = []
    pages = chart_codes(layout)
    for number, codes in enumerate(pages, 1):
        page = Page(width, height)
        left, top = (_MARGIN_MM + 8) * POINTS_PER_MM, height - (_MARGIN_MM + 14) * POINTS_PER_MM
        side = _PATCH_MM * POINTS_PER_MM
        page.text.append((left, top + 24, 11, title, True))
        told = "R G B" if driven_by_rgb(inks) else " ".join(inks)
        page.text.append(
            (left, top + 13, 7, f"{len(layout)} patches of {told}, page {number} of {len(pages)}. "
             "Print without color management; let it dry before it is measured.", False)
        )  # fmt: skip
        box = (left, top - side * len(codes), side * _COLUMNS, side * len(codes))
        page.pictures.append(picture_of(_with_gaps(codes), box, inks))
        for row in range(len(codes)):
            letter = place_of(row * _COLUMNS).split()[1].rstrip("0123456789")
            page.text.append((left - 14, top - side * (row + 0.62), 6, letter, False))
        for column in range(_COLUMNS):
            page.text.append((left + side * (column + 0.35), top + 3, 5, str(column + 1), False))
        made.append(page)
    return made


def _with_gaps(codes: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Each patch as 14 × 14 dots, the last of them bare, so that the eye and the head find the edges."""
    large = codes.repeat(14, axis=0).repeat(14, axis=1)
    large[13::14] = 0
    large[:, 13::14] = 0
    return large


def write_chart_pdf(path: Path, layout: Array, inks: tuple[str, ...], title: str, model: ForwardModel) -> None:
    """The chart as PDF pages; `model` tells a viewer what the inks look like."""
    write_pdf(path, chart_pages(layout, inks, title), title, model, None)


def write_chart_tiff(path: Path, layout: Array, inks: tuple[str, ...]) -> None:
    """The chart as one TIFF, pages below each other, no profile inside: its numbers are for the press as they are."""
    codes = np.concatenate([_with_gaps(page).repeat(2, axis=0).repeat(2, axis=1) for page in chart_codes(layout)])
    rgb = driven_by_rgb(inks)
    codes, names = (turned_codes(codes), RGB) if rgb else (codes, tuple(map(name_of, inks)))
    size = codes.shape[1], codes.shape[0]
    write_ink_tiff(
        path, encoded_strips(iter([codes]), size, np.dtype(np.uint8), len(names), "lzw"), size, np.dtype(np.uint8), names,
        "lzw", _PPI, None,
    )  # fmt: skip
