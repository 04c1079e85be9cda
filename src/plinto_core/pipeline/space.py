"""What color values mean: which channels, in which order, by which profile."""

from dataclasses import dataclass
from typing import Literal

from plinto_core.icc.profile import Profile
from plinto_core.inks.names import ink_letters

SpaceKind = Literal["gray", "rgb", "cmyk", "inks", "lab", "spot"]

_KINDS: dict[str, tuple[SpaceKind, tuple[str, ...]]] = {
    "GRAY": ("gray", ("gray",)), "RGB ": ("rgb", ("R", "G", "B")), "CMYK": ("cmyk", ("C", "M", "Y", "K")),
    "Lab ": ("lab", ("L*", "a*", "b*")),
}  # fmt: skip


@dataclass(frozen=True)
class Space:
    """Channels in their order; `profile` is the digest of the ICC profile that gives them a meaning, None for Lab.

    Device values and inks go from 0 to 1; Lab (D50, CIE 1976) has its own units.
    """

    kind: SpaceKind
    channels: tuple[str, ...]
    profile: str | None = None


LAB = Space("lab", ("L*", "a*", "b*"))


def space_of(profile: Profile) -> Space:
    """The space whose values a profile describes.

    >>> from plinto_core.icc.standard import rgb_profile
    >>> space_of(rgb_profile("sRGB")).channels
    ('R', 'G', 'B')
    """
    if profile.header.space not in _KINDS:
        return inks_space(ink_letters(profile.header.channels), profile.digest)
    kind, channels = _KINDS[profile.header.space]
    return Space(kind, channels, profile.digest)


def inks_space(letters: tuple[str, ...], profile: str | None = None) -> Space:
    """The space of these inks, 0…1 each."""
    return Space("cmyk" if letters == ("C", "M", "Y", "K") else "inks", letters, profile)
