"""CxF in (ISO 17972-1): objects with ink values and a spectrum or Lab."""

from typing import Any

import numpy as np
from lxml import etree
from numpy.typing import NDArray

from plinto_core.colorimetry.lab import lab_to_xyz
from plinto_core.colorimetry.spectra import WAVELENGTHS_NM, reflectance_to_xyz
from plinto_core.errors import CharacterizationError
from plinto_core.press.measurements import Measurements

Array = NDArray[np.float64]

_INKS = {"Cyan": "Cyan", "Magenta": "Magenta", "Yellow": "Yellow", "Black": "Black"}


def _local(element: Any) -> str:
    return etree.QName(element).localname if isinstance(element.tag, str) else ""


def _children(element: Any, name: str) -> list[Any]:
    return [each for each in element.iter() if _local(each) == name]


def read_cxf(data: bytes, name: str) -> tuple[Measurements, list[str]]:
    """Measurements of every object that has ink values and a color. Raises `CharacterizationError`."""
    # No entities, no network, no huge trees: what comes from outside is not trusted.
    parser = etree.XMLParser(resolve_entities=False, no_network=True, huge_tree=False, load_dtd=False)
    try:
        root = etree.fromstring(data, parser)
    except etree.XMLSyntaxError as error:
        raise CharacterizationError(f"'{name}' is no readable CxF ({error}). Export it again.") from error
    starts = {
        each.get("Name") or each.get("Id"): float(wave[0].get("StartWL"))
        for each in _children(root, "ColorSpecification")
        if (wave := _children(each, "WavelengthRange")) and wave[0].get("StartWL")
    }
    device, xyz, spectra, skipped = [], [], [], 0
    for item in _children(root, "Object"):
        inks = next(iter(_children(item, "ColorCMYK")), None)
        color = _color(item, starts)
        if inks is None or color is None:
            skipped += 1
            continue
        device.append([float(_children(inks, ink)[0].text) / 100 for ink in _INKS])
        xyz.append(color[0])
        spectra.append(color[1])
    if not device:
        raise CharacterizationError(f"'{name}' has no object with both CMYK values and a color. Export both.")
    notes = [f"{skipped} objects without ink values or color were passed over."] if skipped else []
    every = None if any(each is None for each in spectra) else np.array(spectra)
    return Measurements(tuple(_INKS), np.array(device), np.array(xyz), every, name), notes


def _color(item: Any, starts: dict[str | None, float]) -> tuple[Array, Array | None] | None:
    spectrum = next(iter(_children(item, "ReflectanceSpectrum")), None)
    if spectrum is not None and spectrum.text:
        values = np.array([float(word) for word in spectrum.text.split()])
        start = float(spectrum.get("StartWL") or starts.get(spectrum.get("ColorSpecification"), 380.0))
        nm = start + 10.0 * np.arange(len(values))
        reflectance = np.interp(WAVELENGTHS_NM, nm, values)
        return reflectance_to_xyz(reflectance), reflectance
    lab = next(iter(_children(item, "ColorCIELab")), None)
    if lab is None:
        return None
    values = np.array([float(_children(lab, axis)[0].text) for axis in ("L", "A", "B")])
    return lab_to_xyz(values), None
