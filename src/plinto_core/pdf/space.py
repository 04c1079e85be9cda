"""Color spaces of a document, resolved from names and arrays (ISO 32000-2, 8.6)."""

from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Literal

import numpy as np
import pikepdf

from plinto_core.errors import DocumentError, IccError
from plinto_core.icc.profile import Profile, parse
from plinto_core.pdf.calibrated import cal_profile
from plinto_core.pdf.function import Array, Function, function_of
from plinto_core.pdf.reading import cause, numbers

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
    #: Tells spaces apart that are described alike: a profile's digest, a tint transform's place in the file.
    key: str = ""
    #: The profile that gives its values a meaning, and of tints the way to `under`; palette (n, channels of `under`) 0…1.
    source: Profile | None = field(default=None, compare=False, repr=False)
    tint: Function | None = field(default=None, compare=False, repr=False)
    palette: Array | None = field(default=None, compare=False, repr=False)
    #: As the document has it, for what is left as it came.
    object: Any = field(default=None, compare=False, repr=False)

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        return hash((self.family, self.channels, self.names, self.key))

    def looked_up(self, values: Array) -> "tuple[DocumentSpace, Array]":
        """What places (n, 1) in a palette stand for; of any other space itself and its values (n, channels)."""
        if self.family != "Indexed" or self.palette is None or self.under is None:
            return self, values
        return self.under, self.palette[np.clip(np.rint(values[:, 0]).astype(int), 0, len(self.palette) - 1)]

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
GRAY, RGB, CMYK = (DocumentSpace(name, *_DEVICE[name], object=pikepdf.Name(f"/{name}")) for name in _DEVICE)
_PLAIN = {space.family: space for space in (GRAY, RGB, CMYK)}


