"""Kinds of color that a row can catch."""

from dataclasses import dataclass
from typing import Literal, get_args

from plinto_core.errors import PolicyError

SpaceKind = Literal["gray", "RGB", "CMYK", "Lab", "spot"]
ObjectKind = Literal["text", "line art", "image", "shading"]
ColorKind = Literal["any", "pure black", "pure ink", "equal RGB", "near neutral", "solids"]

#: Half a code of 8 bit: values nearer than this are the same.
_SAME = 0.5 / 255
#: C* below which a color counts as near neutral.
NEAR_NEUTRAL = 5.0


@dataclass(frozen=True)
class Found:
    """One color as it was found: `values` in its own channels (0…1, Lab in its units), none for pictures and shadings.

    `names` are the inks of a spot color, `lab` (media-relative) its meaning where one is known, `ink_percent` the sum of
    its inks where it has any, `ppi` a picture's resolution as placed.
    """

    space: SpaceKind
    object: ObjectKind
    tagged: bool
    values: tuple[float, ...] = ()
    names: tuple[str, ...] = ()
    overprint: bool = False
    lab: tuple[float, float, float] | None = None
    ink_percent: float | None = None
    ppi: float | None = None

    def is_a(self, color: ColorKind) -> bool:  # noqa: PLR0911 - one return a kind
        """Whether the values are of this kind; a picture or shading is only of kind 'any'."""
        if color == "any":
            return True
        if not self.values:
            return False
        if color == "pure black":
            return self._is_pure_black()
        if color == "pure ink":
            return self.space == "CMYK" and sum(value > _SAME for value in self.values) == 1
        if color == "equal RGB":
            return self.space == "RGB" and max(self.values) - min(self.values) <= _SAME
        if color == "near neutral":
            return self.lab is not None and (self.lab[1] ** 2 + self.lab[2] ** 2) ** 0.5 <= NEAR_NEUTRAL
        return self.space == "RGB" and all(min(value, 1 - value) <= _SAME for value in self.values)

    def _is_pure_black(self) -> bool:
        """Only black ink, or the darkest that gray and RGB can say."""
        if self.space in ("gray", "RGB"):
            return max(self.values) <= _SAME
        if self.space == "CMYK":
            return max(self.values[:3]) <= _SAME < self.values[3]
        return self.space == "spot" and self.names == ("Black",)


@dataclass(frozen=True)
class Catches:
    """What a row catches: everything that each given part allows; a part that is left out allows all.

    `ink_over` is in percent of total ink, `ppi_under` and `ppi_over` in pixels an inch. Raises `PolicyError`.
    """

    spaces: tuple[SpaceKind, ...] = ()
    objects: tuple[ObjectKind, ...] = ()
    tagged: bool | None = None
    color: ColorKind = "any"
    spots: tuple[str, ...] = ()
    overprint: bool | None = None
    ink_over: float | None = None
    ppi_under: float | None = None
    ppi_over: float | None = None

    def __post_init__(self) -> None:
        for name, given, known in (
            ("kind of space", self.spaces, get_args(SpaceKind)),
            ("kind of object", self.objects, get_args(ObjectKind)),
            ("kind of color", (self.color,), get_args(ColorKind)),
        ):
            unknown = [each for each in given if each not in known]
            if unknown:
                raise PolicyError(f"'{unknown[0]}' is no {name}; choose among {', '.join(known)}.")
        for name, bound in (("ink", self.ink_over), ("ppi", self.ppi_under), ("ppi", self.ppi_over)):
            if bound is not None and not 0 <= bound <= 100_000:
                raise PolicyError(f"A bound of {bound:g} for {name} is out of any range.")

    @property
    def everything(self) -> bool:
        """Whether nothing gets past."""
        return self == Catches()

    def has(self, found: Found) -> bool:
        """Whether this color is caught."""
        return (
            (not self.spaces or found.space in self.spaces)
            and (not self.objects or found.object in self.objects)
            and (self.tagged is None or found.tagged == self.tagged)
            and (not self.spots or any(name in self.spots for name in found.names))
            and (self.overprint is None or found.overprint == self.overprint)
            and (self.ink_over is None or (found.ink_percent is not None and found.ink_percent > self.ink_over))
            and (self.ppi_under is None or (found.ppi is not None and found.ppi < self.ppi_under))
            and (self.ppi_over is None or (found.ppi is not None and found.ppi > self.ppi_over))
            and found.is_a(self.color)
        )
