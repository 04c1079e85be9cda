"""Layered documents (PSD and PSB) in, flattened."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np

from plinto_core.raster.layout import CHANNELS, Codes, Kind, Layout, band_rows, refused

_KINDS: dict[str, Kind] = {"RGB": "rgb", "GRAYSCALE": "gray", "CMYK": "cmyk", "LAB": "lab"}


def layered_layout(path: Path, name: str) -> Layout:
    """Header facts, with a note on what flattening does. Raises `ArtworkError` for other color modes."""
    # A quarter of a second to import, which only layered documents pay.
    from psd_tools import PSDImage
    from psd_tools.constants import Resource

    document: Any = PSDImage.open(path)
    mode = document.color_mode.name
    if mode not in _KINDS or document.depth not in (8, 16):
        raise refused(name, f"a layered document in {mode.lower()} of {document.depth} bit")
    layers = list(document.descendants())
    hidden = sum(not layer.is_visible() for layer in layers)
    notes = []
    if layers:
        left_out = f"; {hidden} hidden ones do not show" if hidden else ""
        notes.append(f"Its {len(layers)} layers were flattened{left_out}.")
    merged = document.has_preview()
    if not merged:
        notes.append("It holds no merged picture, so the layers were put together here, in 8 bit.")
    kind = _KINDS[mode]
    alpha = merged and document.channels > CHANNELS[kind] and _first_extra_is_transparency(document)
    resolution = document.image_resources.get_data(Resource.RESOLUTION_INFO)
    return Layout(
        "PSD", document.width, document.height, document.depth if merged else 8, kind if merged else "rgb",
        alpha or not merged, kind == "cmyk" and merged, 1,
        document.image_resources.get_data(Resource.ICC_PROFILE) if merged or kind == "rgb" else None,
        # Fixed-point 16.16, always per inch in the file, whatever the unit shown (Adobe's published format).
        resolution.horizontal / 65536 if resolution else None, 1, tuple(notes),
    )  # fmt: skip


def _first_extra_is_transparency(document: Any) -> bool:
    # A negative layer count says that the first extra channel is the merged picture's transparency.
    layers = document._record.layer_and_mask_information.layer_info
    return layers is not None and layers.layer_count < 0


def layered_bands(path: Path, layout: Layout) -> Iterator[Codes]:
    """Pixels (rows, width, samples) of the merged picture, or of the layers put together."""
    from psd_tools import PSDImage

    document: Any = PSDImage.open(path)
    if not document.has_preview():
        pixels: Codes = np.asarray(document.composite().convert("RGBA"))
    else:
        # The public reader makes floating-point pictures of it; the planes lie there in their own depth.
        planes = document._record.image_data.get_data(document._record.header)
        count = CHANNELS[layout.kind] + layout.has_alpha
        stored = [np.frombuffer(plane, ">u2" if layout.depth == 16 else "u1") for plane in planes[:count]]
        shaped = [plane.reshape(layout.height, layout.width) for plane in stored]
        pixels = np.stack(shaped, axis=-1).astype(np.uint16 if layout.depth == 16 else np.uint8)
    rows = band_rows(layout.width)
    for top in range(0, layout.height, rows):
        yield pixels[top : top + rows]
