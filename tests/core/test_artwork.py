"""Pictures in: every layout read right, every lie named."""

import io
import zlib

import numpy as np
import pytest
import tifffile
from PIL import Image

from plinto_core.errors import ArtworkError
from plinto_core.icc.standard import rgb_profile
from plinto_core.raster.opened import open_artwork
from plinto_core.raster.picture_kernels import hatch
from plinto_core.raster.pyramid import Pyramid, Window, build_pyramid

RANDOM = np.random.default_rng(2)
LAYOUTS = [
    {"rowsperstrip": 7},
    {"rowsperstrip": 7, "compression": "lzw", "predictor": True},
    {"rowsperstrip": 999, "compression": "deflate"},
    {"tile": (32, 48), "compression": "deflate", "predictor": True},
    {"tile": (16, 16), "compression": "lzw"},
    {"tile": (64, 64)},
    {"planarconfig": "separate", "compression": "lzw"},
    {"byteorder": ">"},
    {"bigtiff": True, "compression": "lzw"},
]


def _pixels(kind, channels=3):
    return RANDOM.integers(0, np.iinfo(kind).max + 1, (131, 205, channels)).astype(kind)


def _read(path):
    return np.concatenate(list(open_artwork(path).bands()))


@pytest.mark.parametrize("kind", [np.uint8, np.uint16])
@pytest.mark.parametrize("layout", LAYOUTS, ids=str)
def test_tiff_layouts_give_the_same_pixels(tmp_path, kind, layout):
    pixels = _pixels(kind)
    path = tmp_path / "a.tif"
    write = dict(layout)
    stored = np.moveaxis(pixels, -1, 0) if write.get("planarconfig") == "separate" else pixels
    with tifffile.TiffWriter(
        path, bigtiff=write.pop("bigtiff", False), byteorder=write.pop("byteorder", "<")
    ) as tiff:
        tiff.write(stored, photometric="rgb", metadata=None, iccprofile=rgb_profile("P3").raw,
                   resolution=(120, 120), resolutionunit="centimeter", **write)  # fmt: skip
    artwork = open_artwork(path)
    assert (artwork.width, artwork.height, artwork.depth) == (205, 131, 8 * pixels.itemsize)
    assert artwork.profile.raw == rgb_profile("P3").raw
    assert artwork.resolution_ppi == pytest.approx(304.8, rel=1e-4)
    assert np.array_equal(_read(path), pixels)


def test_png_of_8_and_16_bit_and_jpeg(tmp_path):
    import imagecodecs

    deep, flat = _pixels(np.uint16), _pixels(np.uint8)
    (tmp_path / "deep").write_bytes(imagecodecs.png_encode(deep))
    Image.fromarray(flat).save(tmp_path / "flat.dat", format="PNG", icc_profile=rgb_profile("sRGB").raw)
    smooth = np.linspace(0, 255, 131 * 205 * 3).reshape(131, 205, 3).astype(np.uint8)
    Image.fromarray(smooth).save(tmp_path / "j.tif", format="JPEG", quality=98, dpi=(240, 240))
    # Names say nothing: content does.
    assert np.array_equal(_read(tmp_path / "deep"), deep)
    assert np.array_equal(_read(tmp_path / "flat.dat"), flat)
    assert open_artwork(tmp_path / "flat.dat").profile.raw == rgb_profile("sRGB").raw
    jpeg = open_artwork(tmp_path / "j.tif")
    assert (jpeg.format, jpeg.resolution_ppi) == ("JPEG", 240)
    assert np.abs(_read(tmp_path / "j.tif").astype(int) - smooth).mean() < 2


@pytest.mark.parametrize("kind", [np.uint8, np.uint16])
def test_alpha_is_put_on_white_and_said(tmp_path, kind):
    pixels = _pixels(kind, 4)
    path = tmp_path / "a.tif"
    tifffile.imwrite(path, pixels, photometric="rgb", extrasamples=["unassalpha"], metadata=None)
    artwork = open_artwork(path)
    assert any("white" in note for note in artwork.notes)
    top = np.iinfo(kind).max
    alpha = pixels[..., 3:] / top
    assert np.abs(_read(path) - (pixels[..., :3] * alpha + top * (1 - alpha))).max() <= 0.6 + top / 1e5


def _tiff(tmp_path, **write):
    path = tmp_path / "a.tif"
    tifffile.imwrite(path, _pixels(np.uint8), photometric="rgb", metadata=None, **write)
    return path


def test_a_truncated_tiff_is_refused(tmp_path):
    for write in ({"rowsperstrip": 8, "compression": "lzw"}, {"rowsperstrip": 8}, {"tile": (16, 16)}):
        path = _tiff(tmp_path, **write)
        path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])
        with pytest.raises(ArtworkError, match=r"'a\.tif'"):
            _read(path)


