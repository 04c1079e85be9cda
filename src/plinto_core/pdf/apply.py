"""A document through a policy and a delivery rule: written whole, or refused with every reason."""

import gc
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import pikepdf
from pikepdf import Array, Pdf

from plinto_core import __version__
from plinto_core.chain.library import Condition
from plinto_core.deliver.pdf_out import output_intent
from plinto_core.errors import Cancelled, IccError
from plinto_core.files import file_digest, write_whole
from plinto_core.icc.profile import Profile, parse
from plinto_core.pdf.appearances import drawn_by_readers
from plinto_core.pdf.conformance import said_of_itself, unsay
from plinto_core.pdf.document import opened
from plinto_core.pdf.meaning import Meaning
from plinto_core.pdf.rewrite import Outcome, Rewriter
from plinto_core.pdf.spool import Spool, spool_beside
from plinto_core.pdf.state import ColorUse
from plinto_core.policy.conversion import destination_of
from plinto_core.policy.policy import Policy
from plinto_core.policy.rule import DeliveryRule

#: Percent that values written with three decimals may be over a limit by.
_ROUNDED = 0.5
_NAMESPACE = "urn:plinto:document:1"
#: Outcomes told one by one; beyond, alike ones are counted with the first of them.
MOST_TOLD = 200_000
_COLLECTED_EVERY = 32


@dataclass
class Applied:
    """What became of a document: every color with its decision, or as many as are told, and the sums."""

    name: str
    digest: str
    policy: str
    pages: int
    outcomes: list[Outcome] = field(default_factory=list)
    counts: Counter[str] = field(default_factory=Counter)
    by_row: dict[int, Counter[int]] = field(default_factory=dict)
    notes: list[str] = field(default_factory=list)
    refusals: list[str] = field(default_factory=list)
    #: Mean ΔE00 between appearances of one picture under several spaces, the largest; None without such pictures.
    drift: float | None = None
    bytes_before: int = 0
    bytes_after: int = 0

    @property
    def refused(self) -> bool:
        """Whether it was not sent on."""
        return bool(self.refusals)

    def add(self, outcome: Outcome) -> None:
        """Count one color, and keep it while there is room."""
        decision, use = outcome.decision, outcome.use
        self.counts[decision.does] += 1
        if decision.row not in self.by_row:
            self.by_row[decision.row] = Counter()
        self.by_row[decision.row][use.page] += 1
        if decision.does == "refuse":
            self.refusals.append(f"Page {use.page}, {_thing(use)}: {decision.said}")
        if len(self.outcomes) < MOST_TOLD:
            self.outcomes.append(outcome)


def _thing(use: ColorUse) -> str:
    word = {"image": "a picture", "text": "text", "line art": "line art", "shading": "a shading"}[use.object]
    return f"{word} in {use.space.label}"


def document_intent(pdf: Pdf) -> Profile | None:
    """The profile of the document's own output intent, where it has one that can be read (14.11.5)."""
    found = pdf.Root.get("/OutputIntents")
    for intent in found if isinstance(found, Array) else []:
        profile = intent.get("/DestOutputProfile") if isinstance(intent, pikepdf.Dictionary) else None
        if isinstance(profile, pikepdf.Stream):
            try:
                return parse(bytes(profile.read_bytes()))
            except (IccError, pikepdf.PdfError):
                continue
    return None


def apply(
    path: Path, out: Path | None, policy: Policy, rule: DeliveryRule, condition: Condition | None, *,
    name: str = "", limit: float | None = None, profiles: dict[str, Profile] | None = None, password: str = "",
    boxes: bool = False, pages: range | None = None, progress: Callable[[float], None] = lambda share: None,
    stopped: Callable[[], bool] = lambda: False,
) -> Applied:  # fmt: skip
    """Rewrite a document for the destination of a policy, and write it to `out` (None: decide only) unless it is refused.

    `limit` is the condition's total ink in percent, `profiles` those that the policy may name, by digest; `pages` (from 0)
    are those that are decided where nothing is written. Raises
    `DocumentError`, `PolicyError`, and `Cancelled` when `stopped` says so.
    """
    name = name or path.name
    with opened(path, name, password) as pdf, spool_beside(pdf, out) as spool:
        rewriter, done = rewritten(
            pdf, name, policy, rule, condition, limit=limit, profiles=profiles, boxes=boxes, spool=spool,
            pages=None if out else pages, progress=lambda share: progress(0.9 * share), stopped=stopped,
        )  # fmt: skip
        spool.finish()
        done.digest, done.bytes_before = file_digest(path), path.stat().st_size
        del rewriter
        if out is not None and not done.refused:
            if done.counts.keys() - {"leave"} and (said := said_of_itself(pdf)):
                unsay(pdf)
                done.notes.append(
                    f"It said '{said}'. Its colors are others now, so that nothing is claimed any more."
                )
            _sign(pdf, done, policy)
            write_whole(out, lambda part: _save(pdf, part, rule))
            done.bytes_after = out.stat().st_size
        progress(1.0)
        return done


