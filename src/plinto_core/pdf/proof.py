"""How a page prints: the rewritten page with every ink sent through the condition's model to display colors, then drawn."""

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pikepdf

from plinto_core.chain.library import Condition
from plinto_core.errors import PolicyError
from plinto_core.icc import cmm
from plinto_core.icc.profile import Profile
from plinto_core.icc.standard import rgb_profile
from plinto_core.pdf.apply import Applied, rewritten
from plinto_core.pdf.document import opened
from plinto_core.pdf.draw import Pixels, draw, only_page, saved
from plinto_core.pdf.meaning import Meaning
from plinto_core.pdf.rewrite import Rewriter
from plinto_core.policy.conversion import Destination
from plinto_core.policy.kinds import Catches
from plinto_core.policy.policy import Convert, Policy, Row
from plinto_core.policy.rule import DeliveryRule

AS_WRITTEN = DeliveryRule(output_intent=False)


@dataclass(frozen=True)
class ProofView:
    """What a proof is looked at with: the display's profile, and whether the stock's own color is shown."""

    display: Profile
    substrate: bool = False

    @property
    def intent(self) -> str:
        """As on the Bench: media-relative, or ICC-absolute where the stock is shown."""
        return "absolute" if self.substrate else "relative"


def proof_page(
    path: Path, page: int, ppi: float, policy: Policy | None, condition: Condition | None, *, limit: float | None = None,
    profiles: dict[str, Profile] | None = None, view: ProofView | None = None, password: str = "",
) -> tuple[Pixels, Applied | None]:  # fmt: skip
    """A page (from 0) as it prints after `policy`, or with the document's own inks; RGB (h, w, 3) for the display.

    Raises `DocumentError` and `PolicyError`.
    """
    view = view or ProofView(rgb_profile("sRGB"))
    data, done = proof_document(
        path, page, policy, condition, limit=limit, profiles=profiles, view=view, password=password
    )
    return draw(data, 0, ppi, paper(condition, view)), done


def proof_document(
    path: Path, page: int, policy: Policy | None, condition: Condition | None, *, view: ProofView,
    limit: float | None = None, profiles: dict[str, Profile] | None = None, password: str = "",
    shown_as: str = "",
) -> tuple[bytes, Applied | None]:  # fmt: skip
    """As `proof_page`, as a document of one page that is to be drawn on `paper`; errors name the file `shown_as`."""
    with opened(path, shown_as, password) as pdf:
        alone = only_page(pdf, page)
        done = None
        if policy is not None:
            _, done = rewritten(alone, path.name, policy, AS_WRITTEN, condition, limit=limit, profiles=profiles)
        return saved(shown(alone, policy, condition, profiles or {}, view)), done


def paper(condition: Condition | None, view: ProofView) -> tuple[int, int, int]:
    """The display color of the bare stock."""
    if condition is None or not view.substrate:
        return 255, 255, 255
    white = condition.model.to_absolute(np.array([[100.0, 0.0, 0.0]]))
    red, green, blue = np.rint(np.clip(cmm.from_lab(view.display, white)[0], 0, 1) * 255).astype(int)
    return int(red), int(green), int(blue)


def shown(
    pdf: pikepdf.Pdf, policy: Policy | None, condition: Condition | None, profiles: dict[str, Profile], view: ProofView
) -> pikepdf.Pdf:  # fmt: skip
    """The document with every color as the display is to show it, changed in place.

    Device inks mean the condition's. What is left in another space is shown as the policy reads it.
    """
    press = condition.profile if condition else None
    known = dict(profiles) | ({press.digest: press} if press else {})
    inks = press.digest if press and press.header.space == "CMYK" else (policy.cmyk if policy else "")
    if inks == "destination":
        inks = ""
    rgb = press.digest if press and press.header.space == "RGB " else ((policy.rgb if policy else "") or "sRGB")
    if rgb == "destination":
        rgb = "sRGB"
    does = Convert(intent="absolute" if view.substrate else "relative", bpc=False, method="as-profiled")
    looking = Policy(
        "Proof", (Row(Catches(), does),), "sRGB", rgb=rgb, cmyk=inks, gray="gray", intent_wins=not inks,
        spots=policy.spots if policy else (),
    )  # fmt: skip
    redrawn(pdf, looking, Meaning(looking, Destination(None, view.display), known))
    return pdf


def redrawn(pdf: pikepdf.Pdf, looking: Policy, meaning: Meaning) -> None:
    """Every color changed in place to that of the display which `looking` converts into. Raises `PolicyError`."""
    writer = Rewriter(pdf, looking, AS_WRITTEN, meaning)
    for number, each in enumerate(pdf.pages):
        for use in writer.page(each, number + 1):
            if not use.in_mask and writer.outcome(use).decision.does == "refuse":
                raise PolicyError(f"Page {number + 1} cannot be shown: {writer.outcome(use).decision.said}")
