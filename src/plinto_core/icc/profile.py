"""An ICC profile as header and tags (ICC.1:2022, clause 7), read from and written to bytes."""

import hashlib
import itertools
import struct
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime

from plinto_core.computed_once import computed_once
from plinto_core.errors import IccError
from plinto_core.icc._decode import decode
from plinto_core.icc._encode import encode, pad
from plinto_core.icc.values import Description, TagValue, Text, Xyz

#: Data color space signature → number of channels (ICC.1:2022, table 19).
CHANNELS = {"GRAY": 1, "RGB ": 3, "CMY ": 3, "Lab ": 3, "XYZ ": 3, "CMYK": 4} | {
    f"{count:X}CLR": count for count in range(2, 16)
}
CLASSES = {
    "scnr": "input",
    "mntr": "display",
    "prtr": "output",
    "link": "device link",
    "spac": "color space",
    "abst": "abstract",
    "nmcl": "named color",
}
INTENTS = ("perceptual", "relative", "saturation", "absolute")

_HEADER_BYTES = 128
_D50_FIXED = (0xF6D6, 0x10000, 0xD32D)
#: Profiles carry a date; a fixed one keeps what is written reproducible unless the caller names another.
FIXED_DATE = datetime(2026, 1, 1, tzinfo=UTC)


@dataclass(frozen=True)
class Header:
    """The 128 bytes at the front; signatures as four-letter texts, PCS illuminant always D50."""

    profile_class: str
    space: str
    pcs: str
    version: tuple[int, int] = (4, 4)
    created: datetime = FIXED_DATE
    cmm: str = ""
    platform: str = ""
    flags: int = 0
    manufacturer: str = ""
    model: str = ""
    attributes: int = 0
    intent: int = 0
    creator: str = "PLNT"

    @property
    def channels(self) -> int:
        """Number of device channels."""
        return CHANNELS[self.space]


@dataclass(frozen=True)
class Profile:
    """Header and tags; `raw` is what it was parsed from, and what LittleCMS is handed."""

    header: Header
    tags: dict[str, TagValue] = field(default_factory=dict)
    raw: bytes = b""

    @property
    def name(self) -> str:
        """The description, or 'unnamed'."""
        value = self.tags.get("desc")
        return value.text if isinstance(value, Description) and value.text else "unnamed"

    @computed_once
    def digest(self) -> str:
        """SHA-256 of the bytes, hexadecimal."""
        return hashlib.sha256(self.raw).hexdigest()

    def white(self) -> Xyz | None:
        """The media white point tag."""
        value = self.tags.get("wtpt")
        return value if isinstance(value, Xyz) and len(value.values) else None


def parse(data: bytes) -> Profile:
    """Read a profile of version 2 or 4. Raises `IccError` naming tag and offset."""
    if len(data) < _HEADER_BYTES + 4:
        raise IccError(f"{len(data)} bytes are too few for a header and a tag table", offset=len(data))
    if data[36:40] != b"acsp":
        raise IccError("the mark 'acsp' of a profile is missing", offset=36)
    size = int.from_bytes(data[:4], "big")
    if not _HEADER_BYTES + 4 <= size <= len(data):
        raise IccError(f"it announces {size} bytes and has {len(data)}", offset=0)
    data = data[:size]
    header = _parse_header(data)
    return Profile(header, _parse_tags(data), data)


def _signature(data: bytes, at: int) -> str:
    return data[at : at + 4].decode("latin-1").rstrip("\0")


def _parse_header(data: bytes) -> Header:
    space, pcs, profile_class = (data[at : at + 4].decode("latin-1") for at in (16, 20, 12))
    version = (data[8], data[9] >> 4)
    if profile_class not in CLASSES:
        raise IccError(f"the class '{profile_class}' is not defined", offset=12)
    if space not in CHANNELS:
        raise IccError(f"the color space '{space}' is not one Plinto reads", offset=16)
    if pcs not in ("Lab ", "XYZ ") and profile_class != "link":
        raise IccError(f"'{pcs}' cannot be a connection space", offset=20)
    if version[0] not in (2, 4):
        raise IccError(f"version {version[0]} is neither 2 nor 4", offset=8)
    try:
        year, month, day, hour, minute, second = struct.unpack(">6H", data[24:36])
        created = datetime(year, month, day, hour, minute, second, tzinfo=UTC)
    except ValueError:
        # Plenty of profiles in use carry a date of zeros; it says nothing about their color.
        created = FIXED_DATE
    return Header(
        profile_class=profile_class,
        space=space,
        pcs=pcs,
        version=version,
        created=created,
        cmm=_signature(data, 4),
        platform=_signature(data, 40),
        flags=int.from_bytes(data[44:48], "big"),
        manufacturer=_signature(data, 48),
        model=_signature(data, 52),
        attributes=int.from_bytes(data[56:64], "big"),
        intent=int.from_bytes(data[64:68], "big"),
        creator=_signature(data, 80),
    )


