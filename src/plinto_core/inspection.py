"""Profiles and pictures described in words and figures, for people and for programs."""

from typing import Any

from plinto_core.colorimetry.lab import xyz_to_lab
from plinto_core.icc.profile import CLASSES, INTENTS, Profile
from plinto_core.icc.values import (
    Colorants,
    Curve,
    CurveLut,
    Description,
    Numbers,
    ParametricCurve,
    ProfileSequence,
    TableLut,
    TagValue,
    Text,
    Unknown,
    Xyz,
)
from plinto_core.measurement.measurements import provenance_of
from plinto_core.measurement.tables import head_keywords
from plinto_core.raster.opened import Artwork


def describe_profile(profile: Profile) -> dict[str, Any]:
    """Name, header facts and a line for every tag."""
    header = profile.header
    return {
        "name": profile.name,
        "class": CLASSES[header.profile_class],
        "version": f"{header.version[0]}.{header.version[1]}",
        "device space": header.space.strip(),
        "connection space": header.pcs.strip(),
        "default intent": INTENTS[header.intent & 3],
        "created": header.created.strftime("%Y-%m-%d %H:%M"),
        "made with": header.creator.strip() or "not said",
        "rights": _rights(profile),
        **_measured(profile),
        "bytes": len(profile.raw),
        "sha256": profile.digest,
        "tags": {tag: describe_tag(value) + _as_lab(tag, value) for tag, value in profile.tags.items()},
    }


def _as_lab(tag: str, value: TagValue) -> str:
    """What the media white or black point is in L*, a*, b*, in which paper is spoken of."""
    if tag not in ("wtpt", "bkpt") or not isinstance(value, Xyz) or len(value.values) == 0:
        return ""
    lightness, a, b = xyz_to_lab(value.values[0])
    return f", L* {lightness:.2f} a* {a:.2f} b* {b:.2f}"


def _rights(profile: Profile) -> str:
    tag = profile.tags.get("cprt")
    return tag.text if isinstance(tag, Text | Description) and tag.text else "not said"


#: Keywords of the measurements inside a profile (ISO 28178, 5.2) that tell who measured with what, and how.
_MEASURED = {
    "measured by": ("ORIGINATOR",),
    "instrument": ("INSTRUMENTATION", "SERIAL"),
    "measurement condition": ("MEASUREMENT_CONDITION", "MEASUREMENT_SOURCE", "FILTER"),
    "measured on": ("CREATED",),
}


def _measured(profile: Profile) -> dict[str, str]:
    """What the measurements that travel in the profile say of themselves; nothing where they say nothing."""
    tag = profile.tags.get("targ")
    if not isinstance(tag, Text):
        return {}
    said = dict(provenance_of(head_keywords(tag.text)))
    found = {what: ", ".join(said[key] for key in keys if key in said) for what, keys in _MEASURED.items()}
    return {what: text[:200] for what, text in found.items() if text}


def describe_tag(value: TagValue) -> str:  # noqa: PLR0911 - one return a type
    """One line on what a tag holds."""
    match value:
        case Text():
            lines = value.text.count("\n")
            return " ".join(value.text[:60].split()) + (f" … ({lines} lines)" if lines else "")
        case Description():
            return value.text
        case Xyz():
            return "  ".join("XYZ " + " ".join(f"{v:.4f}" for v in row) for row in value.values[:3])
        case Numbers():
            return " ".join(f"{v:.4f}" for v in value.values[:9])
        case Curve():
            count = len(value.values)
            return (
                "linear" if count == 0 else f"gamma {value.values[0]:g}" if count == 1 else f"curve, {count} points"
            )
        case ParametricCurve():
            return f"parametric curve of type {value.kind}: " + " ".join(f"{p:.5g}" for p in value.parameters)
        case TableLut():
            points = "×".join(str(n) for n in value.grid.shape[:-1])
            return f"{value.bits}-bit table, {points} points to {value.grid.shape[-1]} channels"
        case CurveLut():
            points = "×".join(str(n) for n in value.grid.shape[:-1]) if value.grid is not None else "no grid"
            return f"curves and table, {points}, {'to' if value.to_pcs else 'from'} the connection space"
        case ProfileSequence():
            return " → ".join(step.model_name.text or "unnamed" for step in value.steps)
        case Colorants():
            return ", ".join(value.names)
        case Unknown():
            return f"type '{value.data[:4].decode('latin-1')}', {len(value.data)} bytes, kept as they are"


def describe_artwork(artwork: Artwork) -> dict[str, Any]:
    """Size, depth, resolution, profile and what opening will do."""
    profile = artwork.profile
    return {
        "name": artwork.name,
        "format": artwork.format,
        "width": artwork.width,
        "height": artwork.height,
        "megapixels": round(artwork.megapixels, 2),
        "depth": artwork.depth,
        "resolution ppi": artwork.resolution_ppi,
        "stored as": artwork.stored_as,
        "embedded profile": profile.name if profile else None,
        "alpha": artwork.has_alpha,
        "notes": list(artwork.notes),
    }
