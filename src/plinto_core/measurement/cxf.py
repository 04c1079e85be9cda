"""CxF in (ISO 17972-1): objects with ink values, or R, G, B, and a spectrum, Lab or XYZ."""

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from lxml import etree
from numpy.typing import NDArray

from plinto_core.colorimetry.spectra import WAVELENGTHS_NM, at_ten_nm, reflectance_to_xyz
from plinto_core.errors import CharacterizationError
from plinto_core.inks.names import DRIVEN_BY_RGB
from plinto_core.measurement.measurements import Measurements, Provenance
from plinto_core.measurement.other_light import D50_2, SeenUnder, lab_under_d50, seen_under, xyz_under_d50

Array = NDArray[np.float64]

_INKS = ("Cyan", "Magenta", "Yellow", "Black")
_MOST_OBJECTS, _MOST_COLORS = 60_000, 100_000
_MOST_WAVELENGTHS = 500
#: Reflectances, and X, Y and Z, beyond this are in percent: no ink glows so much.
_PERCENT = 4.0


@dataclass(frozen=True)
class _Specification:
    """How colors were measured, as far as it is said."""

    start_nm: float = 380.0
    step_nm: float = 10.0
    seen: SeenUnder = D50_2


@dataclass(frozen=True)
class _Said:
    """What a file says once for all of its objects: specifications by name, whether reflectances are in percent, and which
    Y is white."""

    specifications: dict[str, _Specification]
    percent: bool
    white_y: float

    def of(self, element: Any) -> _Specification:
        """What the element refers to."""
        return self.specifications.get(str(element.get("ColorSpecification")), _Specification())


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
    said = _said(root, name)
    device: list[list[float]] = []
    xyz: list[Array] = []
    spectra: list[Array | None] = []
    skipped = 0
    names: tuple[str, ...] = ()
    for item in root.iter("{*}Object"):
        called = f"object '{str(item.get('Name') or item.get('Id') or len(device) + skipped + 1)[:40]}' of '{name}'"
        inks, color = _inks(item, called), _color(item, said, called)
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
        device.append(list(inks.values()))
        xyz.append(color[0])
        spectra.append(color[1])
    if not device:
        raise CharacterizationError(f"'{name}' has no object with both ink values and a color. Export both.")
    values = np.array(device)
    notes = [f"{skipped} objects without ink values or color were passed over."] if skipped else []
    notes += _notes(root, said)
    if names == DRIVEN_BY_RGB:
        notes.append("It is a printer driven by RGB: its inks are its own affair.")
    every = None if any(each is None for each in spectra) else np.array(spectra)
    found = Measurements(names, _shares(values, name), np.array(xyz), every, name, _provenance(root))
    return found, notes


def read_colors(data: bytes, name: str) -> tuple[list[str], Array, Array | None]:
    """Names and XYZ (n, 3) of every object that has a color, whether it has ink values or not: spots, palettes; and
    their reflectances (n, 36), NaN for objects without a spectrum; None where no object has one.

    Raises `CharacterizationError`.
    """
    root = _root(data, name)
    said = _said(root, name)
    names: list[str] = []
    found: list[Array] = []
    spectra: list[Array] = []
    for item in root.iter("{*}Object"):
        called = str(item.get("Name") or item.get("Id") or len(names) + 1)[:100]
        color = _color(item, said, f"object '{called[:40]}' of '{name}'")
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


def read_device_values(data: bytes, name: str) -> tuple[list[str], tuple[str, ...], Array]:
    """Names, inks and their shares (n, inks) 0…1 of every object that has ink values or R, G, B, with a color or without.

    Raises `CharacterizationError` where none has, or where their inks differ.
    """
    names: list[str] = []
    found: list[dict[str, float]] = []
    for item in _root(data, name).iter("{*}Object"):
        called = str(item.get("Name") or item.get("Id") or len(names) + 1)[:100]
        if inks := _inks(item, f"object '{called[:40]}' of '{name}'"):
            names.append(called)
            found.append(inks)
    if not found or any(each.keys() != found[0].keys() for each in found):
        raise CharacterizationError(f"'{name}' has no object with a color, and no ink values of one set of inks.")
    if len(found) > _MOST_COLORS:
        raise CharacterizationError(f"'{name}' has more than {_MOST_COLORS:,} colors; split it.")
    values = np.array([[each[ink] for ink in found[0]] for each in found])
    return names, tuple(found[0]), _shares(values, name)


def _root(data: bytes, name: str) -> Any:
    # No entities, no network, no huge trees: what comes from outside is not trusted.
    parser = etree.XMLParser(resolve_entities=False, no_network=True, huge_tree=False, load_dtd=False)
    try:
        return etree.fromstring(data, parser)
    except (etree.XMLSyntaxError, ValueError) as error:
        raise CharacterizationError(f"'{name}' is no readable CxF ({error}). Export it again.") from error


def _shares(values: Array, name: str) -> Array:
    if values.min() < -0.005 or values.max() > 1.005:
        raise CharacterizationError(
            f"'{name}' has ink values from {values.min() * 100:g} to {values.max() * 100:g} %; 0 to 100 is meant."
        )
    return np.clip(values, 0, 1)


