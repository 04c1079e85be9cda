"""What a row does to colors, computed: from what a color means to what the destination is given."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plinto_core.chain.compiled import Chain, compile_recipe
from plinto_core.chain.library import Condition
from plinto_core.chain.link import Link, bake
from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.computed_once import computed_once
from plinto_core.errors import PolicyError
from plinto_core.icc import cmm
from plinto_core.icc.profile import Header, Profile, write
from plinto_core.icc.standard import RGB_SPACES, gray_as_rgb, gray_profile, rgb_profile
from plinto_core.icc.values import CurveLut, Description, ParametricCurve, Text, Xyz
from plinto_core.inks.drive import driven_by_rgb
from plinto_core.policy.policy import BlackOnly, CleanSolids, Convert
from plinto_core.recipe import AimStation, InkStation, Intent, Recipe
from plinto_core.recipe.black import BLACK_PRESETS, usual_black
from plinto_core.recipe.limits import InkLimits

Array = NDArray[np.float64]
Codes = NDArray[np.unsignedinteger[Any]]

#: Inks of an RGB solid, by which of R, G, B are full.
_SOLIDS = {
    (1, 1, 1): "", (0, 0, 0): "K", (1, 0, 0): "MY", (0, 1, 0): "CY", (0, 0, 1): "CM", (0, 1, 1): "C", (1, 0, 1): "M",
    (1, 1, 0): "Y",
}  # fmt: skip
#: L* between steps of a ramp that print alike, so that each lightness belongs to one of them.
_APART = 1e-9
_BLACK_STEPS, _GRID_POINTS = 1025, {3: 33, 4: 17}


@cache
def lab_as_rgb() -> Profile:
    """A profile whose three channels are L*, a* and b* scaled to 0…1 (ICC.1:2022, 6.3.4.2): Lab goes down the
    line as RGB."""
    straight = ParametricCurve(0, (1.0,))
    corner = np.stack(np.meshgrid(*[[0.0, 1.0]] * 3, indexing="ij"), axis=-1)
    return write(
        Profile(
            Header("mntr", "RGB ", "Lab "),
            {
                "desc": Description({"enUS": "Lab"}),
                "cprt": Text("Made by Plinto; free to use."),
                "wtpt": Xyz(np.array([[0.9642, 1.0, 0.8249]])),
                "A2B0": CurveLut(True, (straight,) * 3, grid=corner, a_curves=(straight,) * 3),
            },
        )
    )


def lab_to_scaled(lab: Array) -> Array:
    """Lab (..., 3) to the channels 0…1 of `lab_as_rgb`; what lies beyond its range is cut to it."""
    return np.asarray(np.clip((np.asarray(lab, np.float64) + np.array([0, 128, 128])) / [100, 255, 255], 0, 1))


@dataclass(frozen=True)
class Destination:
    """Where colors go: a printing condition with its total ink, or an RGB space. Exactly one of the two."""

    condition: Condition | None
    rgb: Profile | None = None
    limits: InkLimits | None = None

    @property
    def letters(self) -> tuple[str, ...]:
        """Channels, in their order."""
        return self.condition.model.inks if self.condition else ("R", "G", "B")

    @property
    def profile(self) -> Profile:
        """The profile that gives the written values their meaning."""
        found = self.condition.profile if self.condition else self.rgb
        assert found is not None
        return found

    @property
    def is_rgb(self) -> bool:
        """Whether the written values are R, G and B: of an RGB space, or of a printer driven by RGB."""
        return self.condition is None or driven_by_rgb(self.letters)

    def lab(self, values: Array) -> Array:
        """Written values (n, channels) 0…1 to media-relative Lab (n, 3)."""
        if self.condition:
            return self.condition.model.lab(1 - values if self.is_rgb else values)
        return cmm.to_lab(self.profile, values)

    @property
    def total_percent(self) -> float:
        """The most ink that one spot may take."""
        if self.limits:
            return self.limits.total_percent
        return 100.0 * len(self.letters)


def destination_of(into: str, condition: Condition | None, limit: float | None = None) -> Destination:
    """The destination that a policy's `into` names. Raises `PolicyError` where there is none."""
    if into != "condition":
        return Destination(None, rgb_profile(into))
    if condition is None:
        raise PolicyError("This policy converts into the condition of an output. Choose one.")
    most = 100.0 * len(condition.model.inks)
    return Destination(condition, None, InkLimits(min(limit or most, most)))


@dataclass(frozen=True)
class OneColor:
    """A color's written values (1, letters), the media-relative Lab (1, 3) that they print, and how far (ΔE00) that is from
    what was meant."""

    written: Array
    printed: Array
    off: float


