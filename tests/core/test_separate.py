"""The file: its ink, its proof, its reproduction, and nothing left behind when it fails."""

import json
from dataclasses import replace

import numpy as np
import pytest
import tifffile

from plinto_core.chain.compiled import compile_recipe
from plinto_core.deliver.pieces import joined, pieces_of, write_piece
from plinto_core.deliver.run_sheet import run_sheet
from plinto_core.deliver.separate import separate
from plinto_core.errors import ArtworkError, Cancelled, DeliveryError
from plinto_core.icc.profile import parse
from plinto_core.icc.standard import rgb_profile
from plinto_core.raster.opened import open_artwork
from plinto_core.recipe import AdjustStation, AimStation, DeliverStation, InkStation, Recipe
from plinto_core.recipe.adjustment import Adjustment
from plinto_core.recipe.black import BLACK_PRESETS
from plinto_core.recipe.limits import InkLimits
from plinto_core.recipe.region import Region
from plinto_core.screen.proof import RenderRequest, display_nodes, show_inks
from tests.conftest import profile_of

INK = InkStation("rebuilt", InkLimits(217.3, (("C", 91.0), ("K", 88.0))), BLACK_PRESETS["gcr"])


def _written(condition, path, out, deliver=DeliverStation(), intent="relative"):
    artwork = open_artwork(path)
    recipe = Recipe(aim=AimStation(intent), ink=INK, deliver=deliver)
    chain = compile_recipe(recipe, condition("cotton-54t"), artwork.profile)
    return chain, separate(artwork, chain, out), artwork


@pytest.mark.parametrize("compression", ["none", "lzw", "deflate"])
@pytest.mark.parametrize("depth", [8, 16])
def test_every_pixel_of_the_file_holds_every_limit(condition, photo_tiff, tmp_path, depth, compression):
    out = tmp_path / "out.tif"
    chain, outcome, _ = _written(condition, photo_tiff, out, DeliverStation(depth, compression))
    inks = tifffile.imread(out).astype(int)
    top = 255 if depth == 8 else 65535
    assert inks.shape == (240, 320, 4)
    assert (inks.sum(axis=-1) > 2.173 * top).sum() == 0
    assert (inks[..., 0] > 0.91 * top).sum() == 0
    assert (inks[..., 3] > 0.88 * top).sum() == 0
    # What the run sheet says was measured on this very file.
    assert outcome.largest_percent == pytest.approx(inks.sum(axis=-1).max() / top * 100)
    assert outcome.mean_percent == pytest.approx(list(inks.mean(axis=(0, 1)) / top * 100))
    x, y = outcome.largest_at
    assert inks[y, x].sum() == inks.sum(axis=-1).max()
    assert np.array_equal(inks, chain.link.inks_of(tifffile.imread(photo_tiff), depth))


def test_tags_say_what_the_file_is(condition, photo_tiff, tmp_path):
    _written(condition, photo_tiff, tmp_path / "a.tif")
    _written(condition, photo_tiff, tmp_path / "b.tif", DeliverStation(embed_profile=False))
    with tifffile.TiffFile(tmp_path / "a.tif") as tiff:
        page = tiff.pages[0]
        assert page.photometric.name == "SEPARATED"
        assert page.tags["InkSet"].value == 1
        assert page.tags["XResolution"].value == (300, 1)
        assert parse(page.iccprofile).name == "Cotton 54T"
    with tifffile.TiffFile(tmp_path / "b.tif") as tiff:
        assert tiff.pages[0].iccprofile is None


@pytest.mark.parametrize("depth", [8, 16])
def test_proof_of_the_file_is_the_proof_that_was_shown(condition, photo_tiff, tmp_path, depth):
    chain, _, artwork = _written(condition, photo_tiff, tmp_path / "a.tif", DeliverStation(depth))
    model = chain.condition.model
    nodes = display_nodes(model, rgb_profile("sRGB"), True)
    shown = [show_inks(chain.link.inks_of(band, depth), model, nodes, RenderRequest()) for band in artwork.bands()]
    from_file = show_inks(tifffile.imread(tmp_path / "a.tif"), model, nodes, RenderRequest())
    assert np.array_equal(np.concatenate(shown), from_file)