class Spaces:
    """The spaces of one document: a profile or a tint transform is read once, however many pages name it."""

    def __init__(self) -> None:
        self._profiles: dict[tuple[int, int], DocumentSpace] = {}

    def resolve(
        self, found: Any, resources: Any, *, inline: bool = False, depth: int = 0, default: bool = True
    ) -> DocumentSpace:
        """The space that a name or an array means with these resources. Raises `DocumentError`."""
        if depth > _DEEPEST:
            raise DocumentError("a color space is made of itself")
        if isinstance(found, pikepdf.Name):
            return self._named(str(found)[1:], resources, inline, depth, default)
        if not isinstance(found, pikepdf.Array) or not len(found) or not isinstance(found[0], pikepdf.Name):
            raise DocumentError(f"a color space is neither a name nor an array ({_short(found)})")
        family = str(found[0])[1:]
        family = _SHORT.get(family, family) if inline else family
        if family in _DEVICE or (family == "Pattern" and len(found) == 1):
            return self._named(family, resources, inline, depth, default)
        if len(found) < 2:
            raise DocumentError(f"the color space {family} says nothing of itself")
        made = self._made(family, found, resources, inline, depth)
        if made is None:
            raise DocumentError(f"the color space {family} is not one of a PDF")
        return made

    def _made(self, family: str, found: Any, resources: Any, inline: bool, depth: int) -> DocumentSpace | None:
        def below(part: Any) -> DocumentSpace:
            return self.resolve(part, resources, inline=inline, depth=depth + 1)

        match family:
            case "ICCBased":
                return self._icc(found, resources, depth)
            case "CalGray" | "CalRGB" | "Lab":
                kinds: dict[str, tuple[Kind, int]] = {"CalGray": ("gray", 1), "CalRGB": ("RGB", 3), "Lab": ("Lab", 3)}
                source = None if family == "Lab" else cal_profile(family, found[1])
                key = source.digest if source else ""
                return DocumentSpace(family, *kinds[family], key=key, source=source, object=found)
            case "Indexed" if len(found) >= 4:
                base = below(found[1])
                if base.family in ("Indexed", "Pattern"):
                    raise DocumentError(f"a palette is made of colors in {base.family}")
                palette = _palette(found, base)
                key = f"{base.key} {hash(palette.tobytes())}"
                return DocumentSpace(
                    "Indexed", base.kind, 1, base.profile, base.names, base, key=key, palette=palette, object=found
                )
            case "Separation" | "DeviceN" if len(found) >= 4:
                one = family == "Separation"
                names = (_text(found[1]),) if one else tuple(_text(name) for name in found[1])
                under = below(found[2])
                tint = function_of(found[3], len(names))
                place = found[3].objgen
                key = f"{place}" if place != (0, 0) else f"{hash(bytes(found[3].unparse(resolved=True)))}"
                return DocumentSpace(
                    family, "spot", len(names), names=names, under=under, key=key, tint=tint, object=found
                )
            case "Pattern":
                return DocumentSpace("Pattern", "pattern", 0, under=below(found[1]), object=found)
        return None

    def _named(self, name: str, resources: Any, inline: bool, depth: int, default: bool) -> DocumentSpace:
        name = _SHORT.get(name, name) if inline else name
        own = resources.get("/ColorSpace", {}) if resources is not None else {}
        if name in _DEVICE:
            instead = own.get(f"/{_DEFAULTS[name]}") if default else None
            if instead is not None:
                # What stands for a device space is no device space again (ISO 32000-2, 8.6.5.6).
                meant = self.resolve(instead, resources, depth=depth + 1, default=False)
                if meant.channels == _DEVICE[name][1]:
                    return meant
            return _PLAIN[name]
        if name == "Pattern":
            return PATTERN
        if f"/{name}" not in own:
            raise DocumentError(f"the color space '{name}' is nowhere defined")
        return self.resolve(own[f"/{name}"], resources, depth=depth + 1)

    def _icc(self, found: Any, resources: Any, depth: int) -> DocumentSpace:
        stream = found[1]
        place = stream.objgen if isinstance(stream, pikepdf.Stream) else (0, 0)
        if place not in self._profiles or place == (0, 0):
            self._profiles[place] = self._read_icc(found, stream, resources, depth)
        return self._profiles[place]

    def _read_icc(self, found: Any, stream: Any, resources: Any, depth: int) -> DocumentSpace:
        channels = int(stream.get("/N", 0)) if isinstance(stream, pikepdf.Stream) else 0
        if channels not in _BY_CHANNELS:
            raise DocumentError(f"a profile inside has {channels} channels, and 1, 3 or 4 are meant")
        kind, signature = _BY_CHANNELS[channels]
        try:
            profile = parse(bytes(stream.read_bytes()))
            wanted: Kind = "Lab" if profile.header.space == "Lab " and channels == 3 else kind
            if profile.header.space in (signature, "Lab ") and profile.header.channels == channels:
                return DocumentSpace(
                    "ICCBased", wanted, channels, profile.name, key=profile.digest, source=profile, object=found
                )
            said = f"its profile is for {profile.header.space.strip()}, and it has {channels} channels"
        except (IccError, pikepdf.PdfError) as error:
            said = f"its profile cannot be used ({cause(error)})"
        # Then its alternate counts, or the device space of as many channels (ISO 32000-2, 8.6.5.5).
        alternate = stream.get("/Alternate")
        under = DocumentSpace(f"Device{'Gray' if kind == 'gray' else kind}", kind, channels)
        if alternate is not None:
            given = self.resolve(alternate, resources, depth=depth + 1)
            if given.channels == channels:
                under = given
            else:
                said += f"; its alternate has {given.channels} channels and cannot stand for it"
        return DocumentSpace("ICCBased", under.kind, channels, under=under, said=said, object=found)


def _palette(found: Any, base: DocumentSpace) -> Array:
    """Colors (n, channels) of an Indexed space, in the base's own units; what the table lacks is zero (8.6.6.3)."""
    last = int(found[2])
    if not 0 <= last <= 255:
        raise DocumentError(f"a palette goes up to {last}, and 255 is the most")
    raw = found[3].read_bytes() if isinstance(found[3], pikepdf.Stream) else bytes(found[3])
    need = (last + 1) * base.channels
    codes = np.frombuffer(raw[:need].ljust(need, b"\0"), np.uint8).reshape(-1, base.channels) / 255.0
    spans = component_spans(base)
    return spans[:, 0] + codes * (spans[:, 1] - spans[:, 0])


def component_spans(space: DocumentSpace) -> Array:
    """Least and largest value (channels, 2) of a space's components: what a picture's codes go from and to (table 88)."""
    if space.kind == "Lab" and space.family == "Lab":
        given = space.object[1].get("/Range") if space.object is not None else None
        sides = np.array([-100.0, 100, -100, 100]) if given is None else numbers(given, "the range of Lab")
        return np.vstack([[0.0, 100.0], sides.reshape(2, 2)])
    if space.kind == "Lab":
        return np.array([[0.0, 100.0], [-128.0, 127.0], [-128.0, 127.0]])
    return np.tile([0.0, 1.0], (space.channels, 1))


def _text(name: Any) -> str:
    return str(name)[1:]


def _short(found: Any) -> str:
    return repr(found)[:60]
