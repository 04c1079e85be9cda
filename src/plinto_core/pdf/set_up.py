"""A page as a printer prints it that is set as a ticket says: converted once, a second time, or not at all."""

from pathlib import Path
from typing import Literal

import numpy as np

from plinto_core.chain.library import Condition
from plinto_core.icc.profile import Profile
from plinto_core.inks.drive import driven_by_rgb
from plinto_core.pdf.apply import rewritten
from plinto_core.pdf.document import opened
from plinto_core.pdf.draw import only_page, saved
from plinto_core.pdf.function import Array
from plinto_core.pdf.meaning import Meaning
from plinto_core.pdf.proof import AS_WRITTEN, ProofView, proof_document, redrawn
from plinto_core.pdf.space import DocumentSpace
from plinto_core.policy.check_strip import converted_again, unconverted
from plinto_core.policy.conversion import Destination, lab_as_rgb, lab_to_scaled
from plinto_core.policy.kinds import Catches
from plinto_core.policy.policy import Convert, Policy, Row

Converted = Literal["once", "twice", "never"]


def set_up_document(
    path: Path, page: int, converted: Converted, policy: Policy, condition: Condition, *, view: ProofView,
    limit: float | None = None, profiles: dict[str, Profile] | None = None, shown_as: str = "",
) -> bytes:  # fmt: skip
    """A document of one page (from 0) in display colors, to be drawn on `proof.paper`.

    Twice: what `policy` wrote is taken for a picture and converted by the device again. Never: the document's own numbers
    are printed as the device's. Raises `DocumentError` and `PolicyError`.
    """
    if converted == "once":
        data, _ = proof_document(
            path, page, policy, condition, view=view, limit=limit, profiles=profiles, shown_as=shown_as
        )
        return data
    with opened(path, shown_as) as pdf:
        alone = only_page(pdf, page)
        if converted == "twice":
            rewritten(alone, path.name, policy, AS_WRITTEN, condition, limit=limit, profiles=profiles)
        does = Convert(intent="absolute" if view.substrate else "relative", bpc=False, method="as-profiled")
        # What is no number of a device (Lab, spots by their own words) keeps its meaning.
        looking = Policy(
            "Set-up", (Row(Catches(), does),), "sRGB", rgb="sRGB", cmyk="", gray="gray", intent_wins=False,
            spots=policy.spots,
        )  # fmt: skip
        meaning = _Printed(looking, Destination(None, view.display), condition, view, converted)
        redrawn(alone, looking, meaning)
        return saved(alone)


class _Printed(Meaning):
    """Reads device numbers as the color that the printer makes of them."""

    keeps_values = False

    def __init__(
        self, policy: Policy, display: Destination, condition: Condition, view: ProofView, converted: Converted
    ) -> None:
        super().__init__(policy, display, {})
        self._condition, self._view, self._converted = condition, view, converted

    def of(self, space: DocumentSpace, values: Array) -> tuple[Profile, Array]:
        """As `Meaning.of`, with the print's own Lab for whatever becomes inks."""
        inks = self._inks(space, values)
        if inks is None:
            return super().of(space, values)
        model = self._condition.model
        lab = model.lab(inks)
        return lab_as_rgb(), lab_to_scaled(model.to_absolute(lab) if self._view.substrate else lab)

    def _inks(self, space: DocumentSpace, values: Array) -> Array | None:
        """Inks (n, inks) that the values come to; None where the space says by itself what it comes down to."""
        model = self._condition.model
        if self._converted == "twice":
            written = self._written(space, values)
            return None if written is None else converted_again(self._condition.profile, written)
        if space.family == "Indexed" or space.kind not in ("gray", "RGB", "CMYK"):
            return None
        if space.kind != "CMYK":
            return unconverted(model.inks, np.repeat(values, 3, axis=1) if space.kind == "gray" else values)
        if set("CMYK") <= set(model.inks):
            inks = np.zeros((len(values), len(model.inks)))
            inks[:, [model.inks.index(letter) for letter in "CMYK"]] = values
            return inks
        return unconverted(model.inks, (1 - values[:, :3]) * (1 - values[:, 3:]))

    def _written(self, space: DocumentSpace, values: Array) -> Array | None:
        """The press's inks, where the rewritten document has them."""
        model = self._condition.model
        if space.kind == "CMYK" and model.inks == ("C", "M", "Y", "K"):
            return values
        if space.family == "DeviceRGB" and driven_by_rgb(model.inks):
            return 1 - values
        if space.kind == "spot" and space.names == tuple(model.name_of(letter) for letter in model.inks):
            return values
        return None