def _said(root: Any, name: str) -> _Said:
    found: dict[str, _Specification] = {}
    for each in root.iter("{*}ColorSpecification"):
        told = _specification(each, f"a color specification of '{name}'")
        # Objects refer to it by its identifier; some files have names in their place.
        found |= {str(key): told for key in (each.get("Name"), each.get("Id")) if key}
    percent = max((_largest(each) for each in root.iter("{*}ReflectanceSpectrum")), default=0.0) > _PERCENT
    xyz = (_largest(part) for each in root.iter("{*}ColorCIEXYZ") for part in each)
    return _Said(found, percent, 100.0 if max(xyz, default=0.0) > _PERCENT else 1.0)


def _specification(element: Any, where: str) -> _Specification:
    told: dict[str, Any] = {}
    wave = next(element.iter("{*}WavelengthRange"), None)
    if wave is not None:
        for attribute, field in (("StartWL", "start_nm"), ("Increment", "step_nm")):
            if wave.get(attribute):
                told[field] = _number(wave.get(attribute), f"the wavelengths of {where}")
    light, observer = (
        next((str(each.text) for each in element.iter("{*}" + part) if each.text), "")
        for part in ("Illuminant", "Observer")
    )
    return _Specification(**told, seen=seen_under(light, observer))


def _largest(element: Any) -> float:
    """The largest value of an element; what is no number is found out where it is read."""
    found = 0.0
    for word in str(element.text or "").split()[:_MOST_WAVELENGTHS]:
        try:
            found = max(found, float(word.replace(",", ".")))
        except ValueError:
            continue
    return found if math.isfinite(found) else 0.0


def _notes(root: Any, said: _Said) -> list[str]:
    notes = ["Spectra are in percent."] if said.percent else []
    used = {said.of(each).seen for kind in ("ColorCIELab", "ColorCIEXYZ") for each in root.iter("{*}" + kind)}
    if told := ", ".join(sorted(str(seen) for seen in used if not seen.is_d50)):
        notes.append(
            f"Lab and XYZ of {told} were adapted to D50 (Bradford) where there is neither a spectrum nor D50 beside them."
        )
    return notes


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
    """Shares 0…1 of each ink by its name: process inks of ColorCMYK, and the named ones beside them (ISO 17972-1); or R, G
    and B of a printer that is driven by them."""
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
    if found:
        return {ink: value / 100 for ink, value in found.items()}
    rgb = _part_of(item, "ColorRGB")
    if rgb is None:
        return {}
    most = _number(rgb.get("MaxRange") or "255", f"the range of {where}")
    if most <= 0:
        raise CharacterizationError(f"{where[0].upper()}{where[1:]} has R, G and B up to {most:g}. Export it again.")
    values = [_part(rgb, channel, where) / most for channel in "RGB"]
    return dict(zip(DRIVEN_BY_RGB, values, strict=True))


def _part(element: Any, name: str, where: str) -> float:
    found = _child(element, name)
    if found is None:
        raise CharacterizationError(f"{where[0].upper()}{where[1:]} has no value for {name}. Export all of them.")
    return _number(found.text, f"{name} of {where}")


def _color(item: Any, said: _Said, where: str) -> tuple[Array, Array | None] | None:
    """XYZ (3,) under D50 and the reflectance (36,) where there is a spectrum; None for an object without a color."""
    spectrum = _part_of(item, "ReflectanceSpectrum")
    if spectrum is not None and spectrum.text and spectrum.text.strip():
        reflectance = _reflectance(spectrum, said, where)
        return reflectance_to_xyz(reflectance), reflectance
    colors = [each for kind in ("ColorCIELab", "ColorCIEXYZ") for each in _all_of(item, kind)]
    if not colors:
        return None
    color = next((each for each in colors if said.of(each).seen.is_d50), colors[0])
    return (_lab(color, said, where) if _local(color) == "ColorCIELab" else _xyz(color, said, where)), None


def _all_of(element: Any, name: str) -> list[Any]:
    """All children of that name, of the element or of any of its children."""
    return [each for parent in (element, *element) for each in parent if _local(each) == name]


def _reflectance(spectrum: Any, said: _Said, where: str) -> Array:
    words, told = spectrum.text.split(), said.of(spectrum)
    if len(words) > _MOST_WAVELENGTHS:
        raise CharacterizationError(f"{where[0].upper()}{where[1:]} has {len(words)} wavelengths.")
    values = np.array([_number(word, f"the spectrum of {where}") for word in words]) / (100 if said.percent else 1)
    start, step = (
        _number(spectrum.get(attribute), f"the spectrum of {where}") if spectrum.get(attribute) else otherwise
        for attribute, otherwise in (("StartWL", told.start_nm), ("Increment", told.step_nm))
    )
    if not 0 < step <= 50:
        raise CharacterizationError(
            f"The spectrum of {where} goes by {step:g} nm; 1 to 20 is meant. Export it again."
        )
    nm = start + step * np.arange(len(values))
    if nm[0] > 430 or nm[-1] < 650:
        raise CharacterizationError(
            f"The spectrum of {where} runs from {nm[0]:g} to {nm[-1]:g} nm; 400 to 700 is meant."
        )
    return at_ten_nm(nm, values)


def _lab(color: Any, said: _Said, where: str) -> Array:
    values = np.array([_part(color, axis, where) for axis in ("L", "A", "B")])
    if not -1 <= values[0] <= 105 or np.abs(values[1:]).max() > 160:
        raise CharacterizationError(f"{where[0].upper()}{where[1:]} has Lab values that no print has.")
    return lab_under_d50(values, said.of(color).seen, where)


def _xyz(color: Any, said: _Said, where: str) -> Array:
    values = np.array([_part(color, axis, where) for axis in "XYZ"]) / said.white_y
    return xyz_under_d50(values, said.of(color).seen, where)


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
