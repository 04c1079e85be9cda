"""What was decided of a document, for programs and for people: refused first, alike decisions told once."""

import base64
import html
import io
from collections import Counter
from collections.abc import Callable
from math import isfinite
from typing import Any

import numpy as np
from PIL import Image

from plinto_core.pdf.apply import Applied
from plinto_core.pdf.draw import Pixels
from plinto_core.pdf.rewrite import Outcome
from plinto_core.pdf.state import Box, ColorUse
from plinto_core.policy.policy import Decision, Policy
from plinto_core.policy.words import in_words
from plinto_core.printed_page import printed_page

_ORDER = {"refuse": 0, "convert": 1, "clean solids": 2, "black only": 3, "leave": 4}
#: What was done, as it is told.
DONE = {
    "refuse": "refused", "convert": "converted", "clean solids": "clean solids",
    "black only": "black only", "leave": "left",
}  # fmt: skip
_OBJECTS = {"text": "Text", "line art": "Line art", "image": "Picture", "shading": "Shading"}
_STYLE = "img { max-width: 28mm; max-height: 20mm; border: .2mm solid #bbb; } .refused td { font-weight: 600; }"
_THUMBNAIL_PPI, _MOST_THUMBNAILS, _THUMBNAIL = 50, 60, 140


def found_in_words(use: ColorUse) -> str:
    """Space and values, or pixels, of a color as it was found."""
    if use.picture is not None and not use.picture.is_mask:
        p = use.picture
        return f"{use.space.label}, {p.width} × {p.height}, {p.bits} bit, {p.ppi:.0f} ppi, {p.compression}"
    if not use.values:
        return use.space.label
    percent = use.space.kind in ("CMYK", "spot") and use.space.family != "Indexed"
    codes = use.space.kind in ("RGB", "gray") and use.space.family != "Indexed"
    scale = 100 if percent else 255 if codes else 1
    return f"{use.space.label} {' '.join(f'{value * scale:.0f}' for value in use.values)}{' %' if percent else ''}"


def records(done: Applied, letters: tuple[str, ...]) -> list[dict[str, Any]]:
    """One record for each kind of decision on each page, refused first, with how often it was met and where it lies."""
    found: dict[Any, dict[str, Any]] = {}
    for outcome in done.outcomes:
        use, decision = outcome.use, outcome.decision
        key = use.page, use.object, use.space, use.values, decision, use.picture.key if use.picture else None
        entry = found.get(key)
        if entry is None:
            entry = found[key] = {
                "page": use.page, "object": _OBJECTS[use.object], "found": found_in_words(use), "row": decision.row + 1,
                "done": DONE[decision.does], "written": _written(outcome, letters), "why": _why(decision),
                "source": decision.source, "intent": decision.intent, "times": 0,
                "delta_e": None if outcome.delta_e is None else round(outcome.delta_e, 2),
                "lab": [round(each, 1) for each in outcome.lab], "where": use.where, "boxes": [],
            }  # fmt: skip
        entry["times"] += 1
        if use.box is not None and len(entry["boxes"]) < 200 and isfinite(sum(use.box)):
            entry["boxes"].append([round(each, 1) for each in use.box])
    order = {word: at for does, at in _ORDER.items() for word in (DONE[does],)}
    return sorted(found.values(), key=lambda each: (order[each["done"]], each["page"]))


def _why(decision: Decision) -> str:
    """From where a changed color came, and what else is to be said of it."""
    changed = decision.does not in ("leave", "refuse") and decision.source
    came = f"from {decision.source}, {decision.intent}" if changed else ""
    return "; ".join(filter(None, [decision.said, came]))


def _written(outcome: Outcome, letters: tuple[str, ...]) -> str:
    if not outcome.written:
        return ""
    if letters == ("R", "G", "B"):
        return "R {:.0f} G {:.0f} B {:.0f}".format(*(255 * value for value in outcome.written))
    return " ".join(
        f"{letter} {100 * value:.0f}" for letter, value in zip(letters, outcome.written, strict=True) if value
    )


def report(done: Applied, policy: Policy, letters: tuple[str, ...]) -> dict[str, Any]:
    """All there is to tell, as plain values."""
    spaces = Counter(outcome.use.space.label for outcome in done.outcomes)
    return {
        "document": done.name, "digest": done.digest, "policy": policy.name, "policy digest": policy.digest,
        "pages": done.pages, "refused": done.refused, "refusals": done.refusals, "notes": done.notes,
        "decisions": dict(done.counts), "spaces before": dict(spaces), "bytes before": done.bytes_before,
        "bytes after": done.bytes_after, "drift": None if done.drift is None else round(done.drift, 2),
        "rows": [
            {
                "row": at + 1, "says": in_words(row), "objects": sum(done.by_row.get(at, Counter()).values()),
                "pages": len(done.by_row.get(at, ())),
            }
            for at, row in enumerate(policy.rows)
        ],
        "records": records(done, letters),
    }  # fmt: skip


