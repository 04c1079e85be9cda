"""Measurement files in: CGATS text (ISO 28178) in any field order, encoding and scale, and CxF (ISO 17972)."""

import numpy as np
from numpy.typing import NDArray

from plinto_core.colorimetry.lab import lch_to_lab, xyz_to_lab
from plinto_core.colorimetry.spectra import ILLUMINANTS, at_ten_nm, reflectance_to_xyz
from plinto_core.errors import CharacterizationError
from plinto_core.inks.drive import turned
from plinto_core.inks.names import DRIVEN_BY_RGB, NAMES
from plinto_core.measurement.measurements import Measurements, Provenance, provenance_of
from plinto_core.measurement.other_light import D50_2, SeenUnder, lab_under_d50, seen_under, xyz_under_d50
from plinto_core.measurement.tables import (
    DEVICE_FIELD,
    SPECTRAL_FIELD,
    Table,
    decoded_text,
    numbers,
    read_table,
    read_tables,
)
from plinto_core.measurement.two_tables import measured_table

Array = NDArray[np.float64]

MOST_PATCHES = 60_000
#: What R, G and B may run to.
_RGB_SCALES = (1.0, 100.0, 255.0, 65535.0)
#: From which mean ΔE*ab on a spectrum and the Lab beside it do not tell of the same color.
_DISAGREE = 1.0
_LEAST_WAVELENGTHS = 10


def read_measurements(data: bytes, name: str) -> tuple[Measurements, list[str]]:
    """Characterization data from a file, and what was assumed on the way as sentences.

    Lab and XYZ are taken as D50, 2°, as ISO 13655 has them, and adapted where the header names another light or observer;
    patches measured several times are averaged.
    Raises `CharacterizationError`.
    """
    if data.lstrip()[:1] == b"<" or data[3:].lstrip()[:1] == b"<":
        from plinto_core.measurement.cxf import read_cxf

        return read_cxf(data, name)
    notes: list[str] = []
    table = measured_table(read_tables(data, name), name, notes, _has_values, has_colors)
    if len(table.rows) > MOST_PATCHES:
        raise CharacterizationError(f"'{name}' has more than {MOST_PATCHES} patches; split it.")
    device, letters = _device(table, name, notes)
    xyz, spectra = _colors(table, name, notes)
    return _averaged(
        ink_names(table, letters), device, xyz, spectra, table.keywords.get("DESCRIPTOR") or name, notes,
        provenance_of(table.keywords | _adapted_keywords(table)),
    ), notes  # fmt: skip


def as_it_came(data: bytes, measured: Measurements) -> str:
    """Characterization text for a profile's `targ` tag: the file's own CGATS text where it is one that fits in there
    (ICC.1:2022, 9.2.15), else the measurements written as such."""
    text = decoded_text(data)
    keeps = "BEGIN_DATA_FORMAT" in text and text.isascii() and "\0" not in text
    return text if keeps else measured.to_cgats()


def read_chart(data: bytes, name: str) -> tuple[Array, tuple[str, ...]]:
    """Ink values (patches, inks) 0…1 of a chart that nobody measured yet, and the inks' names.

    Raises `CharacterizationError`.
    """
    table = read_table(data, name)
    device, letters = _device(table, name, [])
    return device, ink_names(table, letters)


def ink_names(table: Table, letters: tuple[str, ...]) -> tuple[str, ...]:
    """Names of the inks of a table's device fields: those that it tells, else what their letters stand for."""
    named = tuple(part.strip() for part in table.keywords.get("COLORANTS", "").split(";"))
    return (
        named if len(named) == len(letters) and all(named) else tuple(NAMES.get(letter, letter) for letter in letters)
    )


def _has_values(table: Table) -> bool:
    return any(DEVICE_FIELD.match(field) for field in table.fields)


def has_colors(table: Table) -> bool:
    """Whether a table has the fields of a color: Lab, L*C*h, XYZ or spectra."""
    complete = ({"LAB_L", "LAB_A", "LAB_B"}, {"LAB_L", "LAB_C", "LAB_H"}, {"XYZ_X", "XYZ_Y", "XYZ_Z"})
    return has_spectra(table) or any(fields <= set(table.fields) for fields in complete)