def rewritten(
    pdf: Pdf, name: str, policy: Policy, rule: DeliveryRule, condition: Condition | None, *, limit: float | None = None,
    profiles: dict[str, Profile] | None = None, boxes: bool = False, pages: range | None = None, spool: Spool | None = None,
    progress: Callable[[float], None] = lambda share: None, stopped: Callable[[], bool] = lambda: False,
) -> tuple[Rewriter, Applied]:  # fmt: skip
    """The open document's pages (from 0; all of them) changed in place, and what was decided."""
    destination = destination_of(policy.into, condition, limit)
    limit = limit if policy.into == "condition" else None
    meaning = Meaning(policy, destination, profiles or {}, document_intent(pdf))
    rewriter = Rewriter(pdf, policy, rule, meaning, boxes=boxes, spool=spool)
    done = Applied(name, "", policy.name, len(pdf.pages))
    numbers = pages if pages is not None else range(len(pdf.pages))
    for at, number in _collecting_rarely(numbers):
        if stopped():
            raise Cancelled("The document was not written: it was cancelled.")
        for use in rewriter.page(pdf.pages[number], number + 1):
            if use.in_mask:
                continue
            outcome = rewriter.outcome(use)
            done.add(outcome)
            if rule.transparency == "refuse" and _see_through(use):
                done.refusals.append(f"Page {use.page}, {_thing(use)}: the receiver takes no transparency.")
            picture = use.picture
            if rule.least_ppi and picture and not picture.is_mask and picture.ppi < rule.least_ppi:
                done.notes.append(
                    f"Page {use.page}: a picture has {picture.ppi:.0f} ppi, and {rule.least_ppi:g} are wanted."
                )
            left = outcome.decision.does == "leave" and use.space.kind == "CMYK"
            if limit and left and use.values and 100 * sum(use.values) > limit + _ROUNDED:
                total = 100 * sum(use.values)
                done.notes.append(
                    f"Page {use.page}: {_thing(use)} has {total:.0f} % of ink as it came, and {limit:g} are allowed."
                )
            if use.overprint and use.values and _vanishes(use):
                done.notes.append(f"Page {use.page}: white overprints, so that it vanishes.")
        if drawn := drawn_by_readers(pdf, pdf.pages[number]):
            done.notes.append(
                f"Page {number + 1}: {_counted(drawn)} no appearance in the document. Whoever opens it draws that, in "
                "colors that stay as they came: flatten the document."
            )
        progress((at + 1) / len(numbers))
    done.notes += [
        f"Page {page}: a transfer function changes tones on their way to the device, after the conversion. Have the "
        "sender apply it."
        for page in sorted(rewriter.pages_of_other_tones)
    ]
    done.notes = list(dict.fromkeys([*done.notes, *sorted(rewriter.notes)]))
    done.refusals = list(dict.fromkeys(done.refusals))
    done.drift = rewriter.drift
    if rule.output_intent and not done.refused and done.counts.keys() - {"leave", "refuse"}:
        pdf.Root["/OutputIntents"] = Array([output_intent(pdf, destination.profile)])
    return rewriter, done


def _collecting_rarely(pages: range) -> Iterator[tuple[int, int]]:
    """Pages, counted, between which Python looks for garbage in circles: while it reads one it has none, but makes
    thousands of short-lived objects, and each few hundred of them would set the search going.
    """
    was = gc.isenabled()
    gc.disable()
    try:
        for at, number in enumerate(pages):
            yield at, number
            if at % _COLLECTED_EVERY == _COLLECTED_EVERY - 1:
                gc.collect(1)
    finally:
        if was:
            gc.enable()


def _counted(drawn: int) -> str:
    return "an annotation or form field has" if drawn == 1 else f"{drawn} annotations or form fields have"


def _see_through(use: ColorUse) -> bool:
    return use.alpha < 1 or use.blend not in ("Normal", "Compatible") or (use.masked and use.picture is None)


def _vanishes(use: ColorUse) -> bool:
    return use.space.kind in ("CMYK", "spot") and not any(use.values) and use.overprint_mode == 0


def _sign(pdf: Pdf, done: Applied, policy: Policy) -> None:
    """What was done, in the document's own metadata."""
    with pdf.open_metadata(set_pikepdf_as_editor=False) as metadata:
        metadata.register_xml_namespace(_NAMESPACE, "plinto")
        metadata[f"{{{_NAMESPACE}}}Document"] = done.digest
        metadata[f"{{{_NAMESPACE}}}Policy"] = f"{policy.name} {policy.digest}"
        metadata[f"{{{_NAMESPACE}}}Decisions"] = ", ".join(
            f"{count} {word}" for word, count in sorted(done.counts.items())
        )
        metadata[f"{{{_NAMESPACE}}}By"] = f"Plinto {__version__}"


def _save(pdf: Pdf, part: Path, rule: DeliveryRule) -> None:
    old = rule.pdf_version == "1.4"
    mode = pikepdf.ObjectStreamMode.disable if old else pikepdf.ObjectStreamMode.generate
    options: dict[str, Any] = {"force_version": rule.pdf_version} if rule.pdf_version else {}
    pdf.save(part, object_stream_mode=mode, deterministic_id=True, **options)
