"""A judged profile as a report: JSON, or one HTML page that prints, its pictures drawn in it."""

import base64
import json
from collections.abc import Sequence
from dataclasses import asdict
from html import escape
from typing import Any

from plinto_core.inks.drive import driven_by_rgb
from plinto_core.printed_page import printed_page
from plinto_core.profiling.characterize import Characterization
from plinto_core.profiling.judge import Judgement

_INK = {"C": "#0093c9", "M": "#c4147a", "Y": "#b99b00", "K": "#1b1b1a", "O": "#d0661c", "B": "#3a49b0", "V": "#6a3fa0",
        "G": "#2c8a4c", "R": "#c43022"}  # fmt: skip
_STYLE = """
td { font-weight: 600; }
.plots { display: grid; grid-template-columns: 1fr 1fr; gap: 4mm; }
figure { margin: 0; }
figcaption { font-size: 9pt; color: #55534f; }
img, svg { width: 100%; height: auto; display: block; }
"""
Line = tuple[str, str, Sequence[tuple[float, float]]]


Curve = Sequence[tuple[float, float]]


def report_json(
    judgement: Judgement, found: Characterization | None, settings: dict[str, Any], by_total: Curve = ()
) -> str:
    """Judgement, characterization, settings, and L* of the darkest neutral by total ink %, as JSON."""
    plain: dict[str, Any] = {"judgement": asdict(judgement), "settings": settings}
    if found is not None:
        plain["characterization"] = characterization_plain(found) | {"total_by_lightness": list(by_total)}
    return json.dumps(plain, indent=1, ensure_ascii=False)


def characterization_plain(found: Characterization) -> dict[str, Any]:
    """The characterization without its model, as plain values."""
    plain = {
        name: getattr(found, name) for name in found.__dataclass_fields__ if name not in ("fit", "wrong_patches")
    }
    fit = found.fit
    return plain | {
        "held_out_mean": fit.held_out_mean, "held_out_p95": fit.held_out_p95, "smoothing": fit.smoothing,
        "tried": [asdict(each) for each in fit.tried],
        "wrong_patches": [
            {"inks_percent": [round(v * 100, 1) for v in inks], "delta_e": round(error, 1)}
            for inks, error in found.wrong_patches
        ],
    }  # fmt: skip


def report_html(
    judgement: Judgement,
    found: Characterization | None,
    settings: dict[str, Any],
    by_total: Curve = (),
    pictures: Sequence[tuple[str, bytes]] = (),
) -> str:
    """One page of HTML with nothing outside it; `pictures` are captions with PNG bytes."""
    j = judgement
    rgb = driven_by_rgb(j.inks)
    figures = [
        (
            "Round trip",
            f"ΔE00 {j.round_trip_mean:.2f} mean, {j.round_trip_p99:.2f} p99, {j.round_trip_worst:.2f} worst",
        ),
        ("Gray axis", f"at most {j.corkscrew:.2f} C* off neutral"),
        *([] if rgb else [("Most ink in its tables", f"{j.most_ink_percent:.1f} %")]),
        ("Black", "L*a*b* " + " ".join(f"{v:.1f}" for v in j.black_lab)),
        ("Roughness", f"{j.roughness:.2f} codes beyond an even step"),
        ("Gamut volume", f"{j.gamut_volume:,.0f} cubic ΔE*ab"),
    ]
    if found is not None:
        fit = found.fit
        figures += [
            ("Patches", f"{found.patches}, {len(fit.outliers)} set aside as wrong"),
            ("Fit of patches kept back", f"ΔE00 {fit.held_out_mean:.2f} mean, {fit.held_out_p95:.2f} p95"),
            ("Substrate", "L*a*b* " + " ".join(f"{v:.1f}" for v in found.substrate_lab)),
        ]
        if not rgb:
            figures.append(
                ("Dot gain at 50 %", ", ".join(f"{ink} {gain:.1f}" for ink, gain in found.gain_50.items()))
            )
    if j.against_data:
        figures.append(("Against measurements", "ΔE00 {:.2f} mean, {:.2f} p99, {:.2f} worst".format(*j.against_data)))
    limits, black = settings.get("limits", {}), settings.get("black", {})
    if limits and not rgb:
        figures += [
            ("Total ink asked for", f"{limits.get('total_percent', 0):g} %"),
            ("Black", f"{black.get('amount_percent', 0):g} % from {black.get('start_percent', 0):g} %, "
             f"at most {black.get('maximum_percent', 0):g} %"),
        ]  # fmt: skip
    if settings.get("style"):
        figures.append(("Perceptual style", str(settings["style"])))
    made_of = "driven by RGB" if rgb else f"inks {' '.join(j.inks)}"
    rows = "".join(f"<tr><th>{escape(name)}</th><td>{escape(value)}</td></tr>" for name, value in figures)
    shown = "".join(
        f'<figure><img alt="{escape(caption)}" src="data:image/png;base64,{base64.b64encode(png).decode()}">'
        f"<figcaption>{escape(caption)}</figcaption></figure>"
        for caption, png in pictures
    )
    return printed_page(
        j.name,
        f"<p>Output profile, ICC {escape(j.version)}, {made_of}. Figures are "
        "relative colorimetric, D50, 2°, unless said otherwise.</p>"
        f'<table>{rows}</table><h2>How it does</h2><div class="plots">{_plots(j, by_total)}</div>'
        + (f'<h2>On artwork</h2><div class="plots">{shown}</div>' if shown else ""),
        _STYLE,
    )


