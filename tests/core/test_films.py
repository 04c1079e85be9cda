"""Films: the dots cover what the tone says, at any angle and shape; sheets, margins, PDF, ZIP, negatives."""

import hashlib
import io
import zipfile

import numpy as np
import pikepdf
import pypdfium2
import pytest
import tifffile
from hypothesis import example, given
from hypothesis import strategies as st

from plinto_core.adjust.curves import apply_curve
from plinto_core.adjust.regions import PixelGrid
from plinto_core.chain.compiled import compile_recipe
from plinto_core.colorimetry import delta_e_2000
from plinto_core.deliver.halftone import halftoned, threshold_table
from plinto_core.deliver.read_back import film_digests
from plinto_core.deliver.separate import separate
from plinto_core.deliver.tiff_out import write_film_tiff
from plinto_core.deliver.tone_table import from_cube, parse_wedge, table_from_wedge, to_cube
from plinto_core.deliver.wedge_sheet import write_wedge_sheet
from plinto_core.errors import RecipeError, ToneTableError
from plinto_core.icc import cmm
from plinto_core.icc.standard import rgb_profile
from plinto_core.raster.opened import open_artwork
from plinto_core.recipe import DeliverStation, InkStation, NegativeSettings, Recipe
from plinto_core.recipe.black import BLACK_PRESETS
from plinto_core.recipe.film import FilmSettings, ToneTable
from plinto_core.recipe.limits import InkLimits
from plinto_core.screen.proof import Renderer, RenderRequest

SHAPES = ["round", "elliptical", "line"]


@pytest.mark.parametrize("shape", SHAPES)
def test_every_level_takes_its_even_share_of_the_cell(shape):
    table = threshold_table(shape)
    assert table.max() <= 65534
    for tone in (0, 1000, 20000, 32768, 60000, 65535):
        assert (tone > table).mean() == pytest.approx(tone / 65535, abs=2e-5)


@given(
    tone=st.integers(0, 65535), angle=st.floats(0, 179), shape=st.sampled_from(SHAPES), ruling=st.floats(20, 60)
)  # fmt: skip
@example(tone=12452, angle=0.0, shape="line", ruling=60.0)
@example(tone=11101, angle=90.0, shape="round", ruling=60.0)
def test_dots_cover_what_the_tone_says(tone, angle, shape, ruling):
    settings = FilmSettings(dpi=1200, ruling_lpi=ruling, shape=shape, angles=(("K", angle),))
    tones = np.full((600, 600), tone, np.uint16)
    covered = halftoned(tones, 0, 0, settings, "K", 0).mean()
    # At 0° and 90° a cell of twenty pixels has twenty lines, or four hundred dots, and no two of them come at once: a round
    # dot was 4.1 % off, lines 4.6.
    assert covered == pytest.approx(tone / 65535, abs=0.03 if shape == "line" else 0.012)


def test_pieces_of_a_film_fit_together():
    settings = FilmSettings(dpi=1200, ruling_lpi=60)
    tones = np.tile(np.linspace(0, 65535, 400).astype(np.uint16), (200, 1))
    whole = halftoned(tones, 0, 0, settings, "C", 0)
    assert np.array_equal(halftoned(tones[70:120, 50:90], 50, 70, settings, "C", 0), whole[70:120, 50:90])


def test_the_screen_runs_at_its_ruling_and_angle():
    settings = FilmSettings(dpi=1200, ruling_lpi=60, angles=(("K", 30.0),))
    dots = halftoned(np.full((1024, 1024), 30000, np.uint16), 0, 0, settings, "K", 0).astype(float)
    power = np.abs(np.fft.fft2(dots - dots.mean()))
    y, x = np.unravel_index(power.argmax(), power.shape)
    fx, fy = (np.fft.fftfreq(1024)[k] * 1200 for k in (x, y))
    assert np.hypot(fx, fy) == pytest.approx(60, abs=1.5)
    assert np.degrees(np.arctan2(fy, fx)) % 90 == pytest.approx(30, abs=1.5)


def _line(condition, deliver):
    recipe = Recipe(ink=InkStation("rebuilt", InkLimits(220), BLACK_PRESETS["gcr"]), deliver=deliver)
    return compile_recipe(recipe, condition("cotton-54t"), rgb_profile("opRGB"))


