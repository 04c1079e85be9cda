"""Color spaces of a document, resolved from names and arrays (ISO 32000-2, 8.6)."""

from dataclasses import dataclass
from typing import Any, Literal

import pikepdf

from plinto_core.errors import DocumentError, IccError
from plinto_core.icc.profile import parse

Kind = Literal["gray", "RGB", "CMYK", "Lab", "spot", "pattern"]

_DEVICE: dict[str, tuple[Kind, int]] = {"DeviceGray": ("gray", 1), "DeviceRGB": ("RGB", 3), "DeviceCMYK": ("CMYK", 4)}
#: Short names, which only inline images may use (ISO 32000-2, table 91).
_SHORT = {"G": "DeviceGray", "RGB": "DeviceRGB", "CMYK": "DeviceCMYK", "I": "Indexed"}
_DEFAULTS = {"DeviceGray": "DefaultGray", "DeviceRGB": "DefaultRGB", "DeviceCMYK": "DefaultCMYK"}
_BY_CHANNELS: dict[int, tuple[Kind, str]] = {1: ("gray", "GRAY"), 3: ("RGB", "RGB "), 4: ("CMYK", "CMYK")}
_DEEPEST = 8


@dataclass(frozen=True)
class DocumentSpace:
    """What color values of a document mean.

    `family` is its name in the document; `profile` the name of its ICC profile, empty without one; `names` are the inks of
    Separation and DeviceN, `under` the space that an Indexed space, a tint or a pattern comes down to. `said` tells what is
    wrong with it.
    """

    family: str
    kind: Kind
    channels: int
    profile: str = ""
    names: tuple[str, ...] = ()
    under: "DocumentSpace | None" = None
    said: str = ""

    @property
    def tagged(self) -> bool:
        """Whether it says by itself what color it means."""
        return bool(self.profile) or self.family in ("CalGray", "CalRGB", "Lab")

    @property
    def label(self) -> str:
        """A few words for lists."""
        if self.family == "Indexed" and self.under:
            return f"Indexed, {self.under.label}"
        if self.names:
            return f"{self.family} {', '.join(self.names)}"
        return f"{self.family}, {self.profile}" if self.profile else self.family


PATTERN = DocumentSpace("Pattern", "pattern", 0)
GRAY, RGB, CMYK = (DocumentSpace(name, *_DEVICE[name]) for name in _DEVICE)


def resolve(  # noqa: PLR0911 - one return a family
    found: Any, resources: Any, *, inline: bool = False, depth: int = 0, default: bool = True
) -> DocumentSpace:
    """The space that a name or an array means with these resources. Raises `DocumentError`."""
    if depth > _DEEPEST:
        raise DocumentError("a color space is made of itself")

    def below(part: Any) -> DocumentSpace:
        return resolve(part, resources, inline=inline, depth=depth + 1)

    if isinstance(found, pikepdf.Name):
        return _named(str(found)[1:], resources, inline, depth, default)
    if not isinstance(found, pikepdf.Array) or not len(found):
        raise DocumentError(f"a color space is neither a name nor an array ({_short(found)})")
    family = str(found[0])[1:]
    family = _SHORT.get(family, family) if inline else family
    if family in _DEVICE or (family == "Pattern" and len(found) == 1):
        return _named(family, resources, inline, depth, default)
    if len(found) < 2:
        raise DocumentError(f"the color space {family} says nothing of itself")
    match family:
        case "ICCBased":
            return _icc(found[1], resources, depth)
        case "CalGray" | "CalRGB" | "Lab":
            kinds: dict[str, tuple[Kind, int]] = {"CalGray": ("gray", 1), "CalRGB": ("RGB", 3), "Lab": ("Lab", 3)}
            return DocumentSpace(family, *kinds[family])
        case "Indexed":
            base = below(found[1])
            return DocumentSpace("Indexed", base.kind, 1, base.profile, base.names, base)
        case "Separation" if len(found) >= 4:
            return DocumentSpace("Separation", "spot", 1, names=(_text(found[1]),), under=below(found[2]))
        case "DeviceN" if len(found) >= 4:
            names = tuple(_text(name) for name in found[1])
            return DocumentSpace("DeviceN", "spot", len(names), names=names, under=below(found[2]))
        case "Pattern":
            return DocumentSpace("Pattern", "pattern", 0, under=below(found[1]))
    raise DocumentError(f"the color space {family} is not one of a PDF")


def _named(name: str, resources: Any, inline: bool, depth: int, default: bool) -> DocumentSpace:
    name = _SHORT.get(name, name) if inline else name
    own = resources.get("/ColorSpace", {}) if resources is not None else {}
    if name in _DEVICE:
        instead = own.get(f"/{_DEFAULTS[name]}") if default else None
        if instead is not None:
            # What stands for a device space is no device space again (ISO 32000-2, 8.6.5.6).
            meant = resolve(instead, resources, depth=depth + 1, default=False)
            if meant.channels == _DEVICE[name][1]:
                return meant
        return DocumentSpace(name, *_DEVICE[name])
    if name == "Pattern":
        return PATTERN
    if f"/{name}" not in own:
        raise DocumentError(f"the color space '{name}' is nowhere defined")
    return resolve(own[f"/{name}"], resources, depth=depth + 1)


def _icc(stream: Any, resources: Any, depth: int) -> DocumentSpace:
    channels = int(stream.get("/N", 0)) if isinstance(stream, pikepdf.Stream) else 0
    if channels not in _BY_CHANNELS:
        raise DocumentError(f"a profile inside has {channels} channels, and 1, 3 or 4 are meant")
    kind, signature = _BY_CHANNELS[channels]
    try:
        profile = parse(bytes(stream.read_bytes()))
        if profile.header.space == "Lab " and channels == 3:
            return DocumentSpace("ICCBased", "Lab", 3, profile.name)
        if profile.header.space == signature:
            return DocumentSpace("ICCBased", kind, channels, profile.name)
        said = f"its profile is for {profile.header.space.strip()}, and it has {channels} channels"
    except (IccError, pikepdf.PdfError) as error:
        said = f"its profile cannot be used ({error})"
    # Then its alternate counts, or the device space of as many channels (ISO 32000-2, 8.6.5.5).
    alternate = stream.get("/Alternate")
    under = resolve(alternate, resources, depth=depth + 1) if alternate is not None else DocumentSpace(
        f"Device{'Gray' if kind == 'gray' else kind}", kind, channels
    )  # fmt: skip
    return DocumentSpace("ICCBased", under.kind, channels, under=under, said=said)


def _text(name: Any) -> str:
    return str(name)[1:]


def _short(found: Any) -> str:
    return repr(found)[:60]
