"""CxF in (ISO 17972-1): objects with ink values and a spectrum or Lab."""

import math
from collections.abc import Iterator
from typing import Any

import numpy as np
from lxml import etree
from numpy.typing import NDArray

from plinto_core.colorimetry.lab import lab_to_xyz
from plinto_core.colorimetry.spectra import WAVELENGTHS_NM, reflectance_to_xyz
from plinto_core.errors import CharacterizationError
from plinto_core.measurement.measurements import Measurements, Provenance

Array = NDArray[np.float64]

_INKS = ("Cyan", "Magenta", "Yellow", "Black")
_MOST_OBJECTS, _MOST_COLORS = 60_000, 100_000
_MOST_WAVELENGTHS = 500


def _local(element: Any) -> str:
    return etree.QName(element).localname if isinstance(element.tag, str) else ""


def _child(element: Any, name: str) -> Any | None:
    """The child of that name, whatever its namespace; never deeper: objects may be nested in objects."""
    return next((each for each in element if _local(each) == name), None)


def _part_of(element: Any, name: str) -> Any | None:
    """The first child of that name, of the element or of any of its children (DeviceColorValues, ColorValues)."""
    own = _child(element, name)
    return own if own is not None else next((f for each in element if (f := _child(each, name)) is not None), None)


def read_cxf(data: bytes, name: str) -> tuple[Measurements, list[str]]:
    """Measurements of every object that has ink values and a color. Raises `CharacterizationError`."""
    root = _root(data, name)
    starts = dict(_starts(root, name))
    device: list[list[float]] = []
    xyz: list[Array] = []
    spectra: list[Array | None] = []
    skipped = 0
    names: tuple[str, ...] = ()
    for item in root.iter("{*}Object"):
        called = f"object '{str(item.get('Name') or item.get('Id') or len(device) + skipped + 1)[:40]}' of '{name}'"
        inks, color = _inks(item, called), _color(item, starts, called)
        if not inks or color is None:
            skipped += 1
            continue
        names = names or tuple(inks)
        if tuple(inks) != names:
            raise CharacterizationError(
                f"{called[0].upper()}{called[1:]} has the inks {', '.join(inks)}, and those before it "
                f"{', '.join(names)}. Export one set of inks."
            )
        if len(device) >= _MOST_OBJECTS:
            raise CharacterizationError(f"'{name}' has more than {_MOST_OBJECTS} patches; split it.")
        device.append([value / 100 for value in inks.values()])
        xyz.append(color[0])
        spectra.append(color[1])
    if not device:
        raise CharacterizationError(f"'{name}' has no object with both ink values and a color. Export both.")
    values = np.array(device)
    if values.min() < -0.005 or values.max() > 1.005:
        raise CharacterizationError(
            f"'{name}' has ink values from {values.min() * 100:g} to {values.max() * 100:g} %; 0 to 100 is meant."
        )
    notes = [f"{skipped} objects without ink values or color were passed over."] if skipped else []
    every = None if any(each is None for each in spectra) else np.array(spectra)
    found = Measurements(names, np.clip(values, 0, 1), np.array(xyz), every, name, _provenance(root))
    return found, notes


def read_colors(data: bytes, name: str) -> tuple[list[str], Array, Array | None]:
    """Names and XYZ (n, 3) of every object that has a color, whether it has ink values or not: spots, palettes; and
    their reflectances (n, 36), NaN for objects without a spectrum; None where no object has one.

    Raises `CharacterizationError`.
    """
    root = _root(data, name)
    starts = dict(_starts(root, name))
    names: list[str] = []
    found: list[Array] = []
    spectra: list[Array] = []
    for item in root.iter("{*}Object"):
        called = str(item.get("Name") or item.get("Id") or len(names) + 1)[:100]
        color = _color(item, starts, f"object '{called[:40]}' of '{name}'")
        if color is None:
            continue
        if len(names) >= _MOST_COLORS:
            raise CharacterizationError(f"'{name}' has more than {_MOST_COLORS:,} colors; split it.")
        names.append(called)
        found.append(color[0])
        spectra.append(np.full(len(WAVELENGTHS_NM), np.nan) if color[1] is None else color[1])
    if not names:
        raise CharacterizationError(f"'{name}' has no object with a color. Export spectra or Lab.")
    known = np.array(spectra)
    return names, np.array(found), None if np.isnan(known).all() else known


def _root(data: bytes, name: str) -> Any:
    # No entities, no network, no huge trees: what comes from outside is not trusted.
    parser = etree.XMLParser(resolve_entities=False, no_network=True, huge_tree=False, load_dtd=False)
    try:
        return etree.fromstring(data, parser)
    except (etree.XMLSyntaxError, ValueError) as error:
        raise CharacterizationError(f"'{name}' is no readable CxF ({error}). Export it again.") from error


