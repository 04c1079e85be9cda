"""Color lists out: CGATS, CSV, CxF and ICC named color profiles."""

import csv
import io
from collections.abc import Callable

import numpy as np
from lxml import etree
from numpy.typing import NDArray

from plinto_core.colorimetry.spectra import WAVELENGTHS_NM
from plinto_core.errors import PipelineError
from plinto_core.icc.named_colors import NamedColors, write_named_colors
from plinto_core.inks.names import NAMES, name_of
from plinto_core.measurement.measurements import colorants, device_fields
from plinto_core.measurement.spelled_fields import GRAY_FIELD
from plinto_core.route.color_list import ColorList

Array = NDArray[np.float64]
_LAB = ("LAB_L", "LAB_A", "LAB_B")
_CXF = "http://colorexchangeformat.com/CxF3-core"
_SPACES = {("gray",): "GRAY", ("R", "G", "B"): "RGB ", ("C", "M", "Y"): "CMY ", ("C", "M", "Y", "K"): "CMYK"}


def to_cgats(colors: ColorList, lab: Array | None) -> bytes:
    """CGATS.17 with names, device values and Lab where they are known."""
    device = not colors.is_lab
    fields, scale = _device_fields(colors)
    # What CGATS.17 does not know is declared; inks of numbered fields are named.
    told = ['KEYWORD "GRAY"'] if GRAY_FIELD in fields else []
    if device and fields[0][1:4] == "CLR" and not all(letter.isdigit() for letter in colors.channels):
        told = colorants(tuple(name_of(letter) for letter in colors.channels))
    heads = ["SAMPLE_ID", "SAMPLE_NAME", *fields, *(_LAB if lab is not None else []), *_spectral_fields(colors)]
    rows = []
    for row, name in enumerate(colors.names):
        quoted = name.replace('"', "'").replace("\n", " ")
        values = [f"{value * scale:.4f}" for value in colors.values[row]] if device else []
        values += [f"{value:.4f}" for value in lab[row]] if lab is not None else []
        values += _spectrum(colors, row) if _all_spectral(colors) else []
        rows.append(" ".join([str(row + 1), f'"{quoted}"', *values]))
    lines = [
        "CGATS.17", 'ORIGINATOR "Plinto"', *told, f"NUMBER_OF_FIELDS {len(heads)}", "BEGIN_DATA_FORMAT", " ".join(heads),
        "END_DATA_FORMAT", f"NUMBER_OF_SETS {len(rows)}", "BEGIN_DATA", *rows, "END_DATA", "",
    ]  # fmt: skip
    return "\n".join(lines).encode()


def to_csv(colors: ColorList, lab: Array | None) -> bytes:
    """A table with a header: SAMPLE_NAME, device values, LAB_L, LAB_A, LAB_B, spectra."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    device = not colors.is_lab
    heads, scale = _device_fields(colors)
    if any("CLR" in each for each in heads) and len({letter.upper() for letter in colors.channels}) == len(heads):
        # A table has no line in which numbered inks are named.
        heads = [f"{len(heads)}CLR_{letter}" for letter in colors.channels]
    table.writerow(["SAMPLE_NAME", *heads, *(_LAB if lab is not None else []), *_spectral_fields(colors)])
    for row, name in enumerate(colors.names):
        values = [f"{value * scale:.4f}" for value in colors.values[row]] if device else []
        # A cell that begins like a formula is none: spreadsheets would compute it.
        safe = f"'{name}" if name[:1] in "=+-@" else name
        known = [f"{value:.4f}" for value in lab[row]] if lab is not None else []
        table.writerow([safe, *values, *known, *(_spectrum(colors, row) if _all_spectral(colors) else [])])
    return out.getvalue().encode()


def _device_fields(colors: ColorList) -> tuple[list[str], float]:
    """Fields of a list's device values, none of Lab, and what these run to."""
    if colors.is_lab:
        return [], 1.0
    if colors.channels == ("R", "G", "B"):
        return ["RGB_R", "RGB_G", "RGB_B"], 255.0
    return [GRAY_FIELD] if colors.channels == ("gray",) else device_fields(colors.channels), 100.0


def _spectral_fields(colors: ColorList) -> list[str]:
    # A table has no cell for "not measured": spectra go out in it where every color has one.
    return [] if not _all_spectral(colors) else [f"SPECTRAL_NM{nm:.0f}" for nm in WAVELENGTHS_NM]


def _spectrum(colors: ColorList, row: int) -> list[str]:
    return [] if colors.spectra is None else [f"{value:.5f}" for value in colors.spectra[row]]


