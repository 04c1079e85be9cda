"""A proofing system judged: what a press prints, printed by the proofing printer, and how far the two are apart."""

from typing import Any

import numpy as np

from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.icc.profile import Profile
from plinto_core.route.color_list import ColorList
from plinto_core.route.route import Waypoint, travel

#: From this much of a channel it is a full one.
_FULL = 0.999


def judged(press: Profile, proofer: Profile, colors: ColorList) -> dict[str, Any]:
    """ΔE00 of the press's colors, ICC-absolute, to the proof of them: over all, on paper, on each solid, and the worst.

    Paper is proofed too: the printer lays the press's stock on its own. Raises `PipelineError`, `IccError`.
    """
    stations = travel(colors, (Waypoint(press, "absolute"), Waypoint(proofer, "absolute")))
    printed, proof = stations
    off = delta_e_2000(printed.lab, proof.lab)
    values = colors.values
    told: dict[str, Any] = {
        "press": press.name, "proofing printer": proofer.name, "colors": len(off), "mean ΔE00": round(float(off.mean()), 2),
        "95 %": round(float(np.percentile(off, 95)), 2), "99 %": round(float(np.percentile(off, 99)), 2),
        "largest": round(float(off.max()), 2), "share above ΔE00 3, %": round(float((off > 3).mean() * 100), 1),
    }  # fmt: skip
    rgb = colors.channels == ("R", "G", "B")
    bare = (values >= _FULL).all(axis=1) if rgb else (values <= 1 - _FULL).all(axis=1)
    if bare.any():
        told["paper"] = round(float(off[bare].mean()), 2)
    for at, channel in enumerate(colors.channels if not rgb else ()):
        others = np.delete(values, at, axis=1)
        solid = (values[:, at] >= _FULL) & (others <= 1 - _FULL).all(axis=1)
        if solid.any():
            told[f"solid {channel}"] = round(float(off[solid].mean()), 2)
    worst = np.argsort(off)[::-1][:5]
    told["worst"] = [
        {
            "color": colors.names[at], "ΔE00": round(float(off[at]), 2),
            "values": [round(float(value), 3) for value in values[at]],
            "press Lab": [round(float(value), 1) for value in printed.lab[at]],
            "proof Lab": [round(float(value), 1) for value in proof.lab[at]],
        }
        for at in worst
    ]  # fmt: skip
    return told
