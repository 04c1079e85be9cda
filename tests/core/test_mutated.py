"""Files broken in every way there is, through the sandboxed decoders: an answer or a refusal in words, and soon.

`make fuzz` looks at 20,000 of each kind; a plain run of the tests at a few.
"""

import io
import os
import struct
import tempfile
import time
from functools import cache
from pathlib import Path

import numpy as np
import pytest
import tifffile
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image

from plinto_core.errors import PlintoError
from plinto_core.icc.standard import rgb_profile
from plinto_core.sandbox.client import QUICK, Limits, check_file, sandbox
from plinto_demo.shop import measure_chart
from tests.conftest import foreign_profile, profile_of, shop_condition

EXAMPLES = int(os.environ.get("PLINTO_FUZZ", "15"))
MOST_PIXELS = 4_000_000
LONGEST_SECONDS = 10.0


def _tiff(**write):
    pixels = np.random.default_rng(1).integers(0, 255, (37, 41, 3)).astype(write.pop("kind", np.uint8))
    file = io.BytesIO()
    tifffile.imwrite(file, pixels, metadata=None, **({"photometric": "rgb"} | write))
    return file.getvalue()


def _pillow(mode, kind, **save):
    picture = Image.fromarray(np.random.default_rng(2).integers(0, 255, (40, 50, 3)).astype(np.uint8)).convert(mode)
    file = io.BytesIO()
    picture.save(file, kind, **save)
    return file.getvalue()


@cache
def seeds(kind):
    if kind == "picture":
        profile = rgb_profile("opRGB").raw
        return (
            _tiff(compression="lzw", rowsperstrip=8, iccprofile=profile), _tiff(kind=np.uint16, tile=(16, 16)),
            _tiff(compression="zlib", predictor=True), _tiff(planarconfig="separate", photometric="rgb"),
            _tiff(byteorder=">"), _tiff(bigtiff=True, compression="packbits"),
            _pillow("RGBA", "PNG"), _pillow("P", "PNG", icc_profile=profile), _pillow("L", "PNG"),
            _pillow("RGB", "JPEG", progressive=True), _pillow("CMYK", "JPEG"),
            _pillow("RGB", "JPEG", exif=b"Exif\0\0MM\0*"), _layers(),
        )  # fmt: skip
    if kind == "profile":
        return (
            rgb_profile("sRGB").raw, profile_of("murrow-offset-120").raw[:200_000], foreign_profile().raw,
            profile_of("tern-news-45").raw,
        )  # fmt: skip
    data = measure_chart(shop_condition("tern-news-45"), 40)
    if kind == "cgats":
        text = data.to_cgats()
        return (text.encode(), text.encode("utf-16"), text.replace(" ", "\t").replace("\n", "\r\n").encode("latin-1"))
    return tuple(_cxf(data, spectral).encode() for spectral in (True, False))


def _layers():
    from plinto_demo.artwork import write_poster_layers

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "small.ora"
        write_poster_layers(path)
        return path.read_bytes()


def _cxf(data, spectral):
    objects = []
    for index, inks in enumerate(data.device):
        values = "".join(
            f"<{n}>{v * 100:.2f}</{n}>" for n, v in zip(("Cyan", "Magenta", "Yellow", "Black"), inks, strict=True)
        )
        spectrum = " ".join(f"{v:.4f}" for v in data.spectra[index])
        color = f'<ReflectanceSpectrum StartWL="380">{spectrum}</ReflectanceSpectrum>'
        lab = "<ColorCIELab><L>50</L><A>1</A><B>2</B></ColorCIELab>"
        objects.append(
            f'<Object Name="p{index}"><ColorValues>{color if spectral else lab}</ColorValues>'
            f"<DeviceColorValues><ColorCMYK>{values}</ColorCMYK></DeviceColorValues></Object>"
        )
    return f'<?xml version="1.0"?><CxF><Resources><ObjectCollection>{"".join(objects)}</ObjectCollection></Resources></CxF>'


