"""The shop's eight conditions as its commands build them: conforming, readable elsewhere, within their limits."""

import hashlib
import io
import json
import struct
from itertools import pairwise

import imagecodecs
import numpy as np
import pytest
from PIL import Image, ImageCms

from plinto_core.colorimetry import delta_e_2000
from plinto_core.icc import cmm
from plinto_core.icc.standard import rgb_profile
from plinto_core.press.calibration import calibration_of
from plinto_core.press.model import model_from_profile
from plinto_demo.build import kept
from plinto_demo.shop import CONDITIONS
from tests.conftest import profile_of, shop_condition

#: ICC.1:2022, 8.4.2 and ICC.1:2001-04, 6.3.3: what an output profile with tables must have.
REQUIRED = {"desc", "cprt", "wtpt", "A2B0", "A2B1", "A2B2", "B2A0", "B2A1", "B2A2", "gamt"}
TYPES = {
    2: {"desc": b"desc", "cprt": b"text", "A2B0": b"mft2", "B2A1": b"mft2", "gamt": b"mft2"},
    4: {"desc": b"mluc", "cprt": b"mluc", "A2B0": b"mAB ", "B2A1": b"mBA ", "gamt": b"mBA "},
}


def tags_of(raw):
    count = struct.unpack(">I", raw[128:132])[0]
    return {
        raw[at : at + 4].decode(): struct.unpack(">II", raw[at + 4 : at + 12])
        for at in range(132, 132 + 12 * count, 12)
    }


def assert_conforms(raw):
    version = raw[8]
    assert struct.unpack(">I", raw[:4])[0] == len(raw) and len(raw) % 4 == 0
    assert raw[36:40] == b"acsp" and raw[12:16] == b"prtr" and raw[20:24] == b"Lab "
    assert raw[68:80] == struct.pack(">3I", 0xF6D6, 0x10000, 0xD32D), "the illuminant is D50"
    tags = tags_of(raw)
    assert REQUIRED | ({"chad"} if version == 4 else set()) <= tags.keys()
    assert version == 4 or "chad" not in tags
    for tag, kind in TYPES[version].items():
        offset, _ = tags[tag]
        assert raw[offset : offset + 4] == kind and raw[offset + 4 : offset + 8] == bytes(4), tag
    places = sorted(set(tags.values()))
    assert places[0][0] == 132 + 12 * len(tags), "data begins right behind the table"
    for offset, _size in places:
        assert offset % 4 == 0, "tags begin at multiples of four"
    for (offset, size), (following, _) in pairwise(places):
        assert offset + size <= following < offset + size + 4, "no overlap, and no more than padding between"
    if version == 4:
        zeroed = bytearray(raw)
        zeroed[44:48] = zeroed[64:68] = bytes(4)
        zeroed[84:100] = bytes(16)
        assert hashlib.md5(zeroed).digest() == raw[84:100], "the profile ID"
    else:
        assert raw[84:100] == bytes(16)


@pytest.mark.parametrize("shop", CONDITIONS, ids=lambda shop: shop.slug)
def test_the_shops_profiles_conform_and_hold_their_limits(shop):
    built = kept(shop)
    profile = built.read()
    assert_conforms(profile.raw)
    judged = json.loads(built.report.read_text())["judgement"]
    assert judged["most_ink_percent"] <= shop.total_ink_percent
    assert judged["round_trip_mean"] <= 0.5 and judged["round_trip_p99"] <= 1.5
    assert judged["max_neutral_chroma"] < 0.5
    assert judged["black_lab"][0] < 36
    lab = np.random.default_rng(3).random((3000, 3)) * [100, 160, 160] - [0, 80, 80]
    for intent in ("perceptual", "relative", "saturation", "absolute"):
        inks = cmm.from_lab(profile, lab, intent)
        # LittleCMS reads between the nodes, and a mean of values within a limit is within it.
        assert inks.sum(axis=1).max() * 100 <= shop.total_ink_percent + 0.01


def test_six_inks_have_their_names_and_reach_further_than_four():
    profile = kept(next(shop for shop in CONDITIONS if shop.slug == "sateen-reactive")).read()
    model = model_from_profile(profile)
    assert model.inks == ("C", "M", "Y", "K", "O", "B")
    grays = np.column_stack([np.linspace(95, 25, 15), np.zeros((15, 2))])
    inks = cmm.from_lab(profile, grays)
    # Orange makes the black a whole L* darker, and comes in slowly on the way there.
    assert inks[grays[:, 0] >= 45, 4:].max() < 0.02, "light and middle grays need no orange and no blue"
    assert inks[:, 5].max() < 0.03
    assert delta_e_2000(cmm.to_lab(profile, inks), grays).max() < 0.5
    orange = cmm.from_lab(profile, [[66.0, 62, 72]])
    assert orange[0, 4] > 0.5


def test_light_inks_travel_with_the_profile():
    profile = kept(next(shop for shop in CONDITIONS if shop.slug == "lumen-panel")).read()
    behind = calibration_of(profile)
    assert behind is not None and behind.device_inks == ("C", "c", "M", "m", "Y", "K", "k")
    assert calibration_of(profile_of("cotton-54t")) is None


@pytest.mark.parametrize(("slug", "version"), [("murrow-offset-120", 2), ("halden-silk-150", 4)])
def test_pillow_reads_what_is_built_here(slug, version):
    """Pillow brings a LittleCMS of its own: eight bits there, so two codes of rounding and its own optimizing."""
    profile, shop = profile_of(slug), shop_condition(slug)
    assert profile.raw[8] == version
    assert_conforms(profile.raw)
    ours, srgb = (ImageCms.ImageCmsProfile(io.BytesIO(raw)) for raw in (profile.raw, rgb_profile("sRGB").raw))
    assert ImageCms.getProfileDescription(ours).strip() == shop.name
    pixels = np.random.default_rng(4).integers(0, 256, (40, 50, 3), np.uint8)
    inks = ImageCms.profileToProfile(Image.fromarray(pixels), srgb, ours, 1, outputMode="CMYK", flags=0x0140)
    theirs = np.asarray(inks, float)
    exact = cmm.convert(rgb_profile("sRGB"), profile, pixels / 255.0) * 255
    assert np.abs(theirs - exact).max() <= 1.0
    assert theirs.sum(axis=-1).max() / 2.55 <= shop.total_ink_percent + 4 * 0.2


@pytest.mark.parametrize("slug", ["murrow-offset-120", "halden-silk-150"])
def test_bare_paper_stays_bare_in_every_encoding(slug):
    """White fell between two nodes of version 2 tables, and paper got ink."""
    profile = profile_of(slug)
    for intent in ("perceptual", "relative", "saturation"):
        assert cmm.from_lab(profile, [[100.0, 0, 0]], intent).max() < 1e-4
        for kind in ("uint8", "uint16"):
            white = np.full((1, 1, 3), np.iinfo(kind).max, kind)
            inks = imagecodecs.cms_transform(
                white, rgb_profile("sRGB").raw, profile.raw, colorspace="rgb", outcolorspace="cmyk", outdtype=kind,
                intent=("perceptual", "relative", "saturation").index(intent),
            )  # fmt: skip
            assert inks.max() == 0
