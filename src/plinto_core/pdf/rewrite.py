"""The same walk, written: every color as a policy's row has it, everything else as it came (ISO 32000-2)."""

from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from pikepdf import Array, Name, Pdf, Stream

from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.deliver.pdf_out import ink_space
from plinto_core.errors import DocumentError, IccError, PolicyError, RecipeError
from plinto_core.icc.profile import Profile
from plinto_core.pdf import shadings
from plinto_core.pdf.images import Pictures
from plinto_core.pdf.meaning import Meaning
from plinto_core.pdf.meshes import MOST_ERROR
from plinto_core.pdf.space import DocumentSpace
from plinto_core.pdf.spool import Spool
from plinto_core.pdf.state import ColorUse, Paint
from plinto_core.pdf.tape import Emit
from plinto_core.pdf.walk import as_it_came
from plinto_core.pdf.writer import Writer
from plinto_core.policy.conversion import Conversion, Conversions, OneColor, lab_as_rgb
from plinto_core.policy.kinds import Found
from plinto_core.policy.policy import BlackOnly, CleanSolids, Convert, Decision, Leave, Policy, Refuse
from plinto_core.policy.rule import DeliveryRule
from plinto_core.recipe import Intent

#: Rendering intents as documents name them (8.6.5.8).
_INTENTS: dict[str, Intent] = {
    "Perceptual": "perceptual", "RelativeColorimetric": "relative", "Saturation": "saturation",
    "AbsoluteColorimetric": "absolute",
}  # fmt: skip
#: Steps of a shading that are looked at for its difference.
_STEPS = 33


@dataclass(slots=True)
class Outcome:
    """One color, what was decided of it, what is written, how far the print is from what was meant (ΔE00; None where
    nobody knows, or nothing changed), and the media-relative Lab that prints, where it is known."""

    use: ColorUse
    decision: Decision
    written: tuple[float, ...] = ()
    delta_e: float | None = None
    lab: tuple[float, ...] = ()


@dataclass
class _Settled:
    """What a kind of color comes to, worked out once."""

    decision: Decision
    emit: Emit | None
    written: tuple[float, ...] = ()
    delta_e: float | None = None
    replaced: dict[Any, Any] = field(default_factory=dict)
    lab: tuple[float, ...] = ()