def test_truncated_png_and_jpeg_are_refused(tmp_path):
    for format_ in ("PNG", "JPEG"):
        path = tmp_path / f"a.{format_}"
        Image.fromarray(_pixels(np.uint8)).save(path, format=format_)
        path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])
        with pytest.raises(ArtworkError, match="damaged"):
            _read(path)


def test_what_is_no_picture_is_refused(tmp_path):
    deep = tmp_path / "deep.tif"
    tifffile.imwrite(deep, np.zeros((9, 9, 3), np.float32), photometric="rgb", metadata=None)
    five = tmp_path / "five.tif"
    seven = [(332, 3, 1, 2, False), (334, 3, 1, 7, False)]
    tifffile.imwrite(five, _pixels(np.uint8, 7), photometric="separated", extratags=seven, metadata=None)
    text = tmp_path / "notes.tif"
    text.write_text("This is no picture.")
    empty = tmp_path / "empty.png"
    empty.write_bytes(b"")
    for path, words in ((deep, "32 bit"), (five, "into 7 inks"), (text, "neither TIFF"), (empty, "neither TIFF")):
        with pytest.raises(ArtworkError, match=words):
            open_artwork(path)


def test_a_picture_over_the_limit_is_refused_before_it_is_decoded(tmp_path):
    with pytest.raises(ArtworkError, match="limit here is 0 megapixels"):
        open_artwork(_tiff(tmp_path), max_pixels=1000)


def test_a_header_that_lies_about_its_size_is_refused(tmp_path):
    path = _tiff(tmp_path, rowsperstrip=131)
    with tifffile.TiffFile(path, mode="r+b") as tiff:
        tiff.pages[0].tags["ImageLength"].overwrite(100_000)
    with pytest.raises(ArtworkError, match=r"'a\.tif'"):
        _read(path)


def test_a_broken_embedded_profile_is_set_aside_and_said(tmp_path):
    path = _tiff(tmp_path, iccprofile=b"not a profile at all" * 20)
    artwork = open_artwork(path)
    assert artwork.profile is None
    assert "set aside" in artwork.notes[0]


def test_pyramid_windows_show_the_right_place(tmp_path):
    pixels = np.zeros((1300, 2100, 3), np.uint16)
    pixels[600:700, 1000:1200] = [60000, 30000, 10000]
    path = tmp_path / "a.tif"
    tifffile.imwrite(path, pixels, photometric="rgb", metadata=None)
    build_pyramid(open_artwork(path), tmp_path / "levels")
    levels = Pyramid(tmp_path / "levels")
    assert [level.shape[0] for level in levels.levels] == [1300, 650, 325, 163]
    exact = levels.window(Window(950, 580, 300, 160, 1.0))
    assert np.array_equal(exact, pixels[580:740, 950:1250])
    assert np.array_equal(levels.window(Window(1000, 600, 40, 40, 4.0)), pixels[600:610, 1000:1010])
    for zoom in (0.9, 0.5, 0.3, 0.11):
        small = levels.window(Window(0, 0, round(2100 * zoom), round(1300 * zoom), zoom))
        inside = small[round(650 * zoom), round(1100 * zoom)]
        assert np.abs(inside - np.array([60000, 30000, 10000])).max() < 900
        assert small[round(300 * zoom), round(300 * zoom)].max() == 0
        assert small.mean() == pytest.approx(pixels.mean(), rel=0.05)
    sample, places, step = levels.sample(10_000)
    assert sample.shape[:2] == places.shape
    assert sample.shape[0] * sample.shape[1] <= 12_000
    assert step == 17


def test_hatching_marks_only_what_is_over_and_stays_put_while_dragging():
    field = np.zeros((60, 90), np.float32)
    field[20:, 30:] = 8
    whole = np.full((60, 90, 3), 120, np.uint8)
    color = np.array([255, 255, 255], np.uint8)
    hatch(whole, field, 3.0, 15.0, 0.6, color, 0, 0)
    assert (whole[:20] == 120).all() and (whole[:, :30] == 120).all()
    marked = (whole[20:, 30:] == 255).all(axis=-1).mean()
    assert 0.1 < marked < 0.45
    moved = np.full((60, 80, 3), 120, np.uint8)
    hatch(moved, field[:, 10:], 3.0, 15.0, 0.6, color, 10, 0)
    assert np.array_equal(moved, whole[:, 10:])


