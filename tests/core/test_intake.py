"""Every kind of artwork in: its colors arrive, and what flattening did is said."""

import zipfile

import imagecodecs
import numpy as np
import pytest
import tifffile
from PIL import Image

from plinto_core.errors import ArtworkError, RecipeError
from plinto_core.icc import cmm
from plinto_core.icc.standard import gray_profile, rgb_profile
from plinto_core.raster.opened import Flattening, open_artwork
from plinto_core.raster.versions import write_assigned, write_converted
from plinto_demo.artwork import write_poster_layers
from tests.conftest import profile_of

RANDOM = np.random.default_rng(4)
SIZE = (37, 53)


def _read(path, **flattening):
    artwork = open_artwork(path, flattening=Flattening(**flattening))
    return artwork, np.concatenate(list(artwork.bands()))


def _codes(channels, kind=np.uint8):
    return RANDOM.integers(0, np.iinfo(kind).max + 1, (*SIZE, channels)).astype(kind)


@pytest.mark.parametrize("kind", [np.uint8, np.uint16])
@pytest.mark.parametrize("photometric", ["minisblack", "miniswhite"])
def test_gray_goes_down_the_line_as_equal_rgb_that_means_the_same(tmp_path, kind, photometric):
    gray = _codes(1, kind)
    tifffile.imwrite(
        tmp_path / "g.tif", gray[..., 0], photometric=photometric, metadata=None, iccprofile=gray_profile().raw
    )
    artwork, pixels = _read(tmp_path / "g.tif")
    top = np.iinfo(kind).max
    assert (artwork.space, artwork.stored_as) == ("RGB", "gray")
    assert np.array_equal(pixels, np.repeat(top - gray if photometric == "miniswhite" else gray, 3, axis=-1))
    lab = cmm.to_lab(artwork.profile, pixels / top)
    theirs = cmm.to_lab(gray_profile(), pixels[..., :1] / top)
    assert np.abs(lab - theirs).max() < 0.02


def test_lab_keeps_its_colors_in_every_encoding(tmp_path):
    lab = np.stack([RANDOM.uniform(35, 75, SIZE), *RANDOM.uniform(-25, 25, (2, *SIZE))], axis=-1)
    signed8 = np.concatenate([np.rint(lab[..., :1] * 2.55), np.rint(lab[..., 1:]).astype(np.int8)], axis=-1)
    signed16 = np.concatenate([np.rint(lab[..., :1] * 655.35), np.rint(lab[..., 1:] * 256)], axis=-1)
    legacy16 = np.concatenate([np.rint(lab[..., :1] * 652.8), np.rint((lab[..., 1:] + 128) * 256)], axis=-1)
    for name, stored, photometric, off in (
        ("signed8", signed8.astype(np.int16).astype(np.uint8), "cielab", 0.8),
        ("signed16", signed16.astype(np.int32).astype(np.uint16), "cielab", 0.03),
        ("legacy16", legacy16.astype(np.uint16), "icclab", 0.03),
    ):
        path = tmp_path / f"{name}.tif"
        tifffile.imwrite(path, stored, photometric=photometric, metadata=None)
        artwork, pixels = _read(path)
        assert (artwork.stored_as, artwork.depth) == ("Lab", 16), name
        assert "ROMM" in artwork.notes[-1]
        found = cmm.to_lab(artwork.profile, pixels / 65535.0)
        assert np.abs(found - lab).max() < off, name


def test_cmyk_tiff_and_both_kinds_of_cmyk_jpeg(tmp_path):
    inks = np.repeat(np.repeat(_codes(4)[:5, :7], 8, axis=0), 8, axis=1)
    profile = profile_of("halden-silk-150")
    tifffile.imwrite(tmp_path / "c.tif", inks, photometric="separated", metadata=None, iccprofile=profile.raw)
    artwork, pixels = _read(tmp_path / "c.tif")
    assert artwork.space == "CMYK" and artwork.profile.digest == profile.digest
    assert np.array_equal(pixels, inks)
    smooth = np.full((32, 32, 4), [200, 40, 90, 10], np.uint8)
    Image.fromarray(smooth, mode="CMYK").save(tmp_path / "adobe.jpg", quality=100)
    artwork, pixels = _read(tmp_path / "adobe.jpg")
    assert "inverted" in artwork.notes[0]
    assert np.abs(pixels.astype(int) - smooth).max() <= 4
    # The same without the marker that says so: what is stored is what is meant, which is its opposite.
    data = (tmp_path / "adobe.jpg").read_bytes()
    at = data.index(b"\xff\xee")
    length = int.from_bytes(data[at + 2 : at + 4], "big")
    (tmp_path / "plain.jpg").write_bytes(data[:at] + data[at + 2 + length :])
    _, turned = _read(tmp_path / "plain.jpg")
    assert np.abs(255 - turned.astype(int) - smooth).max() <= 4


def test_layers_and_hidden_ones_are_counted(tmp_path):
    write_poster_layers(tmp_path / "poster.ora")
    artwork, pixels = _read(tmp_path / "poster.ora")
    assert "4 layers were taken as its own merged picture shows them; 1 hidden" in artwork.notes[0]
    assert artwork.profile.name == "sRGB"
    assert pixels[720, 20].tolist() == [24, 20, 52]
    assert (pixels[398] != [255, 0, 255]).any(axis=-1).all()


