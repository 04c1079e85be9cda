"""CMYK artwork for another press: the grid of four, what stays pure, and the link other software can use."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from PIL import Image

from plinto_core.adjust.regions import PixelGrid
from plinto_core.chain import met_colors
from plinto_core.chain.compiled import compile_recipe
from plinto_core.chain.library import Library
from plinto_core.chain.link import Link, ValueGrid, device_grid, nodes_used
from plinto_core.chain.profiled import ProfiledLink
from plinto_core.colorimetry import delta_e_2000
from plinto_core.errors import IccError, RecipeError
from plinto_core.icc import cmm
from plinto_core.icc.profile import Header, Profile, parse, write
from plinto_core.icc.standard import rgb_profile
from plinto_core.profiling.judge import judge
from plinto_core.raster.opened import open_artwork
from plinto_core.recipe import AimStation, InkStation, Recipe
from plinto_core.recipe.black import BLACK_PRESETS
from plinto_core.recipe.limits import InkLimits
from tests.conftest import profile_of

RANDOM = np.random.default_rng(12)


def _twin(nodes, points, values):
    """Simplex interpolation as its definition says: sort the fractions, walk from corner to corner."""
    out = np.zeros((len(values), nodes.shape[1]))
    for row, value in enumerate(values * (points - 1)):
        cell = np.minimum(value.astype(int), points - 2)
        fraction = value - cell
        order = np.argsort(-fraction, kind="stable")
        corner, weight = cell.copy(), [1 - fraction[order[0]]]
        weight += [fraction[a] - fraction[b] for a, b in pairwise(order)] + [fraction[order[-1]]]
        out[row] += weight[0] * nodes[np.ravel_multi_index(corner, (points,) * 4)]
        for axis, share in zip(order, weight[1:], strict=True):
            corner[axis] += 1
            out[row] += share * nodes[np.ravel_multi_index(corner, (points,) * 4)]
    return out


@pytest.mark.parametrize("depth", [8, 16])
@pytest.mark.parametrize("inks", [1, 4, 6])
def test_the_kernel_is_its_obvious_twin(depth, inks):
    nodes = RANDOM.integers(0, 65536, (5**4, inks)).astype(np.uint16)
    link = Link(tuple("CMYKOG"[:inks]), 5, nodes, np.ones(inks), float(inks), "", 4)
    codes = RANDOM.integers(0, 2**depth, (300, 4)).astype(np.uint8 if depth == 8 else np.uint16)
    codes[:3] = [[0] * 4, [2**depth - 1] * 4, [0, 2**depth - 1, 0, 0]]
    values = codes / (2**depth - 1)
    found = link.inks_of(codes, 16)
    assert np.abs(found - _twin(nodes, 5, values)).max() <= 6
    grid = ValueGrid(5, nodes.astype(np.float32), 4)
    assert np.abs(grid.at(codes) - _twin(nodes, 5, values)).max() <= 6
    used = nodes_used(codes, 5)
    sparse = Link(
        link.inks, 5, np.where(used[:, None], nodes, 0).astype(np.uint16), np.ones(inks), float(inks), "", 4
    )
    assert np.array_equal(sparse.inks_of(codes, 16), found)


def _line(condition, keep=(), method="rebuilt", intent="relative", slug="cotton-54t", total=230):
    ink = InkStation(method, InkLimits(total), BLACK_PRESETS["gcr"], keep=keep)
    return compile_recipe(Recipe(aim=AimStation(intent), ink=ink), condition(slug), profile_of("halden-silk-150"))


@pytest.fixture(scope="module")
def wrap():
    """CMYK codes (h, w, 4): pure ramps of every ink, overprints, grays, noise under 300 %."""
    ramp = np.linspace(0, 255, 64).astype(np.uint8)
    rows = np.zeros((12, 64, 4), np.uint8)
    for ink in range(4):
        rows[ink, :, ink] = ramp
    rows[4, :, 1] = rows[4, :, 2] = ramp
    rows[5, :, 0] = rows[5, :, 2] = ramp
    noise = RANDOM.integers(1, 190, (6, 64, 4))
    rows[6:] = noise
    return rows


def test_what_is_kept_stays_pure_to_the_last_code(condition, wrap):
    line = _line(condition, ("K", "C", "M", "Y", "MY"))
    found = line.link.inks_of(wrap)
    assert found[0, 0].max() == 0
    for row, inks in ((0, [0]), (1, [1]), (2, [2]), (3, [3]), (4, [1, 2])):
        others = [k for k in range(4) if k not in inks]
        assert found[row][:, others].max() == 0, row
        assert (np.diff(found[row][:, inks].astype(int), axis=0) >= 0).all()
        # A solid stays a solid.
        assert found[row, -1, inks[0]] == 255
    # What is not named is separated like everything else.
    free = _line(condition).link.inks_of(wrap)
    assert np.array_equal(found[5, 30:], free[5, 30:]) and found[5, 30:, [1, 3]].max() > 0
    assert found.sum(axis=-1, dtype=int).max() <= 2.3 * 255


def test_kept_tones_look_alike_and_the_rest_is_held(condition, wrap):
    line, plain = _line(condition, ("K",)), _line(condition)
    places = PixelGrid.rows(0, 12, 64, 12)
    # Pure black prints what is wanted, as nearly as pure black can; ΔE00 3.7 to 6.1 when only its steps were kept.
    there, here = line.wanted(wrap, places)[3], line.printed(wrap, places)[3]
    tints = np.zeros((501, 4))
    tints[:, 3] = np.linspace(0, 1, 501)
    least = delta_e_2000(there[:, None].astype(float), line.condition.model.lab(tints)[None]).min(axis=1)
    assert (delta_e_2000(there.astype(float), here.astype(float)) - least)[:-1].max() <= 0.5
    source = line.source.profile
    there = cmm.to_lab(source, RANDOM.random((4000, 4)) * [0.6, 0.6, 0.6, 0.4])
    inside = delta_e_2000(plain.condition.model.lab(plain.inverse.inks(there)), there) < 0.5
    assert inside.mean() > 0.3
    codes = np.rint(cmm.from_lab(source, there[inside]) * 65535).astype(np.uint16)
    exact = plain.inks(codes / 65535.0)
    error = delta_e_2000(
        plain.condition.model.lab(plain.link.values(codes / 65535.0)), plain.condition.model.lab(exact)
    )
    assert error.mean() < 0.4 and np.percentile(error, 99) < 1.6


def test_numbers_of_kept_inks_stay_where_that_is_wanted(condition, wrap):
    line = _line(condition, ("K", "C"))
    kept = compile_recipe(
        replace(line.recipe, ink=replace(line.recipe.ink, keep_as="numbers")), line.condition, line.source.profile
    )
    ramp = np.zeros((2, 256, 4), np.uint8)
    ramp[0, :, 3] = ramp[1, :, 0] = np.arange(256)
    codes = kept.link.inks_of(ramp)
    cap = round(kept.bounds[0][3] * 255)
    assert np.abs(codes[0, :, 3].astype(int) - np.minimum(np.arange(256), cap)).max() <= 4
    assert np.abs(codes[1, :, 0].astype(int) - np.arange(256)).max() <= 1
    assert codes[0, 1:, :3].max() == 0 and codes[1, 1:, 1:].max() == 0
    # By the look newsprint's heavy dots become lighter tints on this mesh, or darker ones.
    assert np.abs(line.link.inks_of(ramp)[1, :, 0].astype(int) - np.arange(256)).max() > 6


def test_a_compact_profile_of_inks_is_a_source_and_a_condition(condition, wrap, tmp_path):
    """One of class input, with the way from inks to colors only, was set aside."""
    whole = condition("halden-silk-150").profile
    tags = {name: whole.tags[name] for name in ("desc", "cprt", "wtpt", "A2B0")}
    compact = write(Profile(Header("scnr", "CMYK", "Lab "), tags))
    Image.fromarray(wrap, "CMYK").save(tmp_path / "wrap.tif", icc_profile=compact.raw)
    artwork = open_artwork(tmp_path / "wrap.tif")
    assert artwork.profile is not None and artwork.notes == ()
    recipe = Recipe(ink=InkStation("rebuilt", InkLimits(230), keep=("K",)))
    line = compile_recipe(recipe, condition("cotton-54t"), compact)
    like = compile_recipe(recipe, condition("cotton-54t"), whole)
    assert line.link.inks_of(wrap).sum(axis=-1, dtype=int).max() <= 2.3 * 255
    places = PixelGrid.rows(0, 12, 64, 12)
    assert delta_e_2000(line.printed(wrap, places), like.printed(wrap, places)).mean() < 1.5
    known = Library(tmp_path / "cache").condition(compact)
    assert known.model.inks == ("C", "M", "Y", "K")
    rgb = compile_recipe(Recipe(ink=InkStation("rebuilt", InkLimits(320))), known, rgb_profile("sRGB"))
    assert delta_e_2000(known.model.lab(rgb.inks([[0.5, 0.5, 0.5]])), rgb.wanted_lab([[0.5, 0.5, 0.5]])).max() < 0.3
    with pytest.raises(IccError, match="Choose rebuilt"):
        compile_recipe(Recipe(ink=InkStation("as-profiled")), known, rgb_profile("sRGB"))
    with pytest.raises(IccError, match="cannot be judged"):
        judge(compact)


def test_as_profiled_is_what_littlecms_says(condition, wrap):
    line = _line(condition, method="as-profiled", slug="tern-news-45")
    exact = cmm.convert(line.source.profile, line.condition.profile, wrap / 255.0, "relative", bpc=True)
    assert np.abs(line.link.inks_of(wrap) - exact * 255).max() <= 1


def test_perceptual_takes_cmyk_too(condition, wrap):
    line = _line(condition, intent="perceptual", slug="tern-news-45", total=240)
    printed = line.printed(wrap, PixelGrid.rows(0, 12, 64, 12))
    assert printed[..., 0].min() < 40 and line.link.inks_of(wrap).sum(axis=-1, dtype=int).max() <= 2.4 * 255


def test_the_device_link_is_read_back_by_littlecms(condition, wrap):
    line = _line(condition, ("K", "M"))
    link = parse(line.baked.to_profile("wrap", line.source.profile, line.condition.profile).raw)
    assert (link.header.space, link.header.pcs) == ("CMYK", "CMYK")
    values = wrap[:4].reshape(-1, 4) / 255.0
    theirs = cmm.through_link(link, line.condition.profile, values)
    ours = cmm.to_lab(line.condition.profile, line.link.values(values))
    assert delta_e_2000(theirs, ours).max() < 0.8
    # Other software rounds every ink of 8 bit by itself, 300.39 of 300 %: the link leaves room for that.
    table = link.tags["A2B0"].grid
    assert np.rint(table * 255).sum(axis=-1).max() <= 2.3 * 255


def test_grid_order_and_what_cannot_be_kept(condition):
    assert device_grid(3, 4)[1].tolist() == [0, 0, 0, 0.5]
    with pytest.raises(RecipeError, match="O cannot be kept"):
        _line(condition, ("O",)).inks(np.zeros((1, 4)))
    rgb = compile_recipe(
        Recipe(ink=InkStation("rebuilt", InkLimits(230), keep=("K",))), condition("cotton-54t"), rgb_profile("sRGB")
    )
    # RGB artwork has no inks to keep: the setting waits for artwork that has.
    assert rgb.inks(np.zeros((1, 3))).shape == (1, 4)


@pytest.mark.parametrize("depth", [8, 16])
def test_a_picture_as_profiled_is_looked_up_by_color_to_the_same_codes(condition, depth, monkeypatch):
    """Pixel by pixel through LittleCMS 40 megapixels took half a minute; colors come again. Few, more than the table holds
    at a time, and more in one piece than it holds at all; two threads at once, and a conversion that fails."""
    link = compile_recipe(
        Recipe(aim=AimStation("relative", True), ink=InkStation("as-profiled")), condition("tern-news-45"),
        profile_of("halden-silk-150"),
    ).link  # fmt: skip
    assert isinstance(link, ProfiledLink)
    palette = RANDOM.integers(0, 256, (3000, 4)).astype(np.uint8)
    pixels = palette[RANDOM.integers(0, 3000, (400, 400))]
    kind = np.dtype(np.uint8 if depth == 8 else np.uint16)
    exact = link._exact(pixels.reshape(-1, 4), kind).reshape(pixels.shape)
    for slots in (1 << 22, 1 << 12, 1 << 8):
        monkeypatch.setattr(met_colors, "_SLOTS", slots)
        monkeypatch.setattr(met_colors, "_SHIFT", 33 - slots.bit_length())
        link._met.clear()
        with ThreadPoolExecutor(2) as pool:
            halves = list(pool.map(link.inks_of, (pixels, pixels[::-1]), (depth, depth)))
        assert np.array_equal(halves[0], exact) and np.array_equal(halves[1], exact[::-1])
        for at in range(0, 400, 2):
            assert np.array_equal(link.inks_of(pixels[at : at + 2], depth), exact[at : at + 2])

    met = met_colors.MetColorsOfFour(lambda colors: 1 // 0, 4, kind)
    for _ in range(2):
        with pytest.raises(ZeroDivisionError):
            met.inks_of(palette)