NUMBERS = st.sampled_from([0, 1, 2, 3, 7, 127, 128, 255, 256, 65535, 65536, 2**31 - 1, 2**31, 2**32 - 1])
WORDS = st.sampled_from(
    [b"nan", b"-inf", b"1e999", b"9" * 400, b"\xff\xfe", b"\0", b'"', b"BEGIN_DATA", b"END_DATA_FORMAT", b"<Object>",
     b"&amp;&#x10FFFF;", b"]]>", b"\xed\xa0\x80", b"acsp", b"mft2", b"mAB ", b"II*\0", b"\xff\xda", b"IDAT", b"iCCP",
     b"8BPS"]
)  # fmt: skip
PLACES = st.floats(0, 1, exclude_max=True)
MUTATIONS = st.one_of(
    st.tuples(st.just("byte"), PLACES, st.integers(0, 255)),
    st.tuples(st.just("number"), PLACES, NUMBERS),
    st.tuples(st.just("cut"), PLACES, st.just(0)),
    st.tuples(st.just("drop"), PLACES, st.integers(1, 400)),
    st.tuples(st.just("again"), PLACES, st.integers(1, 4000)),
    st.tuples(st.just("word"), PLACES, WORDS),
    st.tuples(st.just("head"), st.floats(0, 0.02), NUMBERS),
)
RECIPES = st.tuples(st.integers(0, 40), st.lists(MUTATIONS, min_size=1, max_size=8))


def mutated(kind, recipe):
    seed, changes = recipe
    known = seeds(kind)
    data = bytearray(known[seed % len(known)])
    for how, place, value in changes:
        at = int(place * len(data))
        if how == "byte" and data:
            data[at] = value
        elif how in ("number", "head"):
            data[at : at + 4] = struct.pack(">I" if value % 2 else "<I", value)
        elif how == "cut":
            del data[at:]
        elif how == "drop":
            del data[at : at + value]
        elif how == "again":
            data[at:at] = data[at : at + value]
        elif how == "word":
            data[at : at + len(value)] = value
    return bytes(data)


def ask(kind, path):
    if kind == "profile":
        return check_file("profile", path, "m.icc")
    if kind in ("cgats", "cxf"):
        return check_file("measurements", path, f"m.{kind}")
    given = {"path": str(path), "name": "m", "max_pixels": MOST_PIXELS}
    facts = sandbox.run("picture", given, "m", QUICK)
    limits = Limits(512, 9, 9.5)
    with tempfile.TemporaryDirectory() as folder:
        more = {"folder": f"{folder}/levels", "page": 0, "ground": facts["ground"]}
        return sandbox.run("levels", given | more, "m", limits)


@pytest.mark.parametrize("kind", ["picture", "profile", "cgats", "cxf"])
def test_a_broken_file_is_read_or_refused_in_words_and_soon(kind, tmp_path_factory):
    folder = tmp_path_factory.mktemp(kind)
    longest, refused = 0.0, 0

    @settings(
        max_examples=EXAMPLES, deadline=None, database=None, suppress_health_check=list(HealthCheck),
        derandomize=EXAMPLES < 1000,
    )  # fmt: skip
    @given(RECIPES)
    def look(recipe):
        nonlocal longest, refused
        path = folder / "broken"
        path.write_bytes(mutated(kind, recipe))
        begun = time.monotonic()
        try:
            ask(kind, path)
        except PlintoError as error:
            refused += 1
            # The file, the cause, and no path of the server.
            assert str(error) and str(folder) not in str(error)
        took = time.monotonic() - begun
        longest = max(longest, took)
        assert took < 2 * LONGEST_SECONDS

    look()
    assert refused > EXAMPLES / 10
    if EXAMPLES >= 1000:
        print(f"\n{kind}: {EXAMPLES} broken files, {refused} refused, the longest took {longest:.2f} s")
