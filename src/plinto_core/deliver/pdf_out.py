"""PDF pages of inks and of films: pictures as streams, text and lines drawn beside them (ISO 32000-2)."""

import io
import zlib
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
import pikepdf
from numpy.typing import NDArray
from pikepdf import Array, Dictionary, Name, Pdf, Stream
from reportlab import rl_config
from reportlab.lib.colors import CMYKColor, Color
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from plinto_core import __version__
from plinto_core.icc.profile import Profile
from plinto_core.inks.drive import driven_by_rgb, turned_codes
from plinto_core.press.model import ForwardModel
from plinto_core.raster.layout import Codes

POINTS_PER_MM = 72 / 25.4
FONT, BOLD = "Vera", "VeraBd"
#: Samples along each ink of the function that tells a viewer what the inks look like.
_TINT_SIZES = {1: 255, 2: 33, 3: 17, 4: 9, 5: 5, 6: 4, 7: 3, 8: 3}
_BLACK, _RGB_BLACK = CMYKColor(0, 0, 0, 1), Color(0, 0, 0)


@dataclass(frozen=True)
class PlacedPicture:
    """A picture's stream and where it lies on the page, in points from the lower left."""

    stream: bytes
    width: int
    height: int
    bits: int
    box: tuple[float, float, float, float]
    #: None for gray film, on which 1 is opaque.
    inks: tuple[str, ...] | None


@dataclass
class Page:
    """A page in points with its pictures and words, on paper: `text` is (x, y, size, words, bold)."""

    width: float
    height: float
    pictures: list[PlacedPicture] = field(default_factory=list)
    text: list[tuple[float, float, float, str, bool]] = field(default_factory=list)
    lines: list[tuple[float, float, float, float]] = field(default_factory=list)
    trim: tuple[float, float, float, float] | None = None


def packed(rows: Iterator[NDArray[Any]]) -> bytes:
    """Rows deflated as they come."""
    deflate = zlib.compressobj(3)
    parts = [deflate.compress(np.ascontiguousarray(band).tobytes()) for band in rows]
    return b"".join([*parts, deflate.flush()])


def picture_of(codes: Codes, box: tuple[float, float, float, float], inks: tuple[str, ...]) -> PlacedPicture:
    """Ink codes (h, w, inks) of 8 bit as a picture; of a printer driven by RGB, R, G, B of them."""
    shown = turned_codes(codes) if driven_by_rgb(inks) else codes
    return PlacedPicture(packed(iter([shown])), codes.shape[1], codes.shape[0], 8, box, inks)


def write_pdf(path: Path, pages: list[Page], title: str, model: ForwardModel | None, profile: Profile | None) -> None:
    """Write pages; `profile` becomes the output intent (ISO 15930-7, 6.2.2). Same content, same bytes."""
    with Pdf.open(io.BytesIO(_words(pages, title))) as pdf:
        spaces: dict[tuple[str, ...], Any] = {}
        for page, target in zip(pages, pdf.pages, strict=True):
            _place(pdf, page, target, model, spaces)
        if profile is not None:
            pdf.Root.OutputIntents = Array([output_intent(pdf, profile)])
        pdf.save(path, deterministic_id=True, object_stream_mode=pikepdf.ObjectStreamMode.disable)