def _written(condition, photo_tiff, out, **film):
    deliver = DeliverStation(format="films", film=FilmSettings(**film))
    line = _line(condition, deliver)
    return line, separate(open_artwork(photo_tiff), line, out)


def test_gray_films_hold_the_plates(condition, photo_tiff, photo, tmp_path):
    line, outcome = _written(
        condition, photo_tiff, tmp_path / "f.zip", halftone=False, marks=False, container="tiff", mirrored=True
    )
    plates = line.ink_codes(photo, PixelGrid.rows(0, 240, 320, 240), 16)
    with zipfile.ZipFile(tmp_path / "f.zip") as archive:
        assert archive.namelist() == [f"photo {ink}.tif" for ink in ("Cyan", "Magenta", "Yellow", "Black")]
        for index, name in enumerate(archive.namelist()):
            film = tifffile.imread(io.BytesIO(archive.read(name)))
            expected = (plates[..., index].astype(int) * 255 + 32767) // 65535
            assert np.array_equal(film[:, ::-1], expected)
    assert outcome.largest_percent <= 220 + 1e-9


def test_halftone_films_have_their_size_marks_and_both_senses(condition, photo_tiff, tmp_path):
    films = {}
    for negative in (False, True):
        path = tmp_path / f"{negative}.zip"
        _written(condition, photo_tiff, path, dpi=600, ruling_lpi=45, negative=negative, container="tiff")
        with zipfile.ZipFile(path) as archive:
            films[negative] = tifffile.imread(io.BytesIO(archive.read("photo Black.tif")))
    margin = round(9 / 25.4 * 600)
    assert films[False].shape == (240 * 2 + 2 * margin, 320 * 2 + 2 * margin)
    picture = slice(margin, -margin), slice(margin, -margin)
    assert np.array_equal(films[True][picture], ~films[False][picture])
    # The wedge, the name and four register marks stand in the margin; the rest of it is clear.
    assert 0.003 < films[False][:margin].mean() < 0.1
    assert 0.02 < films[False][-margin:].mean() < 0.2
    assert films[False][margin:-margin, :margin].any() and films[False][margin:-margin, -margin:].any()


def test_films_are_read_back_and_one_bit_off_is_seen(condition, photo_tiff, tmp_path):
    """What `film_digests` gives is of the dots in the file: the same for ZIP and PDF, another for one bit turned."""
    for name in ("f.zip", "f.pdf"):
        container = "tiff" if name.endswith("zip") else "pdf"
        _written(condition, photo_tiff, tmp_path / name, dpi=600, ruling_lpi=45, container=container)
    digests = film_digests(tmp_path / "f.zip")
    assert len(set(digests)) == 4 and film_digests(tmp_path / "f.pdf") == digests
    with zipfile.ZipFile(tmp_path / "f.zip") as archive:
        dots = tifffile.imread(io.BytesIO(archive.read("photo Black.tif"))).copy()
    rows = np.packbits(dots, axis=1)
    assert hashlib.sha256(rows).digest() == digests[3]
    rows[300, 40] ^= 1
    write_film_tiff(tmp_path / "one.tif", iter([rows]), (dots.shape[1], dots.shape[0]), 1, 600)
    assert film_digests(tmp_path / "one.tif") != digests[3:]


def test_the_pdf_has_a_page_an_ink_and_is_the_same_again(condition, photo_tiff, tmp_path):
    for name in ("a", "b"):
        _written(condition, photo_tiff, tmp_path / f"{name}.pdf", dpi=600, ruling_lpi=45)
    assert (tmp_path / "a.pdf").read_bytes() == (tmp_path / "b.pdf").read_bytes()
    document = pypdfium2.PdfDocument(tmp_path / "a.pdf")
    assert len(document) == 4
    width = document[0].get_width()
    assert width == pytest.approx(320 / 300 * 72 + 18 / 25.4 * 72, abs=0.5)
    shown = np.asarray(document[3].render(scale=2).to_pil().convert("L"))
    assert shown[:8, :8].min() > 250 and shown.min() < 40


