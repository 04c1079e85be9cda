"""The ICC reader and writer: what goes in comes out, LittleCMS agrees, and hostile bytes are named."""

import io
import struct

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import ImageCms

from plinto_core.chain.stations import Source
from plinto_core.colorimetry import delta_e_2000
from plinto_core.colorimetry.lab import D50_XYZ
from plinto_core.errors import IccError
from plinto_core.icc import cmm
from plinto_core.icc.profile import Header, Profile, parse, write
from plinto_core.icc.slices import curves_of, lut_plane
from plinto_core.icc.standard import RGB_SPACES, gray_as_rgb, rgb_profile
from plinto_core.icc.values import (
    Curve,
    CurveLut,
    Description,
    Numbers,
    ParametricCurve,
    ProfileSequence,
    ProfileStep,
    TableLut,
    Text,
    Unknown,
    Xyz,
)
from plinto_core.inspection import describe_profile
from tests.conftest import foreign_profile, profile_of

RANDOM = np.random.default_rng(9)
EVERY_TYPE = {
    "cprt": Text("free to use"),
    "targ": Text("CGATS.17\nBEGIN_DATA\n"),
    "wtpt": Xyz(np.array([[0.9642, 1.0, 0.8249]])),
    "chad": Numbers(np.arange(9) / 4),
    "rTRC": Curve(),
    "gTRC": Curve(np.array([2.2])),
    "bTRC": Curve(np.linspace(0, 1, 40)),
    "kTRC": ParametricCurve(3, (2.4, 0.9479, 0.0521, 0.0774, 0.0405)),
    "A2B0": TableLut(8, np.eye(3), np.linspace(0, 1, 256)[None].repeat(3, 0), RANDOM.random((5, 5, 5, 3)),
                     np.linspace(0, 1, 256)[None].repeat(3, 0)),
    "A2B1": TableLut(16, np.eye(3), np.linspace(0, 1, 30)[None].repeat(4, 0), RANDOM.random((3, 3, 3, 3, 3)),
                     np.linspace(0, 1, 2)[None].repeat(3, 0)),
    "A2B2": CurveLut(True, (Curve(),) * 3, np.arange(12).reshape(3, 4) / 8, (ParametricCurve(0, (1.5,)),) * 3,
                     RANDOM.random((3, 4, 5, 2, 3)), 2, (Curve(np.array([1.5])),) * 4),
    "B2A0": CurveLut(False, (Curve(),) * 3, None, None, RANDOM.random((3, 3, 3, 6)), 1, (Curve(),) * 6),
    "pseq": ProfileSequence((ProfileStep(b"AAAA", b"BBBB", 3, b"vidm", Description({"enUS": "Maker"}),
                                         Description({"enUS": "Model ß"})),) * 2),
    "zzzz": Unknown(b"qqqq\0\0\0\0whatever"),
}  # fmt: skip


def _close(a, b):
    """Tag values equal to what their encoding can hold."""
    if isinstance(a, np.ndarray):
        return np.allclose(a, b, atol=1 / 250)
    if isinstance(a, tuple):
        return len(a) == len(b) and all(_close(x, y) for x, y in zip(a, b, strict=True))
    if hasattr(a, "__dataclass_fields__"):
        return type(a) is type(b) and all(_close(getattr(a, f), getattr(b, f)) for f in a.__dataclass_fields__)
    return a == pytest.approx(b, abs=1e-4) if isinstance(a, float) else a == b


@pytest.mark.parametrize("version", [(4, 4), (2, 4)])
def test_every_tag_type_comes_back_as_it_was_written(version):
    names = {"enUS": "A name"} | ({"deDE": "Ein Name"} if version[0] == 4 else {})
    tags = {"desc": Description(names), **EVERY_TYPE}
    if version[0] == 2:
        # Version 2 keeps names in ASCII.
        plain = ProfileStep(b"AAAA", b"BBBB", 3, b"vidm", Description({"enUS": "Maker"}), Description({"enUS": "M"}))
        tags["pseq"] = ProfileSequence((plain,) * 2)
    written = write(Profile(Header("prtr", "CMYK", "Lab ", version), tags))
    read = parse(written.raw)
    assert read.header == written.header
    assert list(read.tags) == list(tags)
    for tag, value in tags.items():
        assert _close(read.tags[tag], value), tag
    # What was read is written to the very same bytes: nothing is lost, unknown tags included.
    assert write(read).raw == written.raw


