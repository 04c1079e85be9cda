"""Layered documents in: OpenRaster, a ZIP archive of PNG layers with its merged picture (OpenRaster file layout 0.0.6)."""

import io
import zipfile
import zlib
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

from plinto_core.errors import ArtworkError
from plinto_core.raster._single import single_bands, single_layout
from plinto_core.raster.layout import Codes, Layout

#: The first entry of the archive, stored as it is, so that the type is told from the first bytes.
SIGNATURE = b"mimetypeimage/openraster"
_MERGED, _STACK = "mergedimage.png", "stack.xml"
#: A merged picture is a PNG of at most the pixels Plinto takes; a list of layers is short.
_MOST_PICTURE, _MOST_STACK, _MOST_LAYERS = 1 << 30, 4 << 20, 5_000


def open_raster_layout(path: Path, name: str) -> Layout:
    """Header facts of the merged picture, with a note on its layers. Raises `ArtworkError`."""
    total, hidden = _layers(_entry(path, name, _STACK, _MOST_STACK), name)
    layout = single_layout(io.BytesIO(_entry(path, name, _MERGED, _MOST_PICTURE)), name, "PNG")
    left_out = f"; {hidden} hidden ones do not show" if hidden else ""
    note = f"Its {total} layers were taken as its own merged picture shows them{left_out}."
    return replace(layout, format="OpenRaster", notes=(note, *layout.notes))


def open_raster_bands(path: Path, name: str, layout: Layout) -> Iterator[Codes]:
    """Pixels (rows, width, samples) of the merged picture, top to bottom."""
    return single_bands(io.BytesIO(_entry(path, name, _MERGED, _MOST_PICTURE)), name, layout)


def _entry(path: Path, name: str, entry: str, most: int) -> bytes:
    """One file of the archive, whole. Raises `ArtworkError`."""
    try:
        with zipfile.ZipFile(path) as archive:
            found = archive.getinfo(entry)
            if found.file_size > most:
                raise ArtworkError(f"'{name}': its '{entry}' unpacks to {found.file_size >> 20} MB. Reduce it.")
            with archive.open(found) as file:
                # What the archive says of a size is not always true: no more than is allowed is unpacked.
                data = file.read(most + 1)
    except KeyError as error:
        raise ArtworkError(
            f"'{name}' is an OpenRaster document without '{entry}'. Save it again, with its merged picture."
        ) from error
    except (zipfile.BadZipFile, zlib.error, NotImplementedError, RuntimeError, EOFError) as error:
        raise ArtworkError(f"'{name}' is a damaged archive ({error}). Save it again.") from error
    if len(data) > most:
        raise ArtworkError(f"'{name}': its '{entry}' is larger than it says. Save it again.")
    return data


def _layers(stack: bytes, name: str) -> tuple[int, int]:
    """How many layers there are, and how many of them are hidden, by themselves or with what they stand in."""
    # Only layered documents pay for its import.
    from lxml import etree

    parser = etree.XMLParser(resolve_entities=False, no_network=True, huge_tree=False, load_dtd=False)
    try:
        root = etree.fromstring(stack, parser)
    except etree.XMLSyntaxError as error:
        raise ArtworkError(f"'{name}': its list of layers cannot be read ({error}). Save it again.") from error
    layers = root.findall(".//layer")
    if len(layers) > _MOST_LAYERS:
        raise ArtworkError(f"'{name}' has {len(layers)} layers; {_MOST_LAYERS} are the most. Merge some.")
    hidden = sum(
        any(each.get("visibility") == "hidden" for each in (layer, *layer.iterancestors("stack"))) for layer in layers
    )
    return len(layers), hidden
