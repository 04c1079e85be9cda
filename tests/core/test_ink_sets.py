"""One to eight inks of any kind and order, end to end: data, profile, proof, TIFF, PDF, films, run sheet."""

import os
import zipfile

import numpy as np
import pikepdf
import pytest
import tifffile

from plinto_core.artwork.opened import open_artwork
from plinto_core.chain.compiled import compile_recipe
from plinto_core.chain.library import compute_condition
from plinto_core.deliver.film import FilmSettings
from plinto_core.deliver.separate import separate
from plinto_core.icc.profile import parse
from plinto_core.icc.standard import rgb_profile
from plinto_core.icc.values import Colorants
from plinto_core.press.cgats import read_measurements
from plinto_core.press.chart import characterization_chart
from plinto_core.press.fit import fit_model
from plinto_core.press.measurements import Measurements
from plinto_core.recipe import AimStation, DeliverStation, InkStation, Recipe
from plinto_core.separation.black import usual_black
from plinto_core.separation.build_profile import BuildSettings, build_output_profile
from plinto_core.separation.inverse import InkLimits
from plinto_demo.inks import BLACK, BLUE, CYAN, MAGENTA, ORANGE, YELLOW, Band, Ink, Stock
from plinto_demo.press import Instrument, Press

RED = Ink("Red", (Band(500, 60, 1.5), Band(430, 60, 1.2)), 0.02)
CORAL = Ink("Coral 12", (Band(500, 50, 1.2), Band(430, 40, 0.8)), 0.02)
VIOLET = Ink("Violet", (Band(560, 60, 1.4), Band(610, 50, 0.9)), 0.03)
GREEN = Ink("Green", (Band(640, 80, 1.3), Band(430, 50, 1.1)), 0.03)
SETS = {
    "black": ((BLACK,), "GRAY"),
    "black and red": ((BLACK, RED), "2CLR"),
    "three process inks": ((CYAN, MAGENTA, YELLOW), "CMY "),
    "four spot inks": ((BLACK, RED, ORANGE, BLUE), "4CLR"),
    "a name of its own": ((CYAN, CORAL, YELLOW, BLACK, VIOLET), "5CLR"),
    # Six inks go all the way in the shop's own Sateen Reactive.
    "six": ((CYAN, MAGENTA, YELLOW, BLACK, ORANGE, GREEN), "6CLR"),
    "seven, not in the usual order": ((BLACK, CYAN, MAGENTA, YELLOW, ORANGE, GREEN, VIOLET), "7CLR"),
    "eight": ((CYAN, MAGENTA, YELLOW, BLACK, ORANGE, GREEN, VIOLET, RED), "8CLR"),
}


def _data(inks):
    press = Press(inks, Stock("Coated", 0.92, 0.0, 0.008), (1.0,) * len(inks), (0.15,) * len(inks), 0.93, 1.8)
    dots = characterization_chart(len(inks), {1: 60, 2: 150, 3: 300}.get(len(inks), 420))
    spectra, xyz = Instrument(3).measure(press.reflectance(dots))
    return Measurements(tuple(ink.name for ink in inks), dots, xyz, spectra, "A set of inks")


#: `make fuzz` takes all of them; a plain run leaves out what takes longest.
LONG = {"six", "seven, not in the usual order", "eight"} if "PLINTO_FUZZ" not in os.environ else set()


@pytest.mark.parametrize("name", [name for name in SETS if name not in LONG])
def test_an_ink_set_goes_all_the_way_with_its_names(name, tmp_path):
    inks, space = SETS[name]
    names, count = tuple(ink.name for ink in inks), len(inks)
    data, _ = read_measurements(_data(inks).to_cgats().encode(), "set.txt")
    assert data.inks == names
    model = fit_model(data).model
    limits, black = InkLimits(min(100.0 * count, 260.0)), usual_black(model.inks)
    built = parse(build_output_profile(model, BuildSettings("Set", limits, black, grid=9)).raw)
    assert built.header.space == space
    if space.endswith("CLR"):
        assert isinstance(built.tags["clrt"], Colorants) and built.tags["clrt"].names == names
    known = compute_condition(built, tmp_path / "cache")
    assert tuple(known.model.name_of(ink) for ink in known.model.inks) == names
    source = tmp_path / "card.tif"
    pixels = np.random.default_rng(2).integers(0, 256, (40, 60, 3)).astype(np.uint8)
    tifffile.imwrite(source, pixels, photometric="rgb", iccprofile=rgb_profile("sRGB").raw)
    artwork = open_artwork(source)
    recipe = Recipe(aim=AimStation("relative"), ink=InkStation("rebuilt", limits, black))

    baked = compile_recipe(recipe, known, rgb_profile("sRGB"))

    def deliver(suffix, **settings):
        path = tmp_path / f"out{suffix}"
        chain = baked.delivering(DeliverStation(**settings))
        return path, separate(artwork, chain, path), chain

    path, outcome, chain = deliver(".tif", format="tiff")
    with tifffile.TiffFile(path) as tiff:
        page = tiff.pages[0]
        assert page.photometric == tifffile.PHOTOMETRIC.SEPARATED and page.samplesperpixel == count
        written = page.asarray().reshape(artwork.height, artwork.width, count)
        assert page.tags["InkSet"].value == (1 if space == "CMYK" else 2)
        assert page.tags["InkNames"].value.split("\0")[:count] == list(names)
        assert page.tags["NumberOfInks"].value == count and "ExtraSamples" not in page.tags
        assert len(tiff.pages) == 1
    assert written.sum(axis=-1, dtype=int).max() <= limits.total_percent * 2.55 + 1e-6
    assert written.max() > 40 and outcome.largest_percent <= limits.total_percent + 1e-6
    assert np.array_equal(written, chain.link.inks_of(pixels, 8))
    path, *_ = deliver(".pdf", format="pdf")
    with pikepdf.open(path) as pdf:
        (image,) = pdf.pages[0].images.values()
        assert [str(ink) for ink in image.ColorSpace[1]] == [f"/{each}" for each in names]
    path, *_ = deliver(".zip", format="films", film=FilmSettings(halftone=False, container="tiff"))
    if count > 1:
        with zipfile.ZipFile(path) as archive:
            assert [each.split(" ", 1)[1] for each in archive.namelist()] == [f"{ink}.tif" for ink in names]