_PATTERN = np.add.outer(np.arange(40), np.arange(60) * 3).astype(np.uint8)
_COLORS = np.stack([_PATTERN, 255 - _PATTERN, _PATTERN // 2], axis=-1)


def _with(color, *more):
    return np.concatenate([color, *(np.full((*color.shape[:2], 1), each, color.dtype) for each in more)], axis=-1)


@pytest.mark.parametrize(
    ("samples", "extra", "shown"),
    [
        # A saved selection and a spot ink were taken for transparency, and the picture was whitened by up to 0.96 of it.
        (_with(_COLORS, 10), ["unspecified"], _COLORS),
        (_with(_COLORS, 10, 200), ["unspecified", "unspecified"], _COLORS),
        (_with(_COLORS, 10, 128), ["unspecified", "unassalpha"], _COLORS * (128 / 255) + 255 * (127 / 255)),
        # Colors that had been multiplied by it already were multiplied once more: white at half became gray 191.
        (_with(np.minimum(_COLORS, 128), 128), ["assocalpha"], np.minimum(_COLORS, 128) + 127.0),
    ],
)
def test_only_transparency_is_taken_for_it(tmp_path, samples, extra, shown):
    path = tmp_path / "extra.tif"
    tifffile.imwrite(path, samples, photometric="rgb", extrasamples=extra, metadata=None)
    artwork = open_artwork(path)
    assert np.abs(_read(path) - shown).max() <= 0.6
    assert ("left out" in " ".join(artwork.notes)) == ("unspecified" in extra)
    assert artwork.has_alpha == any("alpha" in each for each in extra)


def test_an_ink_beside_cmyk_is_left_out_and_more_inks_are_refused_by_name(tmp_path):
    path, cmyk = tmp_path / "inks.tif", _with(_COLORS, 30)
    tifffile.imwrite(path, _with(cmyk, 77), photometric="separated", extrasamples=["unspecified"], metadata=None)
    assert np.array_equal(_read(path), cmyk) and "spot ink" in open_artwork(path).notes[0]
    names = (333, 2, 0, "Black\0Red\0Orange\0Blue", False)
    tifffile.imwrite(path, cmyk, photometric="separated", extratags=[(332, 3, 1, 2, False), names], metadata=None)
    with pytest.raises(ArtworkError, match=r"a separation into 4 inks \(Black, Red, Orange, Blue\)"):
        open_artwork(path)


def test_tiffs_as_scanners_and_rips_write_them(tmp_path):
    """JPEG inside, a color table, line art of one bit: each was refused, where PNG and JPEG of the kind were not."""
    path = tmp_path / "kind.tif"
    tifffile.imwrite(
        path, _COLORS, photometric="rgb", compression="jpeg", compressionargs={"level": 98}, metadata=None
    )
    assert np.abs(_read(path).astype(int) - _COLORS).mean() < 3
    # With tables that all strips share, as most programs write it: 'Quantization table 0x00 was not defined'.
    for mode in ("RGB", "YCbCr", "L", "CMYK"):
        written = Image.fromarray(_COLORS).convert(mode)
        written.save(path, compression="jpeg", quality=98)
        shown = np.asarray(written.convert("CMYK" if mode == "CMYK" else "RGB")).astype(int)
        assert np.abs(_read(path) - shown).mean() < 3
    Image.fromarray(np.where(_PATTERN > 90, 255, 0).astype(np.uint8)).convert("1").save(path, compression="group4")
    assert np.array_equal(_read(path)[..., 1] > 128, _PATTERN > 90)
    table = np.stack([np.arange(256), 255 - np.arange(256), np.arange(256) // 2]).astype(np.uint16) * 257
    tifffile.imwrite(path, _PATTERN, photometric="palette", colormap=table, metadata=None)
    assert np.array_equal(_read(path), _COLORS) and "color table" in open_artwork(path).notes[0]
    for photometric, lit in (("minisblack", 255), ("miniswhite", 0)):
        for compression in (None, "packbits"):
            tifffile.imwrite(path, _PATTERN > 90, photometric=photometric, compression=compression, metadata=None)
            assert np.array_equal(_read(path)[..., 1] == lit, _PATTERN > 90)
    tifffile.imwrite(path, (_COLORS / 255).astype(np.float16), photometric="rgb", metadata=None)
    with pytest.raises(ArtworkError, match="16 bit floating point"):
        open_artwork(path)


@pytest.mark.parametrize("said", ["sRGB", "opRGB"])
def test_a_picture_without_a_profile_that_says_its_space_is_taken_at_its_word(tmp_path, said):
    path, exif = tmp_path / "camera.jpg", Image.Exif()
    exif[0x8769] = {0xA001: 1 if said == "sRGB" else 0xFFFF, 0xA005: {} if said == "sRGB" else {1: "R03"}}
    Image.fromarray(_COLORS).save(path, exif=exif)
    artwork = open_artwork(path)
    assert artwork.profile.raw == rgb_profile(said).raw and f"says itself that it is {said}" in artwork.notes[0]
    chunk = b"sRGB\0"
    whole = io.BytesIO()
    Image.fromarray(_COLORS).save(whole, "PNG")
    png = whole.getvalue()
    (tmp_path / "web.png").write_bytes(
        png[:33] + (1).to_bytes(4, "big") + chunk + zlib.crc32(chunk).to_bytes(4, "big") + png[33:]
    )
    assert open_artwork(tmp_path / "web.png").profile.raw == rgb_profile("sRGB").raw
    (tmp_path / "web.png").write_bytes(png)
    assert open_artwork(tmp_path / "web.png").profile is None