def _parse_tags(data: bytes) -> dict[str, TagValue]:
    count = int.from_bytes(data[128:132], "big")
    table_end = 132 + 12 * count
    if table_end > len(data):
        raise IccError(f"a table of {count} tags does not fit into {len(data)} bytes", offset=128)
    places: dict[str, tuple[int, int]] = {}
    for at in range(132, table_end, 12):
        tag = data[at : at + 4].decode("latin-1")
        offset, length = struct.unpack(">II", data[at + 4 : at + 12])
        if offset < table_end or offset + length > len(data) or length < 8:
            raise IccError(f"{length} bytes at {offset} lie outside the profile", tag=tag, offset=at)
        if tag in places:
            raise IccError("it is listed twice", tag=tag, offset=at)
        places[tag] = (offset, length)
    _refuse_overlaps(places)
    # Tags may share their data; shared data is decoded once.
    decoded: dict[tuple[int, int], TagValue] = {}
    for tag, (offset, length) in places.items():
        if (offset, length) not in decoded:
            decoded[offset, length] = decode(data[offset : offset + length], tag, offset)
    return {tag: decoded[place] for tag, place in places.items()}


def _refuse_overlaps(places: dict[str, tuple[int, int]]) -> None:
    in_order = sorted((offset, length, tag) for tag, (offset, length) in places.items())
    for (offset, length, tag), (following, other_length, other) in itertools.pairwise(in_order):
        if following < offset + length and (following, other_length) != (offset, length):
            raise IccError(f"it overlaps tag '{tag}'", tag=other, offset=following)


def write(profile: Profile) -> Profile:
    """The profile with `raw` filled in: tags aligned to four bytes, equal data shared, version 4 ID set."""
    header = profile.header
    begin = 132 + 12 * len(profile.tags)
    table, body = b"", b""
    shared: dict[bytes, tuple[int, int]] = {}
    for tag, value in profile.tags.items():
        data = encode(_in_version(tag, value, header.version[0]), header.version[0])
        if data not in shared:
            shared[data] = (begin + len(body), len(data))
            body += pad(data)
        table += tag.encode("latin-1") + struct.pack(">II", *shared[data])
    size = begin + len(body)
    raw = _header_bytes(header, size) + struct.pack(">I", len(profile.tags)) + table + body
    if header.version[0] >= 4:
        raw = raw[:84] + _profile_id(raw) + raw[100:]
    return replace(profile, raw=raw)


def _in_version(tag: str, value: TagValue, major: int) -> TagValue:
    """Copyright is plain text up to version 3 and has languages from version 4 on (ICC.1:2001-04, 6.4.11)."""
    if tag == "cprt" and major < 4 and isinstance(value, Description):
        return Text(value.text)
    return value


def _header_bytes(header: Header, size: int) -> bytes:
    def four(text: str) -> bytes:
        return text.encode("latin-1")[:4].ljust(4, b"\0")

    created = header.created
    date = (created.year, created.month, created.day, created.hour, created.minute, created.second)
    data = struct.pack(">I4s4B", size, four(header.cmm), header.version[0], header.version[1] << 4, 0, 0)
    data += four(header.profile_class) + four(header.space) + four(header.pcs) + struct.pack(">6H", *date)
    data += b"acsp" + four(header.platform) + struct.pack(">I", header.flags)
    data += four(header.manufacturer) + four(header.model)
    data += struct.pack(">QI3I", header.attributes, header.intent, *_D50_FIXED) + four(header.creator)
    return data.ljust(_HEADER_BYTES, b"\0")


def _profile_id(raw: bytes) -> bytes:
    """MD5 with flags, intent and ID taken as zero (ICC.1:2022, 7.2.18)."""
    zeroed = bytearray(raw)
    zeroed[44:48] = zeroed[64:68] = bytes(4)
    zeroed[84:100] = bytes(16)
    return hashlib.md5(bytes(zeroed), usedforsecurity=False).digest()
