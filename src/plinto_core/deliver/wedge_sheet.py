"""A step wedge as a film: what a contact process is exposed through once, measured, and made a tone table of."""

from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw

from plinto_core.deliver.film import WEDGE_STEPS, film_font
from plinto_core.deliver.film_out import FilmPage
from plinto_core.deliver.pdf_out import Page, PlacedPicture, packed, write_pdf
from plinto_core.deliver.tiff_out import write_film_tiff
from plinto_core.recipe.film import FilmSettings

_PPI = 300
_ACROSS = 7
#: Side of a patch and the room around it, in millimetres: wide enough for the opening of any hand-held instrument.
_PATCH, _GAP = 18.0, 5.0


def wedge_plate() -> NDArray[np.uint16]:
    """The wedge (h, w) at 300 ppi, opaque 65535: `WEDGE_STEPS` numbered patches, step i opaque to i / (steps - 1).

    Step 1 is clear and prints black; between the patches the film is opaque, as around a picture on white paper.
    """
    side, gap = (round(mm / 25.4 * _PPI) for mm in (_PATCH, _GAP))
    down = -(-WEDGE_STEPS // _ACROSS)
    tones = Image.new("L", (_ACROSS * (side + gap) + gap, down * (side + gap) + gap), 255)
    draw, font = ImageDraw.Draw(tones), film_font(round(gap * 0.6))
    for step in range(WEDGE_STEPS):
        x, y = gap + step % _ACROSS * (side + gap), gap + step // _ACROSS * (side + gap)
        draw.rectangle((x, y, x + side - 1, y + side - 1), fill=round(255 * step / (WEDGE_STEPS - 1)))
        # A number prints black, in the gap below its patch; a hair around the patch tells where paper white begins.
        draw.text((x, y + side + gap * 0.12), str(step + 1), fill=0, font=font)
        draw.rectangle((x - 2, y - 2, x + side + 1, y + side + 1), outline=0, width=1)
    return np.asarray(tones).astype(np.uint16) * np.uint16(257)


def write_wedge_sheet(path: Path, settings: FilmSettings) -> None:
    """Write the wedge to `path`, PDF or TIFF as the settings' container, as the contact negative's film would be:
    its dots, its side, its margins. No tone table lies on it, for it is what a table is made from."""
    plate = wedge_plate()
    height, width = plate.shape
    sheet = FilmPage(
        lambda first, last: plate[first:last], width, height, float(_PPI), "Negative", "Step wedge", 0,
        f"{WEDGE_STEPS} steps, no tone table", settings,
    )  # fmt: skip
    if settings.container == "tiff":
        write_film_tiff(path, sheet.rows(), sheet.size, sheet.bits, sheet.dpi)
        return
    across, along = (pixels / sheet.dpi * 72 for pixels in sheet.size)
    picture = PlacedPicture(packed(sheet.rows()), *sheet.size, sheet.bits, (0, 0, across, along), None)
    write_pdf(path, [Page(across, along, [picture])], "Step wedge", None, None)