def as_page(told: dict[str, Any], thumbnails: dict[str, str] | None = None) -> str:
    """The report as a page to print, with `thumbnails` of the objects concerned, as `thumbnails_of` gives them."""
    thumbnails = thumbnails or {}
    rows = "".join(
        f"<tr><td>{each['row']}</td><td>{_e(each['says'])}</td><td class=number>{each['objects']}</td>"
        f"<td class=number>{each['pages']}</td></tr>"
        for each in told["rows"]
    )
    lines = "".join(_line(each, thumbnails.get(str(at), "")) for at, each in enumerate(told["records"]))
    verdict = "Refused: not sent on" if told["refused"] else "Sent on"
    reasons = "".join(f"<li>{_e(each)}</li>" for each in told["refusals"])
    notes = "".join(f"<li>{_e(each)}</li>" for each in told["notes"])
    counts = ", ".join(f"{count} {DONE[word]}" for word, count in sorted(told["decisions"].items()))
    return printed_page(
        told["document"],
        f"""<p><b>{verdict}.</b> Policy “{_e(told["policy"])}”. {told["pages"]} pages, {counts}.
{told["bytes before"] / 1e6:.2f} → {told["bytes after"] / 1e6:.2f} MB.{_drift(told.get("drift"))}</p>
{f"<h2>Why it was refused</h2><ul>{reasons}</ul>" if reasons else ""}
{f"<h2>To look at</h2><ul>{notes}</ul>" if notes else ""}
<h2>Rows</h2><table><thead><tr><th>Row</th><th>Says</th><th class=number>Objects</th><th class=number>Pages</th></tr>
</thead><tbody>{rows}</tbody></table>
<h2>Decisions</h2><table><thead><tr><th></th><th>Page</th><th>Object</th><th>Found</th><th>Row: done</th><th>Why</th>
<th class=number>ΔE00</th></tr></thead><tbody>{lines}</tbody></table>
<p>Document {told["digest"][:16]}, policy {told["policy digest"][:16]}.</p>""",
        _STYLE,
    )


def _line(each: dict[str, Any], thumbnail: str) -> str:
    picture = f'<img alt="" src="data:image/png;base64,{thumbnail}">' if thumbnail else ""
    times = f" × {each['times']}" if each["times"] > 1 else ""
    off = "" if each["delta_e"] is None else f"{each['delta_e']:.1f}"
    return (
        f"<tr class={each['done'].split()[0]}><td>{picture}</td><td>{each['page']}</td><td>{each['object']}{times}</td>"
        f"<td>{_e(each['found'])}</td><td>{each['row']}: {each['done']} {_e(each['written'])}</td>"
        f"<td>{_e(each['why'])}</td>"
        f"<td class=number>{off}</td></tr>"
    )


def _drift(drift: float | None) -> str:
    if drift is None:
        return ""
    return f" One picture stands here under several profiles; its appearances print up to ΔE00 {drift:.1f} apart."


def _e(text: str) -> str:
    return html.escape(str(text))


def thumbnails_of(told: list[dict[str, Any]], page_at: Callable[[int, float], Pixels]) -> dict[str, str]:
    """Small PNGs (base64) of the places of the first records that have one, by the record's number.

    `page_at` draws a page (from 0) at so many ppi.
    """
    drawn: dict[int, Pixels] = {}
    found: dict[str, str] = {}
    for at, each in enumerate(told[:_MOST_THUMBNAILS]):
        if not each["boxes"]:
            continue
        page = each["page"] - 1
        if page not in drawn:
            drawn[page] = page_at(page, _THUMBNAIL_PPI)
        cut = _cut(drawn[page], tuple(each["boxes"][0]))
        if cut is not None:
            found[str(at)] = cut
    return found


def _cut(page: Pixels, box: Box) -> str | None:
    scale, height = _THUMBNAIL_PPI / 72, page.shape[0]
    margin = 4
    left, right = int(box[0] * scale) - margin, int(np.ceil(box[2] * scale)) + margin
    top, bottom = height - int(np.ceil(box[3] * scale)) - margin, height - int(box[1] * scale) + margin
    piece = page[max(top, 0) : max(bottom, 0), max(left, 0) : max(right, 0)]
    if not piece.size:
        return None
    image = Image.fromarray(np.ascontiguousarray(piece))
    image.thumbnail((_THUMBNAIL, _THUMBNAIL))
    out = io.BytesIO()
    image.save(out, "PNG")
    return base64.b64encode(out.getvalue()).decode()