def test_run_sheet_is_complete_and_plain_json(condition, photo_tiff, tmp_path):
    chain, outcome, artwork = _written(condition, photo_tiff, tmp_path / "a.tif")
    sheet = json.loads(json.dumps(run_sheet(artwork, "ab" * 32, chain, outcome, "a.tif")))
    assert sheet["written"]["sha256"] == outcome.sha256
    assert sheet["condition"]["sha256"] == profile_of("cotton-54t").digest
    assert sheet["recipe"] == chain.recipe.to_json()
    assert sheet["largest_coverage_percent"] <= sheet["total_ink_limit_percent"] == 217.3
    assert set(sheet["mean_coverage_percent"]) == {"C", "M", "Y", "K"}


def test_a_cancelled_or_failing_run_leaves_nothing(condition, photo_tiff, tmp_path):
    artwork = open_artwork(photo_tiff)
    chain = compile_recipe(Recipe(ink=INK), condition("cotton-54t"), artwork.profile)
    folder = tmp_path / "out"
    folder.mkdir()
    with pytest.raises(Cancelled):
        separate(artwork, chain, folder / "a.tif", cancelled=lambda: True)
    assert list(folder.iterdir()) == []
    kept = folder / "b.tif"
    kept.write_bytes(b"what was there before")
    photo_tiff.write_bytes(photo_tiff.read_bytes()[: photo_tiff.stat().st_size // 2])
    with pytest.raises(ArtworkError):
        separate(artwork, chain, kept)
    assert [path.name for path in folder.iterdir()] == ["b.tif"]
    assert kept.read_bytes() == b"what was there before"


def test_a_full_disk_leaves_nothing(condition, photo_tiff, tmp_path, monkeypatch):
    artwork = open_artwork(photo_tiff)
    chain = compile_recipe(Recipe(ink=INK), condition("cotton-54t"), artwork.profile)

    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("os.fsync", full)
    with pytest.raises(OSError, match="No space left"):
        separate(artwork, chain, tmp_path / "a.tif")
    assert [path.name for path in tmp_path.iterdir()] == ["photo.tif"]


@pytest.mark.parametrize(("depth", "compression"), [(8, "lzw"), (16, "deflate")])
def test_pieces_made_apart_are_joined_to_the_bytes_that_one_makes(condition, tmp_path, depth, compression):
    """With a soft region across the cuts, so that a piece has to know where in the picture it lies."""
    picture = tmp_path / "large.tif"
    ramp = np.linspace(0, 255, 900 * 1000 * 3).reshape(1000, 900, 3) + np.random.default_rng(5).normal(
        0, 20, (1000, 900, 3)
    )
    tifffile.imwrite(
        picture, np.clip(ramp, 0, 255).astype(np.uint8), photometric="rgb", iccprofile=rgb_profile("sRGB").raw
    )
    soft = Region("soft", ((0.1, 0.1), (0.9, 0.2), (0.4, 0.9)), 0.3, adjustment=Adjustment(chroma_percent=30))
    recipe = Recipe(adjust=AdjustStation(regions=(soft,)), ink=INK, deliver=DeliverStation(depth, compression))
    artwork = open_artwork(picture)
    chain = compile_recipe(recipe, condition("cotton-54t"), artwork.profile)
    alone = separate(artwork, chain, tmp_path / "alone.tif")
    pieces = pieces_of(artwork, chain, 0.25)
    assert len(pieces) >= 3 and pieces[0].first == 0 and pieces[-1].last == 1000
    assert pieces_of(artwork, chain, 5) == ()
    made = [tmp_path / f"{piece.first}.zip" for piece in pieces]
    for piece, path in zip(reversed(pieces), reversed(made), strict=True):
        write_piece(artwork, compile_recipe(recipe, condition("cotton-54t"), artwork.profile), piece, path)
    together = joined(artwork, chain, made, tmp_path / "together.tif")
    assert together == alone and (tmp_path / "together.tif").read_bytes() == (tmp_path / "alone.tif").read_bytes()
    # A piece that is missing, doubled, or of another recipe is no picture; nothing is left of the try.
    for wrong in (made[1:], made[:-1], [made[0], *made], made[::-1]):
        with pytest.raises(DeliveryError, match="not all of its rows"):
            joined(artwork, chain, wrong, tmp_path / "wrong.tif")
    other = compile_recipe(replace(recipe, adjust=AdjustStation()), condition("cotton-54t"), artwork.profile)
    with pytest.raises(DeliveryError, match="another version of Plinto or for another recipe"):
        joined(artwork, other, made, tmp_path / "wrong.tif")
    assert not list(tmp_path.glob("*wrong*"))
    films = compile_recipe(
        replace(recipe, deliver=DeliverStation(format="films")), condition("cotton-54t"), artwork.profile
    )
    assert pieces_of(artwork, films, 0.25) == ()
