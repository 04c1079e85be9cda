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
from plinto_core.profiling.drawn_plots import Axis, DrawnLine, field, plot
from plinto_core.profiling.judge import Judgement

_INK = {"C": "#0093c9", "M": "#c4147a", "Y": "#a38800", "K": "#1b1b1a", "O": "#d0661c", "B": "#3a49b0", "V": "#6a3fa0",
        "G": "#2c8a4c", "R": "#c43022"}  # fmt: skip
_STYLE = """
td { font-weight: 600; }
.plots { display: grid; grid-template-columns: 1fr 1fr; gap: 4mm; }
figure { margin: 0; }
figcaption { font-size: 9pt; color: #55534f; }
img, svg { width: 100%; height: auto; display: block; }
"""
Curve = Sequence[tuple[float, float]]
_QUARTERS = (0.0, 0.25, 0.5, 0.75, 1.0)


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
    told: Sequence[tuple[str, str]] = (),
) -> str:
    """One page of HTML with nothing outside it; `pictures` are captions with PNG bytes, `told` what people say of the
    condition, each with its name."""
    j = judgement
    rgb = driven_by_rgb(j.inks)
    figures = [
        *told,
        (
            "Round trip",
            f"ΔE00 {j.round_trip_mean:.2f} mean, {j.round_trip_p99:.2f} p99, {j.round_trip_worst:.2f} worst",
        ),
        ("Gray axis", f"at most {j.max_neutral_chroma:.2f} C* off neutral"),
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
    asked = [row[0] for row in j.gray_axis]
    wanted = Axis("L* asked for", 100, min(asked), [each for each in (100, 80, 60, 40, 20, 0) if each >= min(asked)])
    printed = [
        DrawnLine("a*", "#1b1b1a", [(row[0], row[2]) for row in j.gray_axis]),
        DrawnLine("b*", "#77736c", [(row[0], row[3]) for row in j.gray_axis]),
    ]
    drawn = plot("The gray axis as it prints", printed, wanted, Axis("a*, b*", -3, 3, (-3, -2, -1, 0, 1, 2, 3)))
    if driven_by_rgb(j.inks):
        values = Axis("Device value", 0, 1, (0, 51 / 255, 102 / 255, 153 / 255, 204 / 255, 1), 255)
        channels = [
            DrawnLine(
                ink[1:], _color(ink[1:]), [(at, 1 - row[k]) for at, row in zip(asked, j.gray_inks, strict=True)]
            )
            for k, ink in enumerate(j.inks)
        ]
        return drawn + plot("R, G and B along the gray axis", channels, wanted, values) + _round_trip(j)
    inks = [
        DrawnLine(ink, _color(ink), [(at, row[k]) for at, row in zip(asked, j.gray_inks, strict=True)])
        for k, ink in enumerate(j.inks)
    ]
    gains = [DrawnLine(ink, _color(ink), points) for ink, points in j.gain.items()]
    return (
        drawn
        + plot("Inks along the gray axis", inks, wanted, Axis("Ink, %", 0, 1, _QUARTERS, 100))
        + plot("Dot gain", gains, Axis("Dot, %", 0, 1, _QUARTERS, 100), Axis("Tone value, %", 0, 1, _QUARTERS, 100))
        + (_darkness(by_total) if by_total else "")
        + _round_trip(j)
    )


def _darkness(by_total: Curve) -> str:
    first, last = by_total[0][0], by_total[-1][0]
    hundreds = [total for total in range(0, 801, 50 if last - first < 250 else 100) if first <= total <= last]
    across = Axis("Total ink, %", first, last, hundreds or [first])
    lightness = Axis("L*", 0, 60, (0, 20, 40, 60))
    return plot("The darkest neutral by total ink", [DrawnLine("", _INK["K"], by_total)], across, lightness)


def _color(ink: str) -> str:
    return _INK.get(ink.upper(), "#77736c")


def _round_trip(j: Judgement) -> str:
    return field(
        "Round trip by hue and lightness: white ΔE00 0, black 2 and more",
        j.round_trip_map,
        lambda mean: "rgb({0},{0},{0})".format(round(235 - min(mean / 2, 1) * 220)),
        Axis("Hue, degrees", 0, 360, (0, 90, 180, 270, 360)),
        Axis("L*", 0, 100, (0, 20, 40, 60, 80, 100)),
    )