def _all_spectral(colors: ColorList) -> bool:
    return colors.spectra is not None and not np.isnan(colors.spectra).any()


def to_cxf(colors: ColorList, lab: Array | None) -> bytes:
    """CxF3 with an object a color (ISO 17972-1): Lab under D50 and 2°, spectra, device values of CMYK and RGB."""
    if lab is None:
        raise PipelineError("CxF needs colors, and these are numbers of a device: put their profile before them.")
    root = etree.Element(f"{{{_CXF}}}CxF", nsmap={None: _CXF})
    resources = etree.SubElement(root, f"{{{_CXF}}}Resources")
    objects = etree.SubElement(resources, f"{{{_CXF}}}ObjectCollection")

    def child(parent: etree._Element, name: str, text: str = "", **given: str) -> etree._Element:
        made = etree.SubElement(parent, f"{{{_CXF}}}{name}", attrib=given)
        made.text = text or None
        return made

    for row, name in enumerate(colors.names):
        readable = "".join(letter for letter in name if letter.isprintable())
        one = child(objects, "Object", ObjectType="Color", Name=readable, Id=f"c{row + 1}")
        known = child(one, "ColorValues")
        if colors.spectra is not None and not np.isnan(colors.spectra[row]).any():
            child(
                known, "ReflectanceSpectrum", " ".join(_spectrum(colors, row)), ColorSpecification="D50-2",
                StartWL=f"{WAVELENGTHS_NM[0]:.0f}",
            )  # fmt: skip
        color = child(known, "ColorCIELab", ColorSpecification="D50-2")
        for axis, value in zip("LAB", lab[row], strict=True):
            child(color, axis, f"{value:.4f}")
        _device(child, one, colors, row)
    specification = child(child(resources, "ColorSpecificationCollection"), "ColorSpecification", Id="D50-2")
    if colors.spectra is not None:
        steps = {"StartWL": f"{WAVELENGTHS_NM[0]:.0f}", "Increment": f"{WAVELENGTHS_NM[1] - WAVELENGTHS_NM[0]:.0f}"}
        child(child(specification, "MeasurementSpec"), "WavelengthRange", **steps)
    tristimulus = child(specification, "TristimulusSpec")
    child(tristimulus, "Illuminant", "D50")
    child(tristimulus, "Observer", "2_Degree")
    return bytes(etree.tostring(root, xml_declaration=True, encoding="UTF-8", pretty_print=True))


def _device(child: Callable[..., etree._Element], one: etree._Element, colors: ColorList, row: int) -> None:
    values = colors.values[row]
    if colors.channels == ("C", "M", "Y", "K"):
        inks = child(child(one, "DeviceColorValues"), "ColorCMYK")
        for letter, value in zip(colors.channels, values, strict=True):
            child(inks, NAMES[letter], f"{value * 100:.4f}")
    elif colors.channels == ("R", "G", "B"):
        codes = child(child(one, "DeviceColorValues"), "ColorRGB", MaxRange="255")
        for letter, value in zip("RGB", values, strict=True):
            child(codes, letter, f"{value * 255:.4f}")


def to_icc(colors: ColorList, lab: Array | None, name: str) -> bytes:
    """An ICC named color profile; see `write_named_colors`."""
    if lab is None:
        raise PipelineError(
            "A named color profile needs colors, and these are numbers of a device: put their profile before them."
        )
    count = len(colors.channels)
    space = "" if colors.is_lab else _SPACES.get(colors.channels, f"{count:X}CLR")
    device = np.zeros((len(lab), 0)) if colors.is_lab else np.clip(colors.values, 0, 1)
    return write_named_colors(NamedColors(colors.names, lab, device, space), name).raw


def written_list(colors: ColorList, lab: Array | None, kind: str, name: str) -> bytes:
    """A list in a format: 'cgats', 'csv', 'cxf' or 'icc'. `lab` (n, 3) is what device values mean; None where nobody
    knows, as NaN in it says too. Raises `PipelineError`, `IccError`."""
    lab = colors.values if colors.is_lab else lab
    if lab is not None and np.isnan(lab).any():
        lab = None
    if kind == "icc":
        return to_icc(colors, lab, name)
    makers = {"cgats": to_cgats, "csv": to_csv, "cxf": to_cxf}
    if kind not in makers:
        raise PipelineError(f"'{kind}' is no format of lists; choose cgats, csv, cxf or icc.")
    return makers[kind](colors, lab)