def test_tags_are_aligned_shared_and_inside_the_profile():
    profile = profile_of("cotton-54t")
    count = int.from_bytes(profile.raw[128:132], "big")
    places = [struct.unpack(">4sII", profile.raw[132 + 12 * i : 144 + 12 * i]) for i in range(count)]
    assert all(offset % 4 == 0 and offset + size <= len(profile.raw) for _, offset, size in places)
    by_tag = {tag: offset for tag, offset, _ in places}
    assert by_tag[b"A2B0"] == by_tag[b"A2B1"] == by_tag[b"A2B2"]
    required = {"desc", "cprt", "wtpt", "chad", "A2B0", "A2B1", "A2B2", "B2A0", "B2A1", "B2A2", "gamt"}
    assert required <= profile.tags.keys()


@pytest.mark.parametrize("name", list(RGB_SPACES))
def test_rgb_spaces_are_neutral_and_read_by_others(name):
    profile = rgb_profile(name)
    gray = np.linspace(0, 1, 11)[:, None].repeat(3, 1)
    assert np.abs(cmm.to_lab(profile, gray)[:, 1:]).max() < 0.02
    assert cmm.to_lab(profile, [[1.0, 1, 1]])[0, 0] == pytest.approx(100, abs=0.01)
    opened = ImageCms.ImageCmsProfile(io.BytesIO(profile.raw)).profile
    assert opened.profile_description == parse(profile.raw).name


def test_srgb_red_is_where_the_standard_puts_it():
    # IEC 61966-2-1 red adapted to D50: Lab 54.29 80.81 69.89.
    assert np.allclose(cmm.to_lab(rgb_profile("sRGB"), [[1.0, 0, 0]]), [[54.29, 80.81, 69.89]], atol=0.02)


@pytest.mark.parametrize("profile", [profile_of("murrow-offset-120"), foreign_profile()], ids=["v2", "mAB"])
def test_other_layouts_are_read_by_littlecms_and_pillow(profile):
    ImageCms.ImageCmsProfile(io.BytesIO(profile.raw))
    white = cmm.to_lab(profile, [[0.0, 0, 0, 0]])
    assert np.allclose(white, [[100, 0, 0]], atol=0.1)


def _broken(change):
    data = bytearray(rgb_profile("sRGB").raw)
    change(data)
    return bytes(data)


def _set(at, value):
    return lambda data: data.__setitem__(slice(at, at + len(value)), value)


def _first_offset(data):
    return int.from_bytes(data[136:140], "big")


BROKEN = {
    "empty": b"",
    "cut in the header": rgb_profile("sRGB").raw[:100],
    "cut in the tags": rgb_profile("sRGB").raw[:400],
    "no mark": _broken(_set(36, b"nope")),
    "size beyond the end": _broken(_set(0, b"\x7f\xff\xff\xff")),
    "billions of tags": _broken(_set(128, b"\xff\xff\xff\xff")),
    "tag beyond the end": _broken(_set(136, b"\xff\xff\xff\x00")),
    "unknown class": _broken(_set(12, b"????")),
    "unknown space": _broken(_set(16, b"????")),
    # The second tag begins four bytes into the first one.
    "overlapping tags": _broken(lambda data: _set(148, struct.pack(">I", _first_offset(data) + 4))(data)),
}  # fmt: skip


@pytest.mark.parametrize("name", list(BROKEN))
def test_broken_profiles_are_refused_with_a_place(name):
    with pytest.raises(IccError, match="The ICC profile is not usable") as caught:
        parse(BROKEN[name])
    assert caught.value.offset is not None


def test_a_grid_that_claims_billions_of_points_is_refused_before_memory_is_taken():
    lut = b"mft2\0\0\0\0" + bytes([15, 15, 255, 0]) + bytes(36) + struct.pack(">HH", 2, 2) + bytes(200)
    lying = write(Profile(Header("prtr", "FCLR", "Lab "), {"A2B0": Unknown(lut)}))
    with pytest.raises(IccError, match="announced") as caught:
        parse(lying.raw)
    assert caught.value.tag == "A2B0"