def _starts(root: Any, name: str) -> Iterator[tuple[str, float]]:
    """The first wavelength of each color specification, by its name."""
    for each in root.iter("{*}ColorSpecification"):
        wave = next(each.iter("{*}WavelengthRange"), None)
        if wave is not None and wave.get("StartWL"):
            yield str(each.get("Name") or each.get("Id")), _number(wave.get("StartWL"), f"a wavelength of '{name}'")


def _number(text: str | None, where: str) -> float:
    """A finite number, with a decimal point or comma."""
    try:
        value = float((text or "").strip().replace(",", "."))
    except ValueError as error:
        raise CharacterizationError(
            f"{where[0].upper()}{where[1:]} has '{(text or '').strip()[:30]}' where a number should be. Export it again."
        ) from error
    if not math.isfinite(value):
        raise CharacterizationError(f"{where[0].upper()}{where[1:]} has no finite number. Export it again.")
    return value


def _inks(item: Any, where: str) -> dict[str, float]:
    """Percent of each ink by its name: process inks of ColorCMYK, and the named ones beside them (ISO 17972-1)."""
    found: dict[str, float] = {}
    for kind in ("ColorCMYK", "ColorCMYKPlusN", "ColorPlusN"):
        values = _part_of(item, kind)
        if values is None:
            continue
        if kind == "ColorCMYK" or _child(values, "Cyan") is not None:
            found |= {ink: _part(values, ink, where) for ink in _INKS}
        for each in values:
            if _local(each) == "SpotColor":
                name = str(each.get("Name") or "").strip()[:100]
                if not name or name in found:
                    raise CharacterizationError(
                        f"{where[0].upper()}{where[1:]} has an ink without a name of its own."
                    )
                found[name] = _number(each.get("Percentage") or each.text, f"{name} of {where}")
        break
    if len(found) > 8:
        raise CharacterizationError(f"{where[0].upper()}{where[1:]} has {len(found)} inks; Plinto takes 1 to 8.")
    return found


def _part(element: Any, name: str, where: str) -> float:
    found = _child(element, name)
    if found is None:
        raise CharacterizationError(f"{where[0].upper()}{where[1:]} has no value for {name}. Export all of them.")
    return _number(found.text, f"{name} of {where}")


def _color(item: Any, starts: dict[str, float], where: str) -> tuple[Array, Array | None] | None:
    spectrum = _part_of(item, "ReflectanceSpectrum")
    if spectrum is not None and spectrum.text and spectrum.text.strip():
        words = spectrum.text.split()
        if len(words) > _MOST_WAVELENGTHS:
            raise CharacterizationError(f"{where[0].upper()}{where[1:]} has {len(words)} wavelengths.")
        values = np.array([_number(word, f"the spectrum of {where}") for word in words])
        given = spectrum.get("StartWL")
        start = _number(given, f"the spectrum of {where}") if given else starts.get(
            str(spectrum.get("ColorSpecification")), 380.0
        )  # fmt: skip
        nm = start + 10.0 * np.arange(len(values))
        if nm[0] > 430 or nm[-1] < 650:
            raise CharacterizationError(
                f"The spectrum of {where} runs from {nm[0]:g} to {nm[-1]:g} nm; 400 to 700 is meant."
            )
        reflectance = np.interp(WAVELENGTHS_NM, nm, values)
        return reflectance_to_xyz(reflectance), reflectance
    lab = _part_of(item, "ColorCIELab")
    if lab is None:
        return None
    values = np.array([_part(lab, axis, where) for axis in ("L", "A", "B")])
    if not -1 <= values[0] <= 105 or np.abs(values[1:]).max() > 160:
        raise CharacterizationError(f"{where[0].upper()}{where[1:]} has Lab values that no print has.")
    return lab_to_xyz(values), None


#: Where CxF says who measured with what, and the keyword of ISO 28178 for it.
_SAID = (
    ("Creator", "ORIGINATOR"), ("CreationDate", "CREATED"), ("Model", "INSTRUMENTATION"),
    ("DeviceIllumination", "MEASUREMENT_CONDITION"), ("Backing", "SAMPLE_BACKING"),
)  # fmt: skip


def _provenance(root: Any) -> Provenance:
    found = []
    for element, keyword in _SAID:
        text = next((str(each.text).strip() for each in root.iter("{*}" + element) if each.text), "")
        if text:
            found.append((keyword, text[:200]))
    return tuple(found)