def test_layered_documents_in_16_bit_gray_and_without_their_merged_picture(tmp_path):
    deep = np.ascontiguousarray(_codes(3).astype(np.uint16) * 257)
    gray = np.ascontiguousarray(_codes(1))
    stored = {"16 bit": imagecodecs.png_encode(deep), "gray": imagecodecs.png_encode(gray[..., 0])}
    for name, png in stored.items():
        _write_open_raster(tmp_path / f"{name}.ora", png)
        artwork, found = _read(tmp_path / f"{name}.ora")
        assert (artwork.format, artwork.stored_as) == ("OpenRaster", "gray" if name == "gray" else "RGB")
        assert np.array_equal(found, deep if name == "16 bit" else np.repeat(gray, 3, axis=-1))
    for png, stack, says in (
        (None, "<image/>", "without 'mergedimage.png'"),
        (stored["gray"], "<image", "list of layers cannot be read"),
        (stored["gray"], "<image>" + "<layer/>" * 5_001 + "</image>", "5001 layers"),
        (stored["gray"], '<!DOCTYPE i [<!ENTITY e SYSTEM "/etc/hostname">]><image>&e;</image>', None),
    ):
        _write_open_raster(tmp_path / "bad.ora", png, stack)
        if says is None:
            assert "0 layers" in open_artwork(tmp_path / "bad.ora").notes[0]
            continue
        with pytest.raises(ArtworkError, match=says):
            open_artwork(tmp_path / "bad.ora")


def _write_open_raster(path, merged, stack="<image/>"):
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("mimetype", "image/openraster")
        archive.writestr("stack.xml", stack)
        if merged is not None:
            archive.writestr("mergedimage.png", merged)


def test_transparency_lies_on_the_chosen_ground(tmp_path):
    stored = _codes(4)
    Image.fromarray(stored, mode="RGBA").save(tmp_path / "a.png")
    artwork, pixels = _read(tmp_path / "a.png", ground=(0.2, 0.4, 1.0))
    share = stored[..., 3:] / 255
    expected = stored[..., :3] * share + np.array([51, 102, 255]) * (1 - share)
    assert np.abs(pixels - expected).max() <= 1
    assert "#3366ff" in artwork.notes[0]


@pytest.mark.parametrize("orientation", range(1, 9))
def test_exif_orientation_is_followed(tmp_path, orientation):
    upright = np.zeros((24, 40, 3), np.uint8)
    upright[:12, :20] = [200, 30, 30]
    upright[12:, 20:] = [30, 30, 200]
    undo = {
        1: lambda p: p, 2: lambda p: p[:, ::-1], 3: lambda p: p[::-1, ::-1], 4: lambda p: p[::-1],
        5: lambda p: p.transpose(1, 0, 2), 6: lambda p: p[:, ::-1].transpose(1, 0, 2)[:, :],
        7: lambda p: p[::-1, ::-1].transpose(1, 0, 2), 8: lambda p: p[::-1].transpose(1, 0, 2),
    }  # fmt: skip
    stored = Image.fromarray(np.ascontiguousarray(undo[orientation](upright)))
    exif = Image.Exif()
    exif[274] = orientation
    stored.save(tmp_path / "a.png", exif=exif)
    artwork, pixels = _read(tmp_path / "a.png")
    assert (artwork.width, artwork.height) == (40, 24)
    assert np.array_equal(pixels, upright)
    assert any("upright" in note for note in artwork.notes) == (orientation > 1)


def test_a_page_is_chosen_and_one_that_is_not_there_is_refused(tmp_path):
    pages = [_codes(3), _codes(3)]
    with tifffile.TiffWriter(tmp_path / "p.tif") as tiff:
        for page in pages:
            tiff.write(page, photometric="rgb", metadata=None)
    artwork, pixels = _read(tmp_path / "p.tif", page=1)
    assert np.array_equal(pixels, pages[1])
    assert "Page 2 of 2" in artwork.notes[0]
    with pytest.raises(ArtworkError, match="no page 3"):
        _read(tmp_path / "p.tif", page=2)


def test_a_profile_for_other_numbers_is_set_aside(tmp_path):
    tifffile.imwrite(
        tmp_path / "a.tif", _codes(3), photometric="rgb", metadata=None, iccprofile=profile_of("cotton-54t").raw
    )
    artwork = open_artwork(tmp_path / "a.tif")
    assert artwork.profile is None
    assert "It describes CMYK, and the picture is RGB" in artwork.notes[0]


def test_assigning_keeps_numbers_and_converting_keeps_colors(tmp_path):
    # Colors that both spaces hold: what P3 cannot say would be brought inside.
    pixels = RANDOM.integers(16000, 48000, (*SIZE, 3)).astype(np.uint16)
    tifffile.imwrite(tmp_path / "a.tif", pixels, photometric="rgb", metadata=None, iccprofile=rgb_profile("sRGB").raw)
    artwork = open_artwork(tmp_path / "a.tif")
    write_assigned(artwork, rgb_profile("P3"), tmp_path / "assigned.tif")
    write_converted(artwork, artwork.profile, rgb_profile("P3"), tmp_path / "converted.tif")
    write_assigned(artwork, None, tmp_path / "bare.tif")
    assigned, numbers = _read(tmp_path / "assigned.tif")
    converted, others = _read(tmp_path / "converted.tif")
    assert assigned.profile.name == converted.profile.name == rgb_profile("P3").name
    assert np.array_equal(numbers, pixels) and not np.array_equal(others, pixels)
    before = cmm.to_lab(artwork.profile, pixels / 65535)
    assert np.abs(cmm.to_lab(converted.profile, others / 65535) - before).max() < 0.05
    assert np.abs(cmm.to_lab(assigned.profile, numbers / 65535) - before).max() > 3
    assert open_artwork(tmp_path / "bare.tif").profile is None
    with pytest.raises(RecipeError, match="choose a profile for RGB"):
        write_assigned(artwork, profile_of("cotton-54t"), tmp_path / "no.tif")
    assert not (tmp_path / "no.tif").exists()