def _device(table: Table, name: str, notes: list[str]) -> tuple[Array, tuple[str, ...]]:
    found = [(field, match) for field in table.fields if (match := DEVICE_FIELD.match(field))]
    kinds = {match[1].upper() for _, match in found}
    if kinds == {"RGB"}:
        return _rgb_device(table, name, [field for field, _ in found], notes)
    found = [(field, match) for field, match in found if match[1].upper() != "RGB"]
    fields = [field for field, _ in found]
    if not fields:
        known = ", ".join(table.fields[:8])
        raise CharacterizationError(
            f"'{name}' has no ink values (CMYK_C, CMYK_M, …; 6CLR_1, …); its fields are {known}. Export them too."
        )
    letters = [match[2].upper() for _, match in found]
    if kinds & {"CMYK", "CMY"}:
        order = sorted(range(len(letters)), key=lambda i: ("CMYK".find(letters[i]) % 99, i))
        fields, letters = [fields[i] for i in order], [letters[i] for i in order]
    if not 1 <= len(fields) <= 8:
        raise CharacterizationError(f"'{name}' has {len(fields)} inks; Plinto takes 1 to 8.")
    values = numbers(table, fields, name)
    used = values.max(axis=0) > 0
    if kinds & {"CMYK", "CMY"} and used.any() and not used.all():
        silent = [letter for letter, on in zip(letters, used, strict=True) if not on]
        values, letters = values[:, used], [letter for letter, on in zip(letters, used, strict=True) if on]
        notes.append(f"No patch has any {', '.join(silent)}: taken as a set of {len(letters)} ink(s).")
    top = values.max()
    scale = 1.0 if top <= 1.001 else 100.0 if top <= 100.5 else 255.0
    if values.min() < -0.5 or top > 255.5:
        raise CharacterizationError(f"'{name}' has ink values from {values.min():g} to {top:g}; 0 to 100 % is meant.")
    if scale != 100.0:
        notes.append(f"Ink values run to {top:g} and were taken as 0 to {scale:g}.")
    return np.clip(values / scale, 0, 1), tuple(letters)


def _rgb_device(table: Table, name: str, fields: list[str], notes: list[str]) -> tuple[Array, tuple[str, ...]]:
    """R, G, B of a printer driven by them, of 0 to 1, 100, 255 or 65535, turned round."""
    wanted = ["RGB_R", "RGB_G", "RGB_B"]
    if sorted(fields) != sorted(wanted):
        raise CharacterizationError(f"'{name}' has the fields {', '.join(fields)}; RGB_R, RGB_G and RGB_B are meant.")
    values = numbers(table, wanted, name)
    top = float(values.max())
    scale = next((each for each in _RGB_SCALES if top <= each * 1.001), 0.0)
    if values.min() < -0.001 * scale or not scale:
        raise CharacterizationError(f"'{name}' has RGB values from {values.min():g} to {top:g}; 0 to 255 is meant.")
    if scale != 255.0:
        notes.append(f"RGB values run to {top:g} and were taken as 0 to {scale:g}.")
    notes.append("It is a printer driven by RGB: its inks are its own affair.")
    return np.clip(turned(values / scale), 0, 1), DRIVEN_BY_RGB


def read_colors_of(table: Table, name: str) -> tuple[Array, Array | None]:
    """XYZ (n, 3), white 1, of a table's spectra, Lab or XYZ, and the reflectances (n, 36) if it has spectra.

    Raises `CharacterizationError` where it has no color.
    """
    return _colors(table, name, [])


def read_lab_of(table: Table, name: str) -> tuple[Array, Array | None]:
    """Lab (n, 3) under D50 of a table's colors, as it stands there where that is what it is, and its spectra (n, 36).

    Raises `CharacterizationError` where it has no color.
    """
    seen = _told_light(table)
    if (
        {"LAB_L", "LAB_A", "LAB_B"} <= set(table.fields)
        and not has_spectra(table)
        and (seen.is_d50 or seen.light not in ("", *ILLUMINANTS))
    ):
        return numbers(table, ["LAB_L", "LAB_A", "LAB_B"], name), None
    xyz, spectra = read_colors_of(table, name)
    return xyz_to_lab(xyz), spectra


def _spectral_fields(table: Table) -> list[tuple[int, str]]:
    """Wavelengths (nm) with their fields, from short to long."""
    return sorted((int(match[1]), field) for field in table.fields if (match := SPECTRAL_FIELD.match(field)))


def has_spectra(table: Table) -> bool:
    """Whether a table's colors come with enough wavelengths to be spectra."""
    return len(_spectral_fields(table)) >= _LEAST_WAVELENGTHS