def _plots(j: Judgement, by_total: Curve) -> str:
    dark = min(row[0] for row in j.gray_axis)
    axis = [
        ("a*", "#1b1b1a", [(row[0], row[2]) for row in j.gray_axis]),
        ("b*", "#8a8781", [(row[0], row[3]) for row in j.gray_axis]),
    ]
    printed = _plot("Gray axis as printed: a* and b*, ±3, L* 100 to black", axis, (100, dark), (-3, 3))
    if driven_by_rgb(j.inks):
        channels: list[Line] = [
            (ink[1:], _color(ink[1:]), [(at, 1 - row[k]) for at, row in enumerate(j.gray_inks)])
            for k, ink in enumerate(j.inks)
        ]
        steps = len(j.gray_inks) - 1
        return (
            printed + _plot("R, G, B along the gray axis, light to dark, 0 to 255", channels, (0, steps), (0, 1))
            + _round_trip(j)
        )  # fmt: skip
    inks: list[Line] = [
        (ink, _color(ink), [(at, row[k]) for at, row in enumerate(j.gray_inks)]) for k, ink in enumerate(j.inks)
    ]
    gains: list[Line] = [(ink, _color(ink), list(points)) for ink, points in j.gain.items()]
    return (
        printed
        + _plot("Inks along the gray axis, light to dark, 0 to 100 %", inks, (0, len(j.gray_inks) - 1), (0, 1))
        + _plot("Dot gain that it implies: dot to tone value", gains, (0, 1), (0, 1))
        + (_darkness(by_total) if by_total else "")
        + _round_trip(j)
    )


def _darkness(by_total: Curve) -> str:
    ends = by_total[0][0], by_total[-1][0]
    title = f"L* of the darkest neutral, 0 to 60, over total ink, {ends[0]:g} to {ends[1]:g} %"
    return _plot(title, [("K", _INK["K"], by_total)], ends, (0, 60))


def _color(ink: str) -> str:
    return _INK.get(ink.upper(), "#777")


def _plot(title: str, lines: Sequence[Line], x: tuple[float, float], y: tuple[float, float]) -> str:
    drawn = ""
    # One ink has one step of the gray axis, and one total.
    x = x if x[1] != x[0] else (x[0], x[0] + 1)
    for at, (name, color, points) in enumerate(lines):
        path = "L".join(
            f"{(a - x[0]) / (x[1] - x[0]) * 300:.1f} {150 - min(max((b - y[0]) / (y[1] - y[0]), -0.02), 1.02) * 150:.1f}"
            for a, b in points
        )
        drawn += f'<path d="M{path}" fill="none" stroke="{color}" stroke-width="1.6"/>'
        drawn += (
            f'<text x="305" y="{12 + 12 * at}" font-size="10" font-weight="700" fill="{color}">{escape(name)}</text>'
        )
    frame = '<path d="M0 0V150H300M0 75H300" fill="none" stroke="#bbb" stroke-width="0.6"/>'
    return (
        f'<figure><svg viewBox="-2 -4 324 160" role="img" aria-label="{escape(title)}">{frame}{drawn}</svg>'
        f"<figcaption>{escape(title)}</figcaption></figure>"
    )


def _round_trip(j: Judgement) -> str:
    cells = ""
    for row, means in enumerate(j.round_trip_map):
        for column, mean in enumerate(means):
            if mean >= 0:
                gray = round(235 - min(mean / 2, 1) * 220)
                cells += (
                    f'<rect x="{column * 12.5}" y="{135 - row * 15}" width="12" height="14.5" '
                    f'fill="rgb({gray},{gray},{gray})"/>'
                )
    title = "Round trip by hue (across, 0° to 360°) and L* (up): black is ΔE00 2 and more"
    return (
        f'<figure><svg viewBox="-2 -4 324 160" role="img" aria-label="{title}">{cells}</svg>'
        f"<figcaption>{title}</figcaption></figure>"
    )
