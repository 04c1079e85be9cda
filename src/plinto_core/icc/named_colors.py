"""Named color profiles: names with Lab and device values (ICC.1:2022, 8.8 and 10.17)."""

import struct
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plinto_core.errors import IccError
from plinto_core.icc.profile import CHANNELS, Header, Profile, write
from plinto_core.icc.values import Description, TagValue, Unknown, Xyz

Array = NDArray[np.float64]
#: Lab of 16 bit as version 2 had it, which stays in this tag alone (ICC.1:2022, 10.17).
_LEGACY_L, _LEGACY_AB = 652.8, 256.0
_MOST = 100_000
_NAME_BYTES = 32


@dataclass(frozen=True)
class NamedColors:
    """`names`, `lab` (n, 3) media-relative D50, and `device` (n, channels) 0…1 in `space` ('' and none without)."""

    names: tuple[str, ...]
    lab: Array
    device: Array
    space: str = ""


def read_named_colors(profile: Profile) -> NamedColors:
    """The colors of a named color profile. Raises `IccError`."""
    found = profile.tags.get("ncl2")
    if profile.header.profile_class != "nmcl" or not isinstance(found, Unknown):
        raise IccError("it is no named color profile with a list of version 2 or later", tag="ncl2")
    data = found.data
    if len(data) < 84:
        raise IccError("the list of names breaks off", tag="ncl2")
    count, channels = struct.unpack(">II", data[12:20])
    record = _NAME_BYTES + 6 + 2 * channels
    if channels > 15 or count > _MOST or len(data) < 84 + count * record:
        raise IccError(f"{count} names with {channels} device values do not fit into {len(data)} bytes", tag="ncl2")
    before, after = _text(data[20:52]), _text(data[52:84])
    rows = np.frombuffer(data, np.uint8, count * record, 84).reshape(count, record)
    names = tuple(f"{before}{_text(row[:_NAME_BYTES].tobytes())}{after}" for row in rows)
    values = np.ascontiguousarray(rows[:, _NAME_BYTES:]).view(">u2").astype(np.float64)
    if profile.header.pcs != "Lab ":
        raise IccError("its colors are XYZ, and Lab is meant", tag="ncl2")
    lab = np.column_stack([values[:, 0] / _LEGACY_L, values[:, 1:3] / _LEGACY_AB - 128])
    return NamedColors(names, lab, values[:, 3:] / 65535, profile.header.space if channels else "")


def _text(data: bytes) -> str:
    return data.split(b"\0", 1)[0].decode("latin-1").strip("\r\n")


def write_named_colors(colors: NamedColors, name: str) -> Profile:
    """A named color profile (version 4) of one to 100,000 colors. Names longer than 31 letters are cut, and numbered
    where that makes them alike. Raises `IccError`.
    """
    count = len(colors.names)
    if not 1 <= count <= _MOST or colors.lab.shape != (count, 3):
        raise IccError(f"{count} colors are none that a named color profile can have")
    space = colors.space or "Lab "
    channels = CHANNELS[space] if colors.space else 0
    if colors.device.shape != (count, channels):
        raise IccError(f"the device values do not fit '{space}'", tag="ncl2")
    lab = np.column_stack([colors.lab[:, 0] * _LEGACY_L, (colors.lab[:, 1:] + 128) * _LEGACY_AB])
    codes = np.rint(np.clip(np.column_stack([lab, colors.device * 65535]), 0, 65535)).astype(">u2")
    head = b"ncl2" + bytes(4) + struct.pack(">III", 0, count, channels) + bytes(64)
    body = b"".join(name + row.tobytes() for name, row in zip(_short(colors.names), codes, strict=True))
    header = Header("nmcl", space, "Lab ")
    white = Xyz(np.array([[0.9642, 1.0, 0.8249]]))
    tags: dict[str, TagValue] = {
        "desc": Description({"enUS": name}), "cprt": Description({"enUS": "Made by Plinto."}), "wtpt": white,
        "ncl2": Unknown(head + body),
    }  # fmt: skip
    return write(Profile(header, tags))


def _short(names: tuple[str, ...]) -> list[bytes]:
    taken: set[bytes] = set()
    short = []
    for at, name in enumerate(names, 1):
        text = name.encode("latin-1", "replace")[: _NAME_BYTES - 1]
        if text in taken:
            number = f" {at}".encode()
            text = text[: _NAME_BYTES - 1 - len(number)] + number
        taken.add(text)
        short.append(text.ljust(_NAME_BYTES, b"\0"))
    return short
