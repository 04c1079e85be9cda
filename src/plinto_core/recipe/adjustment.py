"""What is done to the artwork's numbers: curves on its channels, then lightness, chroma and hues."""

from dataclasses import dataclass

from plinto_core.errors import RecipeError
from plinto_core.recipe.curve import ToneCurve


@dataclass(frozen=True)
class HueMove:
    """Colors around a hue turned (degrees), lightened (L*) and strengthened (percent of their chroma)."""

    center_deg: float
    width_deg: float = 60.0
    shift_deg: float = 0.0
    lightness: float = 0.0
    chroma_percent: float = 0.0

    def __post_init__(self) -> None:
        fits = (
            0 <= self.center_deg <= 360
            and 10 <= self.width_deg <= 180
            and abs(self.shift_deg) <= 60
            and abs(self.lightness) <= 40
            and -100 <= self.chroma_percent <= 100
        )
        if not fits:
            raise RecipeError(
                "A hue move has a center of 0 to 360°, a width of 10 to 180°, a shift of ±60°, ±40 L* and ±100 % chroma."
            )


@dataclass(frozen=True)
class ChannelCurve:
    """A curve on one channel of the artwork."""

    channel: str
    curve: ToneCurve = ToneCurve()


@dataclass(frozen=True)
class Adjustment:
    """`master` acts on every channel, `channels` after it; `lightness` on L*, chroma and hues in L*C*h."""

    master: ToneCurve = ToneCurve()
    channels: tuple[ChannelCurve, ...] = ()
    lightness: ToneCurve = ToneCurve()
    chroma_percent: float = 0.0
    hues: tuple[HueMove, ...] = ()

    def __post_init__(self) -> None:
        if not -100 <= self.chroma_percent <= 100:
            raise RecipeError(f"Chroma by {self.chroma_percent:g} % is too much; choose −100 to 100 %.")
        if len(self.hues) > 12 or len({each.channel for each in self.channels}) < len(self.channels):
            raise RecipeError("An adjustment takes one curve a channel and at most 12 hue moves.")

    @property
    def moves_lab(self) -> bool:
        """Whether anything beyond the channel curves is set."""
        return bool(self.chroma_percent or not self.lightness.is_straight or any(map(_moves, self.hues)))

    @property
    def is_nothing(self) -> bool:
        """Whether it changes nothing."""
        curves = (self.master, *(each.curve for each in self.channels))
        return all(curve.is_straight for curve in curves) and not self.moves_lab


def _moves(move: HueMove) -> bool:
    return bool(move.shift_deg or move.lightness or move.chroma_percent)