class Conversion:
    """Values and pictures of one source into the destination; `kept` tells that they are written as they came."""

    def __init__(
        self, source: Profile, letters: tuple[str, ...], values: Callable[[Array], Array],
        codes: Callable[[Codes], Codes] | None, *, wanted: Callable[[Array], Array] | None = None, kept: bool = False,
        intent: str = "",
    ) -> None:  # fmt: skip
        self.source, self.letters, self.kept, self.intent = source, letters, kept, intent
        self._values, self._codes, self._wanted = values, codes, wanted
        self._one_by_one: dict[bytes, OneColor] = {}

    def wanted(self, device: Array) -> Array:
        """Media-relative Lab (n, 3) that device values (n, channels) ask for, white and black matched as the row says."""
        return self._wanted(device) if self._wanted else cmm.to_lab(self.source, device)

    def values(self, device: Array) -> Array:
        """Device values (n, channels of the source) 0…1 to written values (n, letters) 0…1."""
        return np.clip(self._values(np.asarray(device, np.float64)), 0, 1)

    def value(self, device: Array, ahead: Callable[[], Array | None], printed: Callable[[Array], Array]) -> OneColor:
        """What becomes of one device value (1, channels of the source); `printed` takes written values to Lab.

        Where it is not known yet, those `ahead` (n, channels) are worked out beside it, and known from then on: many
        cost little more than one.
        """
        known = self._one_by_one.get(device.tobytes())
        if known is None:
            more = ahead()
            every = device if more is None else np.vstack([device, more])
            written = self.values(every)
            labs = printed(written)
            off = delta_e_2000(self.wanted(every), labs)
            for at, one in enumerate(every):
                self._one_by_one[one.tobytes()] = OneColor(written[at : at + 1], labs[at : at + 1], float(off[at]))
            known = self._one_by_one[device.tobytes()]
        return known

    def codes(self, pixels: Codes) -> NDArray[np.uint8]:
        """Picture codes (..., channels) of 8 or 16 bit to codes (..., letters) of 8 bit."""
        if self._codes is not None:
            return self._codes(pixels).astype(np.uint8, copy=False)
        link = self._baked
        return link.inks_of(pixels, 8).astype(np.uint8, copy=False)

    @computed_once
    def _baked(self) -> Link:
        return baked(self.values, self.letters, self.source.digest, self.source.header.channels)


def baked(values: Callable[[Array], Array], letters: tuple[str, ...], name: str, channels: int) -> Link:
    """What takes device values (n, channels) to written values (n, letters), 0…1, as a table for pictures."""
    inks = len(letters)
    return bake(values, letters, np.ones(inks), float(inks), name, _GRID_POINTS[channels], channels)


