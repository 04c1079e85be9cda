"""Plate by plate: for each ink the document with every color replaced by 1 − ink as gray, then drawn.

Painting in gray plates blends as separations do for the separable modes. Overprint leaves out, on a plate, what does not
touch it (ISO 32000-2, 8.6.7).
"""

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import pikepdf
from numpy.typing import NDArray
from pikepdf import Name, Stream

from plinto_core.chain.library import Condition
from plinto_core.errors import DocumentError, IccError, PolicyError
from plinto_core.icc.profile import Profile
from plinto_core.pdf import shadings
from plinto_core.pdf.apply import rewritten
from plinto_core.pdf.document import opened
from plinto_core.pdf.draw import Pixels, draw, only_page, saved
from plinto_core.pdf.function import Array
from plinto_core.pdf.images import decoded, decoding, distinct, filters_of, packed_gray
from plinto_core.pdf.meaning import Meaning
from plinto_core.pdf.reading import whole
from plinto_core.pdf.space import DocumentSpace
from plinto_core.pdf.state import ColorUse, Paint
from plinto_core.pdf.tape import Emit
from plinto_core.pdf.walk import as_it_came, walk
from plinto_core.pdf.writer import Writer
from plinto_core.policy.conversion import Conversions, destination_of
from plinto_core.policy.kinds import Catches
from plinto_core.policy.policy import Convert, Leave, Policy, Row
from plinto_core.policy.rule import DeliveryRule
from plinto_core.raster.picture_kernels import hatch

#: Percent that rounding to codes may add up to over all inks, without anything being over a limit.
_DRAWN = 1.0
_HATCH_RAD, _HATCH_COLOR = 0.7854, (255, 255, 255)
_PROCESS = ("Cyan", "Magenta", "Yellow", "Black")


@dataclass(frozen=True)
class Plates:
    """Ink codes (h, w, inks) 0…255 of a page, and the inks' names; `guessed` names what was no ink, and was converted."""

    names: tuple[str, ...]
    codes: NDArray[np.uint8]
    guessed: tuple[str, ...] = ()

    @property
    def mean_percent(self) -> dict[str, float]:
        """Mean coverage of each ink."""
        means = self.codes.reshape(-1, len(self.names)).mean(axis=0) / 2.55
        return {name: round(float(mean), 2) for name, mean in zip(self.names, means, strict=True)}

    @classmethod
    def of(cls, planes: dict[str, Pixels], guessed: tuple[str, ...] = ()) -> "Plates":
        """Of what was drawn of `PlateDocuments`, RGB (h, w, 3) each."""
        return cls(tuple(planes), np.stack([255 - plane[..., 0] for plane in planes.values()], axis=-1), guessed)

    @property
    def largest_total_percent(self) -> tuple[float, tuple[int, int]]:
        """The most ink on one spot in percent, and where: column and row."""
        totals = self.codes.sum(axis=2, dtype=np.int32)
        at = int(totals.argmax())
        row, column = divmod(at, totals.shape[1])
        return float(totals.ravel()[at]) / 2.55, (column, row)


@dataclass(frozen=True)
class PlateDocuments:
    """A document of one page for each ink, in which 1 − ink stands as gray; `guessed` as in `Plates`."""

    pages: dict[str, bytes]
    guessed: tuple[str, ...]


def plates_of_page(
    path: Path, page: int, ppi: float, policy: Policy | None, condition: Condition | None, *, limit: float | None = None,
    profiles: dict[str, Profile] | None = None, password: str = "",
) -> Plates:  # fmt: skip
    """The plates of a page (from 0) after a policy, or of the document's own inks.

    Raises `DocumentError` and `PolicyError`.
    """
    made = plate_documents(path, page, policy, condition, limit=limit, profiles=profiles, password=password)
    return Plates.of({name: draw(data, 0, ppi) for name, data in made.pages.items()}, made.guessed)