def test_dots_on_the_screen_are_the_dots_of_the_film(condition, photo):
    line = _line(condition, DeliverStation(film=FilmSettings(dpi=1200, ruling_lpi=60)))
    places = PixelGrid.rows(0, 240, 320, 240)
    scene = Renderer(line, rgb_profile("sRGB"))
    part = photo[40:60, 100:140], places.cut(slice(40, 60), slice(100, 140))
    shown = scene.film(RenderRequest("film", plates=("K",)), *part, 4, 300)
    codes = line.ink_codes(photo, places, 16)[40:60, 100:140, 3].repeat(4, axis=0).repeat(4, axis=1)
    dots = halftoned(codes, 400, 160, line.recipe.deliver.film, "K", 3)
    assert np.array_equal(shown[..., 0], 255 - 255 * dots)
    together = scene.film(RenderRequest("film"), *part, 4, 300)
    assert together[dots == 1].mean() < together[dots == 0].mean() - 20


def test_a_contact_negative_is_the_lightness_turned_round(condition, photo_tiff, photo, tmp_path):
    film = FilmSettings(halftone=False, marks=False, mirrored=True, container="tiff")
    table = ToneTable(table_from_wedge([5, 20, 45, 70, 90]).curve)
    line = _line(condition, DeliverStation(format="negative", negative=NegativeSettings(table, film)))
    separate(open_artwork(photo_tiff), line, tmp_path / "n.tif")
    written = tifffile.imread(tmp_path / "n.tif")[:, ::-1] / 255
    lightness = line.lightness_grid.at(photo)[..., 0] / 100
    assert np.abs(written - apply_curve(table.curve, lightness)).max() < 0.01
    assert lightness.min() < 0.01 and lightness.max() > 0.99


def test_pdf_and_jpeg_pages_hold_the_inks_and_their_profile(condition, photo_tiff, photo, tmp_path):
    from PIL import Image

    for format_ in ("pdf", "jpeg"):
        line = _line(condition, DeliverStation(format=format_, jpeg_quality=100))
        separate(open_artwork(photo_tiff), line, tmp_path / f"o.{format_}")
    codes = line.ink_codes(photo, PixelGrid.rows(0, 240, 320, 240), 8)
    with Image.open(tmp_path / "o.jpeg") as image:
        assert image.mode == "CMYK" and image.info["icc_profile"] == line.condition.profile.raw
        assert np.abs(np.asarray(image).astype(int) - codes).mean() < 2
    with pikepdf.open(tmp_path / "o.pdf") as pdf:
        image = pdf.pages[0].images["/Plinto0"]
        assert np.array_equal(np.frombuffer(image.read_bytes(), np.uint8).reshape(240, 320, 4), codes)
        intent = pdf.Root.OutputIntents[0]
        assert str(intent.OutputConditionIdentifier) == "Cotton 54T"
        assert bytes(intent.DestOutputProfile.read_bytes()) == line.condition.profile.raw


def test_a_hard_proof_is_one_page_in_inks_within_the_limit(condition, photo_tiff, tmp_path):
    line = _line(condition, DeliverStation(format="hard-proof"))
    separate(open_artwork(photo_tiff), line, tmp_path / "h.pdf")
    with pikepdf.open(tmp_path / "h.pdf") as pdf:
        pictures = pdf.pages[0].images
        assert len(pictures) == 3
        for picture in pictures.values():
            inks = np.frombuffer(picture.read_bytes(), np.uint8).reshape(-1, 4)
            assert inks.sum(axis=1, dtype=int).max() <= 2.2 * 255
    text = pypdfium2.PdfDocument(tmp_path / "h.pdf")[0].get_textpage().get_text_range()
    for words in ("Hard proof", "Total ink 220 %", "Approved by", "paper"):
        assert words in text


