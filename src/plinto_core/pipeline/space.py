"""What color values mean: which channels, in which order, by which profile."""

from dataclasses import dataclass
from typing import Literal

from plinto_core.icc.profile import CHANNELS, Profile
from plinto_core.icc.values import Colorants, TagValue
from plinto_core.inks.names import letters_of

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
    """The space whose values a profile describes; of a device link, those that go in.

    >>> from plinto_core.icc.standard import rgb_profile
    >>> space_of(rgb_profile("sRGB")).channels
    ('R', 'G', 'B')
    """
    return _space(profile.header.space, profile.tags.get("clrt"), profile.digest)


def space_behind(link: Profile) -> Space:
    """The space of what comes out of a device link."""
    return _space(link.header.pcs, link.tags.get("clot"), None)


def _space(signature: str, named: TagValue | None, digest: str | None) -> Space:
    if signature not in _KINDS:
        return inks_space(told_inks(signature, named)[0], digest)
    kind, channels = _KINDS[signature]
    return Space(kind, channels, digest)


def told_inks(signature: str, named: TagValue | None) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Letters and names of the inks of a data color space, "CMYK" or "6CLR", by its colorant table (ICC.1:2022, 10.5);
    names are empty where nobody says them. Unnamed inks are numbered, unless there are more than four or the space names
    them: then they begin with the process inks.
    """
    count = CHANNELS[signature]
    names = ("",) * count
    if isinstance(named, Colorants) and len(named.names) == count:
        names = tuple(name.strip() for name in named.names)
    if not any(names) and signature.endswith("CLR") and count <= 4:
        return tuple(str(at) for at in range(1, count + 1)), names
    return letters_of(names), names


def inks_space(letters: tuple[str, ...], profile: str | None = None) -> Space:
    """The space of these inks, 0…1 each."""
    return Space("cmyk" if letters == ("C", "M", "Y", "K") else "inks", letters, profile)
