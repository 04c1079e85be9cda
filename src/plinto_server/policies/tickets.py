"""Tickets of outputs: what follows from them, and the check strip that tells from paper how a device is set."""

from typing import Any

import numpy as np

from plinto_core.colorimetry.lab import xyz_to_lab
from plinto_core.deliver.strip_out import strip_page
from plinto_core.errors import PolicyError
from plinto_core.icc.profile import Profile
from plinto_core.inks.drive import driven_by_rgb, turned
from plinto_core.inks.names import DRIVEN_BY_RGB, letters_of
from plinto_core.measurement.cgats import read_measurements
from plinto_core.measurement.chart import chart_text
from plinto_core.pdf.function import Array
from plinto_core.policy.check_strip import StripVerdict, read_strip, set_ups, strip_of
from plinto_core.press.calibration import calibration_of
from plinto_core.sandbox.client import check_file
from plinto_server.conditions.models import Condition
from plinto_server.devices import Device, device_by_slug, devices
from plinto_server.files.store import Part
from plinto_server.intake.names import clean_name
from plinto_server.policies.models import Output
from plinto_server.warm import shelves

#: Media whose profile may be set by mistake: as many as a strip of 24 patches tells apart.
_MOST_OTHERS = 4


def _condition(output: Output) -> Condition:
    if output.condition is None:
        raise PolicyError("A check strip needs to know what should be printed: choose a condition for this output.")
    return output.condition


def _profiles(output: Output) -> tuple[Profile, tuple[Profile, ...]]:
    """The profile that should be set, and those of other media of the same inks."""
    condition = _condition(output)
    press = shelves.profile(condition.profile_sha256)
    alike = Condition.objects.exclude(id=condition.id).order_by("name")
    others = []
    for each in alike:
        profile = shelves.profile(each.profile_sha256)
        if profile.header.space == press.header.space and profile.digest != press.digest:
            others.append(profile)
    return press, tuple(others[:_MOST_OTHERS])


def strip(output: Output) -> Array:
    """R, G, B values (patches, 3) 0…1 of the output's strip. Raises `PolicyError`."""
    press, others = _profiles(output)
    key = ("strip", press.digest, *(each.digest for each in others))
    found: Array = shelves.looks.get(key, lambda: strip_of(press, others))
    return found


def strip_text(output: Output) -> str:
    """The strip as CGATS of R, G, B."""
    return chart_text(turned(strip(output)), DRIVEN_BY_RGB)


def strip_pdf(output: Output) -> bytes:
    """The strip as a page to print."""
    return strip_page(strip(output), output.name)


def read(output: Output, part: Part, file_name: str) -> StripVerdict:
    """How the device was set that printed a measured strip. Raises `PlintoError`; nothing is kept."""
    name = clean_name(file_name, "strip.txt")
    press, others = _profiles(output)
    check_file("measurements", part.path, name)
    data, _ = read_measurements(part.path.read_bytes(), name)
    if not driven_by_rgb(letters_of(data.inks)):
        raise PolicyError(f"'{name}' has no R, G, B: measure the strip with its own values beside the readings.")
    return read_strip(press, others, turned(np.asarray(data.device)), xyz_to_lab(data.xyz))


def printers(output: Output) -> list[Device]:
    """Devices of the house that print with the inks of the output's condition; its own first."""
    if output.condition is None:
        return []
    press = shelves.condition(output.condition.profile_sha256)
    letters = press.calibration.device_inks if press.calibration else press.model.inks
    fitting = [each for each in devices() if each.inks == letters and not each.lights]
    return sorted(fitting, key=lambda each: each.slug != output.condition.slug if output.condition else True)


def ways(output: Output) -> list[dict[str, str]]:
    """How a driver may be set, by name, with its sentence."""
    press, others = _profiles(output)
    return [{"name": name, "said": said} for name, (said, _) in set_ups(press, others, np.ones((1, 3))).items()]


def print_and_read(output: Output, device_slug: str, way: str, run: int) -> StripVerdict:
    """The strip printed by a device of the house whose driver is set in this way, measured, and weighed."""
    press, others = _profiles(output)
    rgb = strip(output)
    found = set_ups(press, others, rgb).get(way)
    if found is None:
        raise PolicyError(f"No driver can be set to '{way[:60]}'. Choose one of the list.")
    device = device_by_slug(device_slug)
    if device not in printers(output):
        raise PolicyError(
            f"'{device.name}' lays down other inks than this output's condition. Choose another printer."
        )
    behind = calibration_of(press)
    printed = behind.apply(found[1]) if behind else found[1]
    xyz = np.concatenate([measured for _, measured in device.read(printed, run)])
    return read_strip(press, others, rgb, xyz_to_lab(xyz))


def told(found: StripVerdict) -> dict[str, Any]:
    """A verdict as plain values."""
    return {
        "cause": found.cause, "said": found.said,
        "ranked": [
            {"name": each.name, "said": each.said, "likelihood": each.likelihood, "delta_e": each.delta_e}
            for each in found.ranked[:5]
        ],
    }  # fmt: skip
