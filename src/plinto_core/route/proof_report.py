"""A judged proofing system in words: as plain values, and as one HTML page that prints."""

from html import escape
from typing import Any

from plinto_core.printed_page import printed_page
from plinto_core.route.proofing import Check, ProofJudgement

_SOURCE = "ISO 12647-7:2016, clause 4"


def proof_plain(found: ProofJudgement) -> dict[str, Any]:
    """The judgement as plain values, rounded as they are shown."""
    return {
        "press": found.press, "proof": found.proofer, "colors": found.colors, "mean ΔE00": round(found.mean, 2),
        "95 %": round(found.p95, 2), "99 %": round(found.p99, 2), "largest": round(found.largest, 2),
        "share above ΔE00 3, %": round(found.over_three_percent, 1),
        **{part: round(value, 2) for part, value in found.apart.items()},
        "verdict": found.verdict,
        "requirements": [
            {
                "what": each.what, "unit": each.unit, "figure": None if each.figure is None else round(each.figure, 2),
                "allowed": each.allowed, "colors": each.colors, "held": each.held,
            }
            for each in found.checks
        ],
        "worst": [
            {
                "color": each.color, "ΔE00": round(each.delta_e, 2), "values": _rounded(each.values, 3),
                "press Lab": _rounded(each.press_lab, 1), "proof Lab": _rounded(each.proof_lab, 1),
            }
            for each in found.worst
        ],
    }  # fmt: skip


def _rounded(values: tuple[float, ...], digits: int) -> list[float]:
    return [round(value, digits) for value in values]


def state_of(check: Check) -> str:
    """Whether a requirement is held, in words."""
    return "cannot be told" if check.held is None else "held" if check.held else "broken"


def proof_html(found: ProofJudgement, when: str) -> str:
    """One page of HTML with nothing outside it; `when` is the day it was judged."""
    requirements = "".join(
        f"<tr><td>{escape(each.what)}</td><td>{each.colors:,}</td>"
        f"<td class=number>{'' if each.figure is None else f'{each.figure:.2f}'}</td>"
        f"<td class=number>{each.allowed:g}</td><td>{each.unit}</td><td>{state_of(each)}</td></tr>"
        for each in found.checks
    )
    apart = "".join(
        f"<tr><td>{escape(part)}</td><td class=number>{value:.2f}</td></tr>" for part, value in found.apart.items()
    )
    worst = "".join(
        f"<tr><td>{escape(each.color)}</td><td>{' '.join(f'{value * 100:.0f}' for value in each.values)}</td>"
        f"<td class=number>{_lab(each.press_lab)}</td><td class=number>{_lab(each.proof_lab)}</td>"
        f"<td class=number>{each.delta_e:.2f}</td></tr>"
        for each in found.worst
    )
    return printed_page(
        f"{found.press}, proofed by {found.proofer}",
        f"<p>Judged {escape(when)} over {found.colors:,} colors, ICC-absolute, D50, 2°.</p>"
        f'<p class="verdict">{escape(found.verdict)}</p>'
        "<table><thead><tr><th>Requirement<th>Colors<th class=number>Found<th class=number>Allowed<th>Unit<th></tr></thead>"
        f"<tbody>{requirements}</tbody></table>"
        f"<p>Unless they were set otherwise, what is allowed is what {_SOURCE}, allows. What that standard asks beyond "
        "color (evenness over the sheet, permanence, gloss, rub resistance) has to be seen on prints.</p>"
        "<h2>Over all colors</h2><table><tbody>"
        f"<tr><td>Mean</td><td class=number>{found.mean:.2f}</td></tr>"
        f"<tr><td>95 % within</td><td class=number>{found.p95:.2f}</td></tr>"
        f"<tr><td>99 % within</td><td class=number>{found.p99:.2f}</td></tr>"
        f"<tr><td>Largest</td><td class=number>{found.largest:.2f}</td></tr>"
        f"<tr><td>Above ΔE00 3</td><td class=number>{found.over_three_percent:.1f} %</td></tr></tbody></table>"
        f"<h2>Paper and solids by themselves, ΔE00</h2><table><tbody>{apart}</tbody></table>"
        "<h2>Largest errors</h2><table><thead><tr><th>Color<th>Values, %<th class=number>Press L*a*b*"
        f"<th class=number>Proof L*a*b*<th class=number>ΔE00</tr></thead><tbody>{worst}</tbody></table>",
    )


def _lab(values: tuple[float, ...]) -> str:
    return " ".join(f"{value:.1f}" for value in values)