def plate_documents(
    path: Path, page: int, policy: Policy | None, condition: Condition | None, *, limit: float | None = None,
    profiles: dict[str, Profile] | None = None, password: str = "",
    shown_as: str = "",
) -> PlateDocuments:  # fmt: skip
    """As `plates_of_page`, to be drawn; errors name the file `shown_as`."""
    with opened(path, shown_as, password) as pdf:
        alone = only_page(pdf, page)
        reading = policy or Policy("Own inks", (Row(Catches(), Leave()),), rgb="sRGB")
        if policy is not None:
            rule = DeliveryRule(output_intent=False)
            rewritten(alone, path.name, policy, rule, condition, limit=limit, profiles=profiles)
        to = destination_of("condition", condition, limit) if condition else destination_of("sRGB", None)
        meaning = Meaning(reading, to, profiles or {})
        process = _process_inks(meaning)
        spots: dict[str, None] = {}
        for use in walk(alone):
            for name in use.space.names if use.space.kind == "spot" and not use.in_mask else ():
                if name not in ("None", "All"):
                    spots.setdefault(name)
        guessed: set[str] = set()
        pages: dict[str, bytes] = {}
        for name in dict.fromkeys([*process, *spots]):
            plate = only_page(alone, 0)
            writer = _PlateWriter(plate, name, process, meaning)
            writer.page(plate.pages[0], page + 1)
            guessed |= writer.guessed
            pages[name] = saved(plate)
        return PlateDocuments(pages, tuple(sorted(guessed)))


def _process_inks(meaning: Meaning) -> tuple[str, ...]:
    condition = meaning.destination.condition
    if condition is None or meaning.destination.is_rgb:
        return _PROCESS
    return tuple(condition.model.name_of(letter) for letter in condition.model.inks)