def _words(pages: list[Page], title: str) -> bytes:
    rl_config.invariant = 1
    for name in (FONT, BOLD):
        if name not in pdfmetrics.getRegisteredFontNames():
            pdfmetrics.registerFont(TTFont(name, f"{name}.ttf"))
    out = io.BytesIO()
    canvas = Canvas(out, invariant=1, pageCompression=1, initialFontName=FONT)
    canvas.setTitle(title)
    canvas.setCreator(f"Plinto {__version__}")
    for page in pages:
        canvas.setPageSize((page.width, page.height))
        rgb = any(picture.inks and driven_by_rgb(picture.inks) for picture in page.pictures)
        canvas.setFillColor(_RGB_BLACK if rgb else _BLACK)
        canvas.setStrokeColor(_RGB_BLACK if rgb else _BLACK)
        canvas.setLineWidth(0.4)
        for x, y, size, words, bold in page.text:
            canvas.setFont(BOLD if bold else FONT, size)
            canvas.drawString(x, y, words)
        for line in page.lines:
            canvas.line(*line)
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def _place(pdf: Pdf, page: Page, target: Any, model: ForwardModel | None, spaces: dict[tuple[str, ...], Any]) -> None:
    commands = []
    for index, picture in enumerate(page.pictures):
        image = Stream(pdf, picture.stream)
        image.Type, image.Subtype, image.Filter = Name.XObject, Name.Image, Name.FlateDecode
        image.Width, image.Height, image.BitsPerComponent = picture.width, picture.height, picture.bits
        if picture.inks is None:
            image.ColorSpace, image.Decode = Name.DeviceGray, Array([1, 0])
        else:
            if picture.inks not in spaces:
                assert model is not None
                spaces[picture.inks] = ink_space(pdf, picture.inks, model)
            image.ColorSpace = spaces[picture.inks]
        name = f"/Plinto{index}"
        target.add_resource(image, Name.XObject, Name(name))
        left, bottom, width, height = picture.box
        commands.append(f"q {width:.4f} 0 0 {height:.4f} {left:.4f} {bottom:.4f} cm {name} Do Q")
    target.contents_add("\n".join(commands).encode() or b" ", prepend=True)
    left, bottom, right, top = page.trim or (0.0, 0.0, page.width, page.height)
    target.TrimBox = Array([round(left, 4), round(bottom, 4), round(right, 4), round(top, 4)])


def ink_space(pdf: Pdf, inks: tuple[str, ...], model: ForwardModel) -> Any:
    """DeviceCMYK, DeviceRGB, or DeviceN with a function that shows a viewer what inks look like (ISO 32000-2, 8.6.6.5)."""
    if inks == ("C", "M", "Y", "K"):
        return Name.DeviceCMYK
    if driven_by_rgb(inks):
        return Name.DeviceRGB
    size = _TINT_SIZES[len(inks)]
    axis = np.linspace(0, 1, size)
    # The function's first input varies fastest.
    grid = np.stack(np.meshgrid(*[axis] * len(inks), indexing="ij"), axis=-1)
    lab = model.lab(np.moveaxis(grid, range(len(inks)), range(len(inks) - 1, -1, -1)).reshape(-1, len(inks)))
    scaled = np.clip(np.column_stack([lab[:, 0] / 100, (lab[:, 1:] + 128) / 255]), 0, 1)
    function = Stream(pdf, zlib.compress(np.rint(scaled * 255).astype(np.uint8).tobytes()))
    function.FunctionType, function.Filter, function.BitsPerSample = 0, Name.FlateDecode, 8
    function.Size = Array([size] * len(inks))
    function.Domain = Array([0, 1] * len(inks))
    function.Range = function.Decode = Array([0, 100, -128, 127, -128, 127])
    white = Array([0.9642, 1.0, 0.8249])
    alternate = Array([Name.Lab, Dictionary(WhitePoint=white, Range=Array([-128, 127, -128, 127]))])
    names = Array([_pdf_name(model.name_of(ink)) for ink in inks])
    return pdf.make_indirect(Array([Name.DeviceN, names, alternate, pdf.make_indirect(function)]))


def _pdf_name(text: str) -> pikepdf.Object:
    """A name object of a text (ISO 32000-2, 7.3.5): whatever is no plain letter is written as its bytes in UTF-8."""
    plain = "".join(chr(b) if chr(b).isalnum() and b < 128 else f"#{b:02X}" for b in text.encode())
    return pikepdf.Object.parse(f"/{plain or 'Ink'}".encode())


def output_intent(pdf: Pdf, profile: Profile) -> Any:
    """An output intent that carries its profile (ISO 15930-7, 6.2.2)."""
    stream = Stream(pdf, profile.raw)
    stream.N = profile.header.channels
    return pdf.make_indirect(
        Dictionary(
            Type=Name.OutputIntent,
            S=Name.GTS_PDFX,
            OutputConditionIdentifier=profile.name,
            Info=profile.name,
            DestOutputProfile=pdf.make_indirect(stream),
        )
    )
