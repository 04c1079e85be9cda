"""Profiles looked into: header, tags, curves, planes of tables, values sent through, tags put together."""

from dataclasses import dataclass

import numpy as np

from plinto_core.analysis.cloud import screen_codes
from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.errors import IccError
from plinto_core.icc import cmm
from plinto_core.icc.edit import copy_tags, renamed
from plinto_core.icc.profile import INTENTS, Profile
from plinto_core.icc.slices import curves_of, lut_plane, tables_of
from plinto_core.inspection import describe_profile
from plinto_core.profiling.build_profile import settings_of
from plinto_core.profiling.report import report_html
from plinto_server.conditions.models import Condition
from plinto_server.conditions.print_mode import mode_from_json
from plinto_server.conditions.service import condition_by_slug, judged
from plinto_server.warm import shelves
from plinto_server.warm.png import encode_png


@dataclass(frozen=True)
class TagFacts:
    """A tag: its signature, one line on what it holds, and its curves (65 points each) by their place."""

    tag: str
    line: str
    curves: dict[str, list[list[float]]]
    has_table: bool


@dataclass(frozen=True)
class ProfileFacts:
    """Header as names and words, tags in the file's order."""

    name: str
    header: dict[str, str]
    tags: list[TagFacts]


def profile_of(slug: str) -> Profile:
    """A condition's profile. Raises `MissingError`."""
    return shelves.profile(condition_by_slug(slug).profile_sha256)


def facts(profile: Profile) -> ProfileFacts:
    """All there is to see."""
    told = describe_profile(profile)
    header = {k: str(v) for k, v in told.items() if k not in ("tags", "name")}
    tables = tables_of(profile)
    tags = [TagFacts(tag, str(told["tags"][tag])[:300], _curves(profile, tag), tag in tables) for tag in profile.tags]
    return ProfileFacts(profile.name, header, tags)


def _curves(profile: Profile, tag: str) -> dict[str, list[list[float]]]:
    found = curves_of(profile.tags[tag])
    return {place: [[round(float(v), 4) for v in curve] for curve in curves] for place, curves in found.items()}


def plane(profile: Profile, tag: str, level: float) -> bytes:
    """A plane of a table as PNG. Raises `IccError`."""
    gray = lut_plane(profile, tag, level)
    return encode_png(np.ascontiguousarray(np.repeat(gray[..., None], 3, axis=2)))


@dataclass(frozen=True)
class Sent:
    """Values through one profile: what came out, as Lab or inks in percent (R, G, B of 0 to 255), and its sRGB code."""

    name: str
    out: list[list[float]]
    rgb: list[int]


@dataclass(frozen=True)
class SentThrough:
    """Through each profile, and ΔE00 between the first two where both gave colors."""

    through: list[Sent]
    delta_e: list[float] | None


def send_through(profiles: list[Profile], values: list[list[float]], intent: str, *, to_lab: bool) -> SentThrough:
    """Ink values in percent (R, G, B of 0 to 255) to Lab, or Lab to them, through each profile. Raises `IccError`."""
    if not values:
        raise IccError("there are no values to evaluate; give at least one row")
    if intent not in INTENTS:
        raise IccError(f"'{intent}' is no rendering intent; choose {', '.join(INTENTS)}")
    sent, labs = [], []
    for profile in profiles:
        channels = profile.header.channels if to_lab else 3
        if any(len(row) != channels for row in values):
            raise IccError(f"'{profile.name}' takes {channels} values a color")
        rows = np.array(values, np.float64).reshape(-1, channels)
        top = 255 if profile.header.space == "RGB " else 100
        out = cmm.to_lab(profile, rows / top, intent) if to_lab else cmm.from_lab(profile, rows, intent) * top
        lab = out if to_lab else cmm.to_lab(profile, out / top, intent)
        labs.append(lab)
        sent.append(Sent(profile.name, out.round(2).tolist(), screen_codes(lab)))
    off = delta_e_2000(labs[0], labs[1]).round(3).tolist() if len(labs) > 1 else None
    return SentThrough(sent, off)


def put_together(target: str, source: str, tags: list[str], name: str) -> Profile:
    """A new profile: `target` with tags of `source`, under another name. Raises `IccError`."""
    made = profile_of(target)
    if tags:
        made = copy_tags(profile_of(source), made, tuple(tags))
    return renamed(made, name) if name else made


def _curve(condition: Condition) -> list[tuple[float, float]]:
    return [(total, L) for total, L in condition.report.get("total_by_lightness", [])]


def report(condition: Condition, pictures: list[tuple[str, bytes]]) -> str:
    """The judgement as a page that prints, with pictures (caption, PNG) of an artwork before and after."""
    profile = shelves.profile(condition.profile_sha256)
    told = {
        "Process": condition.process, "Medium": condition.medium.name if condition.medium else "",
        "Mode": mode_from_json(condition.mode).in_words(),
    }  # fmt: skip
    return report_html(
        judged(condition), None, settings_of(profile) or {}, _curve(condition), pictures,
        [(what, text) for what, text in told.items() if text],
    )  # fmt: skip