class Rewriter(Writer):
    """Rewrites the pages of `pdf` in place; `outcomes` tells every color."""

    def __init__(
        self, pdf: Pdf, policy: Policy, rule: DeliveryRule, meaning: Meaning, *, boxes: bool = False,
        spool: Spool | None = None,
    ) -> None:  # fmt: skip
        super().__init__(pdf, boxes=boxes)
        self._policy, self._rule, self._meaning = policy, rule, meaning
        self._to = meaning.destination
        self._conversions = Conversions(self._to)
        self._spool = spool or Spool(pdf)
        self._pictures = Pictures(pdf, meaning, rule, self._spool)
        self._settled: dict[Any, _Settled] = {}
        self._target: Any = None
        self.notes: set[str] = set()

    # Decisions.

    def outcome(self, use: ColorUse) -> Outcome:
        """What was decided of a use that was walked."""
        settled = use.settled or self._settled[self._key(use)]
        return Outcome(use, settled.decision, settled.written, settled.delta_e, settled.lab)

    @property
    def drift(self) -> float | None:
        """How far apart pictures print that should match (see `Pictures.drift`)."""
        return self._pictures.drift(self._to.lab)

    @staticmethod
    def _key(use: ColorUse) -> Any:
        picture = use.picture
        return (
            use.space, use.values, use.object, use.overprint, use.intent,
            (picture.key, round(picture.ppi, 1), picture.is_mask, use.where if picture.key == (0, 0) else "")
            if picture else None,
        )  # fmt: skip

    def _found(self, use: ColorUse) -> Found:
        space = use.space
        kind = space.kind if space.kind != "pattern" else "gray"
        values, lab, ink = use.values, None, None
        if values and space.kind != "pattern":
            array = np.array([values])
            known = self._meaning.lab(space, array)
            lab = None if known is None else (float(known[0, 0]), float(known[0, 1]), float(known[0, 2]))
            if space.family == "Indexed" and space.palette is not None:
                values = tuple(space.palette[min(int(values[0]), len(space.palette) - 1)])
            ink = 100.0 * sum(values) if kind in ("CMYK", "spot") else None
        names = space.names
        ppi = use.picture.ppi if use.picture and not use.picture.is_mask else None
        tagged = space.tagged and (self._policy.profiles_count or space.source is None)
        return Found(kind, use.object, tagged, tuple(values), names, use.overprint, lab, ink, ppi)

    def _decided(self, use: ColorUse, found: Found | None = None) -> Decision:
        row = self._policy.caught_by(found or self._found(use))
        does = self._policy.rows[row].does
        if use.space.kind == "spot" and not isinstance(does, Refuse):
            # Nothing is painted by None, and All is on every plate whatever it is converted to (8.6.6.4).
            if set(use.space.names) <= {"None"}:
                return Decision(row, "leave", "Ink 'None' paints nothing")
            if "All" in use.space.names:
                return Decision(row, "leave", "Registration color, on every plate")
        if isinstance(does, Refuse):
            return Decision(row, "refuse", does.sentence)
        if isinstance(does, Leave):
            if use.space.kind == "spot" and self._rule.spots == "refuse":
                names = ", ".join(use.space.names)
                return Decision(row, "refuse", f"The receiver takes no spot inks, and {names} is left.")
            return Decision(row, "leave")
        intent = self._intent(does, use)
        return Decision(row, does.kind, intent=intent)

    def _intent(self, does: Convert | BlackOnly | CleanSolids, use: ColorUse) -> Intent:
        if isinstance(does, Convert) and does.intent is not None:
            return does.intent
        return _INTENTS.get(use.intent, self._policy.intent)

    def _conversion(self, decision: Decision, source: Profile, space: DocumentSpace) -> Conversion:
        does = self._policy.rows[decision.row].does
        assert isinstance(does, Convert | BlackOnly | CleanSolids)
        if isinstance(does, Convert) and space.kind == "spot" and source.digest == lab_as_rgb().digest:
            # A spot is to be matched; making room for a black that it has not moves it by ΔE00 1.
            does = replace(does, bpc=False)
        intent = next(each for each in _INTENTS.values() if each == decision.intent)
        return self._conversions.of(source, does, intent)

    # What is written.

    def colored(self, use: ColorUse, paint: Paint) -> Emit | None:
        """The color that a row makes of a use."""
        way = use.object, use.overprint, use.intent
        settled = paint.settled.get(way) if use.picture is None else None
        if settled is None:
            key = self._key(use)
            settled = self._settled.get(key)
            if settled is None:
                settled = self._settled[key] = self._color(use, paint)
            if use.picture is None:
                paint.settled[way] = settled
        use.settled = settled
        return settled.emit if settled.emit is not None else as_it_came(paint)

    def _color(self, use: ColorUse, paint: Paint) -> _Settled:
        if use.space.kind == "pattern":
            return _Settled(Decision(len(self._policy.rows) - 1, "leave", "Painted through a pattern"), None)
        found = self._found(use)
        decision = self._decided(use, found)
        if decision.does in ("leave", "refuse"):
            return _Settled(decision, None, lab=self._left_lab(use))
        try:
            source, device = self._meaning.of(use.space, np.array([paint.values]))
            conversion = self._conversion(decision, source, use.space)
            one = conversion.value(device, lambda: self._devices_ahead(use.space), self._to.lab)
            black = self._kept_black(use, decision, found)
        except (PolicyError, IccError, RecipeError, DocumentError) as error:
            return _Settled(replace(decision, does="refuse", said=str(error)), None)
        decision = replace(decision, source=source.name)
        if self._meaning.prints_known_spot(use.space, np.array([paint.values])):
            decision = replace(decision, said="The ink's color as the policy knows it")
        if conversion.kept and use.space.kind == self._device:
            kept = replace(decision, does="leave", said="Already in the destination")
            return _Settled(kept, None, lab=self._left_lab(use))
        if black is not None:
            printed = self._to.lab(black)
            one = OneColor(black, printed, float(delta_e_2000(conversion.wanted(device), printed)[0]))
        written = tuple(round(float(v), 5) for v in one.written[0])
        lab = tuple(round(float(v), 2) for v in one.printed[0])
        return _Settled(decision, self._emit_of(written), written, one.off, lab=lab)

    def _devices_ahead(self, space: DocumentSpace) -> Any:
        """Device values (n, channels of the source) of colors that are painted further on, as far as they are known."""
        ahead = self.colors_ahead(space)
        return self._meaning.of(space, np.array(ahead))[1] if ahead else None

    def _left_lab(self, use: ColorUse) -> tuple[float, ...]:
        """What a color that stays prints, where its numbers are the destination's own."""
        values = np.array([use.values])
        if not use.values or use.space.family != f"Device{self._device}" or values.shape[1] != len(self._to.letters):
            return ()
        return tuple(round(float(v), 2) for v in self._to.lab(values)[0])

    def _kept_black(self, use: ColorUse, decision: Decision, found: Found) -> Any:
        """What pure black and gray come to in black ink alone (1, letters), where the row preserves them; else None."""
        does = self._policy.rows[decision.row].does
        letters = self._to.letters
        if not isinstance(does, Convert) or self._to.is_rgb or "K" not in letters or use.space.kind == "CMYK":
            return None
        if "pure black" in does.preserve and found.is_a("pure black"):
            return np.array([[float(letter == "K") for letter in letters]])
        if "gray" in does.preserve and use.space.kind == "gray":
            source, device = self._meaning.of(use.space, np.array([use.values]))
            return self._conversions.of(source, BlackOnly(), "relative").values(device)
        return None

    @property
    def _device(self) -> str:
        return "RGB" if self._to.is_rgb else "CMYK" if self._to.letters == ("C", "M", "Y", "K") else ""

    @property
    def target(self) -> Any:
        """The destination as a space object."""
        if self._target is None:
            if self._rule.profiles == "inside" and self._device:
                stream = Stream(self.pdf, self._to.profile.raw)
                stream["/N"] = len(self._to.letters)
                made = Array([Name.ICCBased, self.pdf.make_indirect(stream)])
                self._target = self.pdf.make_indirect(made)
            elif self._device:
                self._target = Name(f"/Device{self._device}")
            else:
                assert self._to.condition is not None
                self._target = ink_space(self.pdf, self._to.letters, self._to.condition.model)
        return self._target

    def _emit_of(self, values: tuple[float, ...]) -> Emit:
        target = self.target
        return Emit(self._device, values) if isinstance(target, Name) else Emit("", values, target)

    def image(self, found: Any, use: ColorUse, resources: Any) -> Any:
        """The picture that a row makes of one."""
        del resources
        key = self._key(use)
        if key not in self._settled:
            self._settled[key] = self._settled_image(found, use)
        return self._settled[key].replaced.get("image", found)

    def _settled_image(self, found: Any, use: ColorUse) -> _Settled:
        decision = self._decided(use)
        assert use.picture is not None
        try:
            if decision.does == "refuse":
                return _Settled(decision, None)
            if decision.does == "leave":
                made = self._pictures.averaged_down(found, use.space, use.picture.ppi, self._most_ink(use.space))
                replaced = {"image": made.stream} if made else self._tidied(found, use.space)
                return _Settled(
                    replace(decision, said=made.said if made else decision.said), None, (), None, replaced
                )
            sources: list[str] = []

            def conversion_of(source: Profile) -> Conversion:
                sources.append(source.name)
                return self._conversion(decision, source, use.space)

            if self._is_kept(use.space, decision):
                made = self._pictures.averaged_down(found, use.space, use.picture.ppi, self._most_ink(use.space))
                said = "Already in the destination" + (f"; {made.said}" if made else "")
                return _Settled(
                    replace(decision, does="leave", said=said), None, (), None,
                    {"image": made.stream} if made else self._tidied(found, use.space),
                )  # fmt: skip
            written = self._pictures.converted(
                found, use.space, conversion_of, self.target, use.picture.ppi, self._to.total_percent
            )
        except (PolicyError, IccError, RecipeError, DocumentError) as error:
            return _Settled(replace(decision, does="refuse", said=str(error)), None)
        decision = replace(decision, said=written.said, source=sources[0] if sources else "")
        return _Settled(decision, None, (), None, {"image": written.stream})

    def _most_ink(self, space: DocumentSpace) -> float:
        """Percent of ink that a picture of the destination's own device space may take; 0 for any other."""
        return self._to.total_percent if space.family == "DeviceCMYK" and self._device == "CMYK" else 0.0

    def _is_kept(self, space: DocumentSpace, decision: Decision) -> bool:
        if space.kind != self._device:
            return False
        source, _device = self._meaning.of(space, np.zeros((1, space.channels)))
        return self._conversion(decision, source, space).kept

    def _tidied(self, found: Any, space: DocumentSpace) -> dict[Any, Any]:
        """A picture in a device space that stands for another one, with that one in its own dictionary."""
        given = found.get("/ColorSpace")
        if not isinstance(given, Name) or space.object is None or str(given) == str(space.object):
            return {}
        another = self._spool.stream(bytes(found.read_raw_bytes()))
        for key, value in dict(found).items():
            if key != "/Length":
                another[key] = value
        another["/ColorSpace"] = space.object
        return {"image": another}

    def shading(self, found: Any, use: ColorUse, resources: Any) -> Any:
        """The shading that a row makes of one."""
        del resources
        key = self._key(use)
        if key not in self._settled:
            self._settled[key] = _Settled(self._decided(use), None)
        settled = self._settled[key]
        if settled.decision.does in ("leave", "refuse"):
            return found
        place = found.objgen if found.objgen != (0, 0) else bytes(found.unparse(resolved=False))
        if place not in settled.replaced:
            try:
                settled.replaced[place] = self._new_shading(found, use, settled)
            except (PolicyError, IccError, RecipeError, DocumentError) as error:
                settled.decision = replace(settled.decision, does="refuse", said=str(error))
                return found
        return settled.replaced[place]

    def _new_shading(self, found: Any, use: ColorUse, settled: _Settled) -> Any:
        def mapped(values: Any) -> Any:
            source, device = self._meaning.of(use.space, values)
            settled.decision = replace(settled.decision, source=source.name)
            return self._conversion(settled.decision, source, use.space).values(device)

        made, error = shadings.converted(self.pdf, found, use.space, mapped, self._to.lab, self.target)
        settled.delta_e = max(settled.delta_e or 0.0, error)
        if error > MOST_ERROR:
            self.notes.add(f"Page {use.page}: a shading is up to ΔE00 {error:.1f} off between its points.")
        return made

    def blends_in(self) -> Any:
        """The destination, as soon as anything may be converted into it."""
        converts = any(
            isinstance(row.does, Convert | BlackOnly | CleanSolids) for row in self._policy.rows if not row.off
        )
        if not converts:
            return None
        return self.target if self._device else Name.DeviceCMYK