class _PlateWriter(Writer):
    """One plate of every page."""

    def __init__(self, pdf: pikepdf.Pdf, plate: str, process: tuple[str, ...], meaning: Meaning) -> None:
        super().__init__(pdf)
        self._plate, self._process, self._meaning = plate, process, meaning
        self._conversions = Conversions(meaning.destination)
        self.guessed: set[str] = set()

    def blends_in(self) -> Any:
        """One ink is one gray."""
        return Name.DeviceGray

    def _amounts(self, space: DocumentSpace, values: Array) -> Array:
        """How much of this plate's ink (n,) values (n, channels) are."""
        space, values = space.looked_up(values)
        if space.kind == "spot":
            if "All" in space.names:
                return np.asarray(values[:, space.names.index("All")])
            if self._plate in space.names:
                return np.asarray(values[:, space.names.index(self._plate)])
            return np.zeros(len(values))
        if space.kind == "CMYK":
            return (
                np.asarray(values[:, _PROCESS.index(self._plate)])
                if self._plate in _PROCESS
                else np.zeros(len(values))
            )
        if space.kind == "gray" and space.family == "DeviceGray":
            return np.asarray(1 - values[:, 0]) if self._plate == "Black" else np.zeros(len(values))
        return self._converted(space, values)

    def _converted(self, space: DocumentSpace, values: Array) -> Array:
        """What a receiver would make of colors that are no inks."""
        self.guessed.add(space.label)
        if self._plate not in self._process or self._meaning.destination.condition is None:
            if self._plate not in self._process:
                return np.zeros(len(values))
            raise DocumentError(
                f"{space.label} is no ink. Give the condition's profile to see what it is printed with."
            )
        try:
            source, device = self._meaning.of(space, values)
            inks = self._conversions.of(source, Convert(), "relative").values(device)
        except (PolicyError, IccError) as error:
            raise DocumentError(f"{space.label} is no ink, and cannot be shown on a plate: {error}") from error
        return np.asarray(inks[:, self._process.index(self._plate)])

    def _left_out(self, use: ColorUse) -> bool:
        """Whether an overprinting object does not touch this plate at all."""
        space = use.space
        if not use.overprint or self._plate in space.names or "All" in space.names:
            return False
        if space.kind == "spot":
            return True
        if space.family != "DeviceCMYK":
            return self._plate not in self._process
        if self._plate not in _PROCESS:
            return True
        return use.overprint_mode == 1 and bool(use.values) and not use.values[_PROCESS.index(self._plate)]

    def colored(self, use: ColorUse, paint: Paint) -> Emit | None:
        """The gray of a use on this plate."""
        if use.space.kind == "pattern":
            return as_it_came(paint)
        amount = float(np.clip(self._amounts(use.space, np.array([use.values]))[0], 0, 1))
        if set(use.space.names) == {"None"}:
            return Emit("gray", (1.0,), hidden=True)
        return Emit("gray", (round(1 - amount, 5),), hidden=self._left_out(use))

    def image(self, found: Any, use: ColorUse, resources: Any) -> Any:
        """A picture as gray."""
        del resources
        key = "image", found.objgen, use.space, use.where if found.objgen == (0, 0) else ""
        if key not in self._made:
            self._made[key] = self.pdf.make_indirect(self._gray(found, use.space))
        return self._made[key]

    def _gray(self, found: Any, space: DocumentSpace) -> Any:
        filters = filters_of(found)
        bits = whole(found, "/BitsPerComponent", "a picture", 8)
        if filters and filters[-1] in ("/CCITTFaxDecode", "/JBIG2Decode"):
            return self._by_palette(found, space)
        stored = decoded(found, space)
        spans = decoding(found, space, bits)
        top = float(np.iinfo(stored.dtype).max) if bits >= 8 else 2.0**bits - 1

        def grays(codes: NDArray[Any]) -> NDArray[np.uint8]:
            amounts = self._amounts(space, spans[:, 0] + codes / top * (spans[:, 1] - spans[:, 0]))
            return np.rint(255 * (1 - np.clip(amounts, 0, 1))).astype(np.uint8)

        channel = self._channel(space)
        if channel is None:
            known, back = distinct(stored)
            return packed_gray(self.pdf, grays(known)[back].reshape(stored.shape[:2]), found)
        # The plate is one of the picture's own channels, or none of them: a table says all.
        steps = np.zeros((int(top) + 1, space.channels), stored.dtype)
        steps[:, max(channel, 0)] = np.arange(int(top) + 1)
        table = grays(steps)
        codes = stored[..., channel] if channel >= 0 else np.zeros(stored.shape[:2], stored.dtype)
        return packed_gray(self.pdf, table[codes], found)

    def _channel(self, space: DocumentSpace) -> int | None:
        """The channel that alone decides on this plate, −1 where none does; None where all of them do."""
        if space.family == "Indexed":
            return None
        if space.kind == "CMYK":
            return _PROCESS.index(self._plate) if self._plate in _PROCESS else -1
        if space.kind == "spot" and "All" not in space.names:
            return space.names.index(self._plate) if self._plate in space.names else -1
        return None

    def _by_palette(self, found: Any, space: DocumentSpace) -> Any:
        low, high = decoding(found, space, 1)[0]
        amounts = self._amounts(space, np.array([[low], [high]]))
        made = Stream(self.pdf, bytes(found.read_raw_bytes()))
        for name, value in dict(found).items():
            if name not in ("/ColorSpace", "/Decode", "/Length"):
                made[name] = value
        made["/ColorSpace"] = Name.DeviceGray
        made["/Decode"] = pikepdf.Array([round(float(1 - each), 5) for each in amounts])
        return made

    def shading(self, found: Any, use: ColorUse, resources: Any) -> Any:
        """A shading as gray."""
        del resources
        made, _error = shadings.converted(
            self.pdf, found, use.space,
            lambda values: (1 - np.clip(self._amounts(use.space, values), 0, 1))[:, None],
            lambda gray: np.hstack([gray * 100, np.zeros((len(gray), 2))]), Name.DeviceGray,
        )  # fmt: skip
        return made


def coverage_picture(plates: Plates, limit_percent: float, corner: tuple[int, int] = (0, 0)) -> Pixels:
    """The ink on each spot, white for none to black for all inks full; hatched where it is more than the limit.

    `corner` is the pixel of the page that the plates begin at, so that the hatching of parts goes on.
    """
    total = plates.codes.sum(axis=2, dtype=np.int32) * np.float32(1 / 2.55)
    gray = np.rint(255 - np.clip(total / (100 * len(plates.names)), 0, 1) * 255).astype(np.uint8)
    picture = np.repeat(gray[..., None], 3, axis=2)
    over = total.astype(np.float32)
    hatch(picture, over, limit_percent + _DRAWN, 100.0, _HATCH_RAD, np.array(_HATCH_COLOR, np.uint8), *corner)
    return picture


def bands(plates: Plates) -> Iterator[tuple[str, NDArray[np.uint8]]]:
    """Each ink with its plane (h, w), 255 for solid."""
    for at, name in enumerate(plates.names):
        yield name, plates.codes[..., at]