class Conversions:
    """Every conversion of a policy into one destination, each made once."""

    def __init__(self, destination: Destination) -> None:
        self.destination = destination
        self._made: dict[Any, Conversion] = {}

    def of(self, source: Profile, does: Convert | BlackOnly | CleanSolids, intent: Intent) -> Conversion:
        """The conversion of RGB or CMYK values of `source`. Raises `PolicyError`, `RecipeError`, `IccError`."""
        key = source.digest, does, intent
        if key not in self._made:
            self._made[key] = self._make(source, does, intent)
        return self._made[key]

    def _make(self, source: Profile, does: Convert | BlackOnly | CleanSolids, intent: Intent) -> Conversion:
        if isinstance(does, CleanSolids):
            return self._solids(source, intent)
        if isinstance(does, BlackOnly):
            return self._black(source)
        if source.digest == self.destination.profile.digest:
            return Conversion(source, self.destination.letters, _same, _same, kept=True)
        if (
            source.digest == lab_as_rgb().digest
            and intent in ("perceptual", "saturation")
            and does.method == "rebuilt"
        ):
            # Lab has no gamut of its own that could be brought into another one.
            intent = "relative"
        if self.destination.condition is None:
            return self._into_rgb(source, does, intent)
        return self._into_inks(source, does, intent)

    def _into_rgb(self, source: Profile, does: Convert, intent: Intent) -> Conversion:
        target, bpc = self.destination.profile, does.bpc and intent != "absolute"
        return Conversion(
            source, ("R", "G", "B"), lambda device: cmm.convert(source, target, device, intent, bpc=bpc),
            lambda pixels: _in_rows(
                pixels, 3, lambda rows: cmm.convert_codes(source, target, rows, np.dtype(np.uint8), intent, bpc)
            ),
            intent=intent,
        )  # fmt: skip

    def _chain(self, source: Profile, does: Convert, intent: Intent) -> Chain:
        condition = self.destination.condition
        assert condition is not None and self.destination.limits is not None
        letters = condition.model.inks
        limits = self.destination.limits if does.limit is None else InkLimits(does.limit)
        limits = replace(limits, total_percent=min(limits.total_percent, self.destination.limits.total_percent))
        if does.black not in BLACK_PRESETS:
            raise PolicyError(f"'{does.black}' is no black generation; choose among {', '.join(BLACK_PRESETS)}.")
        black = BLACK_PRESETS[does.black] if "K" in letters and len(letters) > 1 else usual_black(letters)
        keep: tuple[str, ...] = ()
        if source.header.space == "CMYK" and does.method == "rebuilt" and "K" in letters:
            both = tuple(letter for letter in "CMYK" if letter in letters)
            keep = both if "pure inks" in does.preserve else ("K",) if "pure black" in does.preserve else ()
        ink = InkStation(does.method, limits, black, (), keep)
        return compile_recipe(Recipe(aim=AimStation(intent, does.bpc), ink=ink), condition, source)

    def _into_inks(self, source: Profile, does: Convert, intent: Intent) -> Conversion:
        chain = self._chain(source, does, intent)
        rgb = self.destination.is_rgb

        def codes(pixels: Codes, depth: int) -> Codes:
            found = chain.link_for(pixels).inks_of(pixels, depth)
            return np.invert(found) if rgb else found

        def values(device: Array) -> Array:
            # Through the same link as pictures, so that a flat color stands beside the same color in a picture unseen.
            return codes(np.rint(np.clip(device, 0, 1) * 65535).astype(np.uint16), 16) / 65535.0

        letters = self.destination.letters
        return Conversion(
            source, letters, values, lambda pixels: codes(pixels, 8), wanted=chain.wanted_lab, intent=intent
        )

    def _black(self, source: Profile) -> Conversion:
        destination = self.destination
        if destination.condition is None or destination.is_rgb:
            neutral = self.of(lab_as_rgb(), Convert(), "relative")

            def gray(device: Array) -> Array:
                lightness = cmm.to_lab(source, device)[:, :1]
                return neutral.values(lab_to_scaled(np.hstack([lightness, np.zeros((len(lightness), 2))])))

            return Conversion(source, destination.letters, gray, None, intent="relative")
        letters = destination.letters
        if "K" not in letters:
            raise PolicyError(
                f"'{destination.profile.name}' has no black ink: a row cannot put anything in black only."
            )
        ramp = np.zeros((_BLACK_STEPS, len(letters)))
        ramp[:, letters.index("K")] = np.linspace(0, 1, _BLACK_STEPS)
        # Where the ramp stands still or turns around near its solid, the solid is taken: it is what stays pure.
        printed = np.maximum.accumulate(destination.lab(ramp)[::-1, 0]) + np.arange(_BLACK_STEPS) * _APART
        wanted = compile_recipe(Recipe(aim=AimStation("relative", False)), destination.condition, source)
        # The source's black: of inks that of its black ink, so that a solid stays one.
        solid = [[0.0, 0.0, 0.0, 1.0]] if source.header.space == "CMYK" else [[0.0] * source.header.channels]
        darkest = float(wanted.wanted_lab(np.array(solid))[0, 0])

        def aimed(device: Array) -> Array:
            lab = wanted.wanted_lab(device)
            lightness = np.clip((lab[:, 0] - darkest) / max(100 - darkest, 1e-6), 0, 1)
            # White on bare substrate and black on solid black, between them by the L* that is printed.
            lab[:, 0] = printed[0] + lightness * (100 - printed[0])
            return lab

        def black(device: Array) -> Array:
            out = np.zeros((len(device), len(letters)))
            out[:, letters.index("K")] = np.interp(aimed(device)[:, 0], printed, np.linspace(1, 0, _BLACK_STEPS))
            return out

        return Conversion(source, letters, black, None, wanted=aimed, intent="relative")

    def _solids(self, source: Profile, intent: Intent) -> Conversion:
        letters = self.destination.letters
        otherwise = self.of(source, Convert(), intent)
        if self.destination.is_rgb or source.header.space != "RGB ":
            return otherwise
        missing = sorted({each for each in "CMYK" if each not in letters})
        if missing:
            raise PolicyError(f"'{self.destination.profile.name}' has no {', '.join(missing)} for clean solids.")
        if self.destination.total_percent < 200:
            raise PolicyError(
                f"Two full inks are more than the {self.destination.total_percent:g} % of this destination."
            )

        def solids(device: Array) -> Array:
            out = otherwise.values(device)
            for corner, inks in _SOLIDS.items():
                rows = np.abs(device - corner).max(axis=1) <= 0.5 / 255
                out[rows] = [float(letter in inks) for letter in letters]
            return out

        return Conversion(source, letters, solids, None, wanted=otherwise.wanted, intent=intent)


def _same(values: Any) -> Any:
    if values.dtype == np.uint16:
        return np.rint(values / 257.0).astype(np.uint8)
    return values


def _in_rows(pixels: Codes, channels: int, convert: Callable[[Codes], Codes]) -> Codes:
    flat = np.ascontiguousarray(pixels).reshape(-1, pixels.shape[-1])
    return convert(flat).reshape(*pixels.shape[:-1], channels)


def source_named(name: str, destination: Destination, profiles: dict[str, Profile]) -> Profile | None:
    """What an assumption of a policy names (see `Policy`), as a profile; None for nothing. Raises
    `PolicyError`."""
    if name in ("", "gray"):
        return gray_as_rgb(gray_profile()) if name else None
    if name == "destination":
        return destination.profile
    if name in profiles:
        return profiles[name]
    if name in RGB_SPACES:
        return rgb_profile(name)
    raise PolicyError(
        f"The policy assumes '{name[:40]}', which is no RGB space, and no profile with this digest is here. "
        "Import the policy with its profiles, or choose another."
    )