@pytest.mark.parametrize("halftone", [True, False])
def test_the_film_of_a_wedge_lets_each_step_through_by_its_share(halftone, tmp_path):
    """Exposed through a process that is even already, its measured steps make a straight table."""
    film = FilmSettings(halftone=halftone, dpi=600, ruling_lpi=60, mirrored=True, marks=False, container="tiff")
    write_wedge_sheet(tmp_path / "wedge.tif", film)
    with tifffile.TiffFile(tmp_path / "wedge.tif") as tiff:
        opaque = tiff.asarray()[:, ::-1].astype(float) / (1 if halftone else 255)
        dpi = tiff.pages[0].tags["XResolution"].value[0] / tiff.pages[0].tags["XResolution"].value[1]
    assert dpi == (600 if halftone else 300)
    mm = dpi / 25.4
    shares = []
    for step in range(21):
        x, y = (5 + step % 7 * 23) * mm, (5 + step // 7 * 23) * mm
        shares.append(opaque[int(y + 2 * mm) : int(y + 16 * mm), int(x + 2 * mm) : int(x + 16 * mm)].mean())
    assert np.abs(np.array(shares) - np.linspace(0, 1, 21)).max() < 0.01
    table = table_from_wedge(100 * np.array(shares))
    assert np.abs(np.diff(np.array(table.curve.points), axis=1)).max() < 0.01
    # The numbers are there, between the patches, where the film is opaque otherwise.
    below = opaque[int(23.5 * mm) : int(26.5 * mm)]
    assert 0.9 < below.mean() < 0.999


@given(st.lists(st.floats(0, 100), min_size=21, max_size=21))
def test_a_wedge_gives_a_table_that_makes_the_print_even(steps):
    measured = np.sort(np.array(steps))
    if measured[-1] - measured[0] < 10:
        with pytest.raises(ToneTableError, match="only spans"):
            table_from_wedge(measured)
        return
    table = table_from_wedge(measured[::-1] if steps[0] > 50 else measured)
    wanted = np.linspace(0, 1, 21)
    printed = np.interp(apply_curve(table.curve, wanted), np.linspace(0, 1, 21), measured)
    even = measured[0] + wanted * (measured[-1] - measured[0])
    # A step of the wedge is as fine as the table can know.
    assert np.abs(printed - even).max() <= np.diff(measured).max() + 0.5


def test_cubes_come_back_and_bad_tables_say_why():
    table = table_from_wedge(parse_wedge("8 12 19 30 44 60 74 85 92 95 96"))
    again = from_cube(to_cube(table, 'a "title"\nof two lines'))
    x = np.linspace(0, 1, 50)
    assert np.abs(apply_curve(again.curve, x) - apply_curve(table.curve, x)).max() < 0.01
    bad = {
        "three-dimensional": lambda: from_cube("LUT_3D_SIZE 2\n"),
        "promises 3 rows": lambda: from_cube("LUT_1D_SIZE 3\n0 0 0\n1 1 1\n"),
        "leaves the range": lambda: from_cube("LUT_1D_SIZE 2\n0 0 0\n2 2 2\n"),
        "Line 2": lambda: from_cube("LUT_1D_SIZE 2\nzero\n"),
        "5 to 101 steps": lambda: table_from_wedge([1, 2]),
        "measure it again": lambda: table_from_wedge([0, 40, 20, 60, 90]),
        "cannot be read": lambda: parse_wedge("dark middling light"),
        "neither LAB_L": lambda: parse_wedge("BEGIN_DATA_FORMAT\nX\nEND_DATA_FORMAT\nBEGIN_DATA\n1\nEND_DATA"),
        "from 0 to 255": lambda: from_cube("LUT_1D_SIZE 2\nDOMAIN_MAX 255 255 255\n0 0 0\n1 1 1\n"),
        "Line 1": lambda: from_cube("DOMAIN_MAX 1 1 0.5\nLUT_1D_SIZE 2\n0 0 0\n1 1 1\n"),
        "differ by up to 0.200": lambda: from_cube("LUT_1D_SIZE 2\n0 0 0\n1 1 0.8\n"),
        "no finite number": lambda: parse_wedge(
            "BEGIN_DATA_FORMAT\nLAB_L\nEND_DATA_FORMAT\nBEGIN_DATA\nnan\nEND_DATA"
        ),
    }
    for words, act in bad.items():
        with pytest.raises(ToneTableError, match=words):
            act()
    assert parse_wedge("BEGIN_DATA_FORMAT\nID LAB_L\nEND_DATA_FORMAT\nBEGIN_DATA\n1 5,5\n2 9\nEND_DATA") == [5.5, 9]


SMOOTH = {
    "steep toe": (lambda sent: 8 + 88 * sent**0.45, 2.0),
    "flat toe": (lambda sent: 8 + 88 * sent**2.4, 0.05),
    "both": (lambda sent: 8 + 88 / (1 + np.exp(-9 * (sent - 0.5))), 0.05),
}


@pytest.mark.parametrize("process", SMOOTH)
def test_between_the_steps_of_a_wedge_the_print_is_even_too(process):
    """Of 21 steps the table was read in straight lines at other places than its steps: L* 6.5, 0.95 and 0.47 off."""
    prints, most = SMOOTH[process]
    table = table_from_wedge(prints(np.linspace(0, 1, 21)))
    wanted = np.linspace(0, 1, 1001)
    printed = prints(apply_curve(table.curve, wanted))
    assert np.abs(printed - (prints(0.0) + wanted * (prints(1.0) - prints(0.0)))).max() < most


@pytest.mark.parametrize("gamma", [0.3, 0.45, 2.2, 3])
def test_a_cube_is_read_to_a_fraction_of_a_code_where_it_is_steep_too(gamma):
    """At 32 even places a gamma of 0.45 was 12.5 codes of 8 bits off, one of 0.3 was 33."""
    values = np.linspace(0, 1, 256) ** gamma
    rows = "\n".join(f"{v:.6f} {v:.6f} {v:.6f}" for v in values)
    again = from_cube(f'TITLE "a # in it"\r\nLUT_1D_SIZE 256\n# the rows\n{rows}')
    assert np.abs(apply_curve(again.curve, np.linspace(0, 1, 256)) - values).max() * 255 < 0.2


def test_a_cube_is_read_over_the_range_that_it_is_for():
    """The range was passed over: half of the tones would have been stretched to all."""
    half = from_cube("LUT_1D_SIZE 3\nLUT_1D_INPUT_RANGE 0 0.5\n0 0 0\n0.2 0.2 0.2\n0.6 0.6 0.6\n")
    assert np.allclose(apply_curve(half.curve, np.array([0, 0.25, 0.5, 0.9])), [0, 0.2, 0.6, 0.6], atol=1e-6)


@pytest.mark.parametrize(
    "text",
    [
        "8.1, 12.4, 19, 30", "8.1,12.4,19,30", "8,1 12,4 19 30", "8,1;12,4;19;30", "8.1\n12.4\n19\n30\n",
        "Step;L*;a*;b*\n1;8,1;0;0\n2;12,4;0;0\n3;19;0;0\n4;30;0;0\n",
        "CGATS.17\nBEGIN_DATA_FORMAT\nID XYZ_X XYZ_Y XYZ_Z\nEND_DATA_FORMAT\nBEGIN_DATA\n"
        "1 .8647 .8968 .7398\n2 1.4151 1.4675 1.2107\n3 2.6593 2.7579 2.2751\n4 6.0003 6.2359 5.1442\nEND_DATA\n",
    ],
    ids=["commas", "commas and points", "decimal commas", "semicolons", "lines", "a table", "XYZ"],
)  # fmt: skip
def test_a_wedge_is_read_as_people_write_it(text):
    assert parse_wedge(text) == pytest.approx([8.1, 12.4, 19, 30], abs=0.05)


def test_films_that_cannot_be_made_are_refused():
    for words, settings in (("no film", {"dpi": 100}), ("three times that", {"ruling_lpi": 190, "dpi": 300}),
                            ("round, elliptical", {"shape": "star"})):  # fmt: skip
        with pytest.raises(RecipeError, match=words):
            FilmSettings(**settings)


def test_from_afar_the_rosette_is_the_proof(condition):
    """Dots were mixed in display values and without their gain on press: blue looked bright where the proof is dark."""
    settings = FilmSettings(dpi=2400, ruling_lpi=150)
    recipe = Recipe(ink=InkStation("rebuilt", InkLimits(230)), deliver=DeliverStation(format="films", film=settings))
    line = compile_recipe(recipe, condition("cotton-54t"), rgb_profile("sRGB"))
    display = rgb_profile("sRGB")
    scene = Renderer(line, display)
    for color in ([0.2, 0.25, 0.7], [0.8, 0.3, 0.2], [0.5, 0.5, 0.45], [0.3, 0.6, 0.35]):
        patch = np.broadcast_to(np.rint(np.array(color) * 65535).astype(np.uint16), (60, 60, 3)).copy()
        part = patch, PixelGrid.rows(0, 60, 60, 60)
        light = (scene.film(RenderRequest("film"), *part, 5, 300) / 255.0) ** 2.2
        proof = scene.render(RenderRequest("print"), *part)[0, 0] / 255.0
        seen, shown = (cmm.to_lab(display, value) for value in (light.mean(axis=(0, 1)) ** (1 / 2.2), proof))
        assert delta_e_2000(seen, shown) <= 2