def _colors(table: Table, name: str, notes: list[str]) -> tuple[Array, Array | None]:
    spectral = _spectral_fields(table)
    if has_spectra(table):
        values = numbers(table, [field for _, field in spectral], name)
        if values.max() > 2.5:
            values /= 100
            notes.append("Spectra are in percent.")
        nm = np.array([wavelength for wavelength, _ in spectral], np.float64)
        if nm[0] > 430 or nm[-1] < 650:
            raise CharacterizationError(
                f"The spectra of '{name}' run from {nm[0]:g} to {nm[-1]:g} nm; 400 to 700 is meant."
            )
        if (twice := nm[1:][np.diff(nm) == 0]).size:
            raise CharacterizationError(
                f"'{name}' has the wavelength {twice[0]:g} nm twice. Export one column of each."
            )
        spectra = at_ten_nm(nm, values)
        notes.append(f"Colors were computed from spectra of {len(nm)} wavelengths, D50, 2°.")
        xyz = reflectance_to_xyz(spectra)
        if {"LAB_L", "LAB_A", "LAB_B"} <= set(table.fields):
            beside = numbers(table, ["LAB_L", "LAB_A", "LAB_B"], name)
            apart = float(np.linalg.norm(xyz_to_lab(xyz) - beside, axis=1).mean())
            if apart > _DISAGREE:
                notes.append(
                    f"The Lab values beside the spectra are ΔE*ab {apart:.1f} off on the mean: they hold for another "
                    "light or observer, or for other patches. The spectra count."
                )
        return xyz, spectra
    seen, where = _seen_under(table, name, notes), f"the table of '{name}'"
    if {"LAB_L", "LAB_A", "LAB_B"} <= set(table.fields):
        lab = numbers(table, ["LAB_L", "LAB_A", "LAB_B"], name)
        if lab[:, 0].min() < -1 or lab[:, 0].max() > 105 or np.abs(lab[:, 1:]).max() > 160:
            raise CharacterizationError(f"'{name}' has Lab values that no print has (L* up to {lab[:, 0].max():g}).")
        return lab_under_d50(lab, seen, where), None
    if {"LAB_L", "LAB_C", "LAB_H"} <= set(table.fields):
        lab = lch_to_lab(numbers(table, ["LAB_L", "LAB_C", "LAB_H"], name))
        return lab_under_d50(lab, seen, where), None
    if {"XYZ_X", "XYZ_Y", "XYZ_Z"} <= set(table.fields):
        xyz = numbers(table, ["XYZ_X", "XYZ_Y", "XYZ_Z"], name)
        if xyz.max() > 2.5:
            xyz /= 100
        else:
            notes.append("XYZ runs to 1, not to 100.")
        return xyz_under_d50(xyz, seen, where), None
    raise CharacterizationError(f"'{name}' has neither LAB_L, LAB_A, LAB_B nor XYZ nor spectra. Export one of them.")


def _seen_under(table: Table, name: str, notes: list[str]) -> SeenUnder:
    """Light and observer by the header's keywords; one that is not known is told of, and taken for D50."""
    seen = _told_light(table)
    if seen.is_d50:
        return seen
    if seen.light not in ("", *ILLUMINANTS):
        notes.append(
            f"'{name}' names the light '{seen.light}', which is not known here: its colors are taken for D50's."
        )
        return D50_2
    notes.append(
        f"Its colors are of {seen}: adapted to D50, 2° by their white (Bradford). Spectra would say it exactly."
    )
    return seen


def _told_light(table: Table) -> SeenUnder:
    return seen_under(table.keywords.get("ILLUMINATION_NAME", ""), table.keywords.get("OBSERVER_ANGLE", ""))


def _adapted_keywords(table: Table) -> dict[str, str]:
    """What the header has to say once colors are adapted, or computed from spectra: else they would be adapted again."""
    seen = _told_light(table)
    adapted = not seen.is_d50 and seen.light in ("", *ILLUMINANTS)
    return {"ILLUMINATION_NAME": "D50", "OBSERVER_ANGLE": "2"} if adapted else {}


def _averaged(
    names: tuple[str, ...], device: Array, xyz: Array, spectra: Array | None, title: str, notes: list[str],
    provenance: Provenance = (),
) -> Measurements:  # fmt: skip
    unique, first, inverse = np.unique(device.round(5), axis=0, return_index=True, return_inverse=True)
    inverse = inverse.ravel()
    order = np.argsort(first)
    counts = np.bincount(inverse)

    def mean(values: Array) -> Array:
        sums = np.zeros((len(unique), values.shape[1]))
        np.add.at(sums, inverse, values)
        return np.asarray((sums / counts[:, None])[order])

    repeated = int((counts > 1).sum())
    if repeated:
        notes.append(f"{repeated} patches were measured more than once and averaged.")
    return Measurements(
        names, unique[order], mean(xyz), None if spectra is None else mean(spectra), title[:200], provenance
    )