@settings(max_examples=300, deadline=None)
@given(st.data())
def test_random_damage_gives_an_icc_error_or_a_profile_and_nothing_else(data):
    base = foreign_profile().raw[:6000] if data.draw(st.booleans()) else rgb_profile("P3").raw
    damaged = bytearray(base)
    damaged[0:4] = len(damaged).to_bytes(4, "big")
    for _ in range(data.draw(st.integers(1, 12))):
        damaged[data.draw(st.integers(0, min(len(damaged), 900) - 1))] = data.draw(st.integers(0, 255))
    try:
        parse(bytes(damaged))
    except IccError as error:
        assert "not usable" in str(error)


@pytest.mark.parametrize("lightness", [12.0, 18.0, 50.0, 85.0])
def test_a_table_is_cut_where_its_curves_put_the_lightness(lightness):
    profile = profile_of("halden-silk-150")
    plane = lut_plane(profile, "B2A1", lightness / 100)
    side = len(plane)
    grays = 1 - plane[side // 2].reshape(4, side)[:, side // 2] / 255
    # The nearest node is at most half a step of the table away.
    around = cmm.from_lab(profile, [[lightness + by, 0, 0] for by in (-1.9, 1.9)])
    assert (grays >= around.min(axis=0) - 0.02).all() and (grays <= around.max(axis=0) + 0.02).all()


@pytest.mark.parametrize(
    "curve",
    [ParametricCurve(1, (2.2, 0.0, 0.5)), ParametricCurve(2, (2.2, 0.0, 0.1, 0.3)), ParametricCurve(0, (-1.0,))],
)
def test_curves_of_impossible_numbers_are_looked_into_all_the_same(curve):
    """A slope of 0 ended in a division by it, and a page that shows the curve with it."""
    (points,) = curves_of(curve)["curve"]
    assert points.shape == (65,) and np.isfinite(points).all()


def _gray(pcs, version, white, curve):
    tags = {"desc": Description({"enUS": "Gray"}), "cprt": Text("x"), "wtpt": Xyz(white[None]), "kTRC": curve}
    return write(Profile(Header("prtr", "GRAY", pcs, version), tags))


@pytest.mark.parametrize("version", [(2, 4), (4, 3)])
@pytest.mark.parametrize("pcs", ["XYZ ", "Lab "])
@pytest.mark.parametrize("curve", [ParametricCurve(0, (1.8,)), Curve(np.linspace(0, 1, 64) ** 1.3)])
def test_three_equal_codes_say_what_one_of_a_gray_profile_says(curve, pcs, version):
    """The curve of a gray profile in Lab was taken for luminance (ΔE00 31), and its paper for white (4)."""
    gray = _gray(pcs, version, D50_XYZ * [0.9, 0.9, 0.85], curve)
    _means_the_same(gray)


def test_a_gray_profile_with_a_table_is_read_with_its_tint_and_its_paper():
    """It was set aside: 'has no tone curve'. Its 0 is paper, and darkest is its other end."""
    _means_the_same(profile_of("leafprint-negative"))
    made = gray_as_rgb(profile_of("leafprint-negative"))
    assert Source(made).black_lab[0] < 2 and Source(made).apply([[0.0, 0.0, 0.0]])[0, 0] > 98


def _means_the_same(gray):
    codes = np.linspace(0, 1, 257)[:, None]
    for intent in ("relative", "absolute"):
        told, made = (
            cmm.to_lab(gray, codes, intent),
            cmm.to_lab(gray_as_rgb(gray), np.repeat(codes, 3, axis=1), intent),
        )
        assert delta_e_2000(told, made).max() < 0.05


def test_paper_is_told_in_lab_too_and_text_stays_on_its_line():
    tags = {
        "wtpt": Xyz(np.array([[0.8862, 0.9219, 0.7469]])), "lumi": Xyz(np.array([[0.0, 160.0, 0.0]])),
        "bkpt": Xyz(np.zeros((0, 3))), "targ": Text("CGATS.17\nORIGINATOR \"a\"\nEND"),
    }  # fmt: skip
    told = describe_profile(Profile(Header("prtr", "CMYK", "Lab "), tags))["tags"]
    assert told["wtpt"] == "XYZ 0.8862 0.9219 0.7469, L* 96.90 a* -0.49 b* 1.17"
    assert "L*" not in told["lumi"] + told["bkpt"]
    assert told["targ"] == 'CGATS.17 ORIGINATOR "a" END … (2 lines)'
