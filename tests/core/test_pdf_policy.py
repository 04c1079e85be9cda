"""Documents through policies: what is written, read again by other means, drawn, and taken apart into plates."""

import ctypes
import io
import json
import re
import zlib
from dataclasses import replace
from pathlib import Path

import imagecodecs
import numpy as np
import pikepdf
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pikepdf import Array, Dictionary, Name, Pdf, Stream
from PIL import Image
from reportlab.lib.colors import CMYKColor, CMYKColorSep, Color
from reportlab.pdfgen.canvas import Canvas
from scipy.ndimage import minimum_filter

from plinto_core.adjust.regions import PixelGrid
from plinto_core.chain.compiled import compile_recipe
from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.colorimetry.lab import D50_XYZ, lab_to_xyz, xyz_to_lab
from plinto_core.errors import Cancelled, PlintoError, PolicyError
from plinto_core.icc import cmm
from plinto_core.icc.standard import rgb_profile
from plinto_core.pdf.apply import apply, rewritten
from plinto_core.pdf.compare import compare_sides
from plinto_core.pdf.conformance import said_of_itself
from plinto_core.pdf.draw import draw, saved
from plinto_core.pdf.plates import plates_of_page
from plinto_core.pdf.proof import ProofView, proof_page
from plinto_core.pdf.report import as_page, report, thumbnails_of
from plinto_core.pdf.side import Side
from plinto_core.pdf.tape import Tape
from plinto_core.policy.files import policy_from_file, policy_to_file
from plinto_core.policy.kinds import Catches, Found
from plinto_core.policy.policy import BlackOnly, Convert, Leave, Policy, Refuse, Row, policy_from_json
from plinto_core.policy.ready_made import READY_MADE
from plinto_core.policy.rule import DeliveryRule, rule_from_json
from plinto_core.policy.spots import Spot, spots_of
from plinto_core.policy.words import in_words
from plinto_core.recipe import AimStation, InkStation, Recipe
from plinto_core.recipe.limits import InkLimits
from tests.conftest import profile_of
from tests.core.test_pdf import calculated, icc, page_of, tint

ALL = READY_MADE["Everything into the condition"]
EVERYTHING = Policy("All", (Row(Catches(), Convert()),), rgb="sRGB", cmyk="destination")
LEAVE = READY_MADE["Leave and report"]
RULE = DeliveryRule()


@pytest.fixture(scope="module")
def press(condition):
    return condition("halden-silk-150")


@pytest.fixture
def sent(tmp_path, press):
    """Send a document through a policy; the outcome and the written document's path."""

    def send(pdf, policy=EVERYTHING, rule=RULE, condition=press, **more):
        path, out = tmp_path / "job.pdf", tmp_path / "out.pdf"
        out.unlink(missing_ok=True)
        pdf.save(path)
        done = apply(path, out, policy, rule, condition, limit=320, **more)
        return done, out

    return send


def form_of(pdf, content, **more):
    form = pdf.make_indirect(Stream(pdf, content))
    form.Type, form.Subtype, form.BBox = Name.XObject, Name.Form, Array([0, 0, 300, 300])
    for key, value in more.items():
        form[f"/{key}"] = value
    return form


def image_of(pdf, codes, space, bits=8, **more):
    codes = np.asarray(codes)
    image = Stream(pdf, zlib.compress(codes.tobytes()))
    image.Type, image.Subtype, image.Filter = Name.XObject, Name.Image, Name.FlateDecode
    if space is not None:
        image.ColorSpace = space
    image.Width, image.Height, image.BitsPerComponent = codes.shape[1], codes.shape[0], bits
    for key, value in more.items():
        image[f"/{key}"] = value
    return pdf.make_indirect(image)


def nasty():
    """One document with what breaks naive work; every paint in it has a color that is no press's."""
    pdf = Pdf.new()
    random = np.random.default_rng(2)
    rgb = random.integers(0, 256, (12, 16, 3), np.uint8)
    inherits = form_of(pdf, b"0 0 20 20 re f")
    nested = form_of(pdf, b"/G Do 0 1 1 rg 30 0 9 9 re f", Resources=Dictionary(XObject=Dictionary(G=inherits)))
    group = form_of(
        pdf, b"1 0.5 0 rg 0 0 40 40 re f", Group=Dictionary(S=Name.Transparency, CS=Name.DeviceRGB, I=True, K=True)
    )
    tile = pdf.make_indirect(Stream(pdf, b"1 0 0 rg 0 0 4 4 re f"))
    plain = pdf.make_indirect(Stream(pdf, b"0 0 4 4 re f"))
    for each, paint in ((tile, 1), (plain, 2)):
        each.PatternType, each.PaintType, each.TilingType, each.Resources = 1, paint, 1, Dictionary()
        each.BBox, each.XStep, each.YStep = Array([0, 0, 6, 6]), 6, 6
    axial = Dictionary(
        ShadingType=2, ColorSpace=Name.DeviceRGB, Coords=[0, 0, 100, 0], Domain=[0, 1],
        Function=Dictionary(FunctionType=2, Domain=[0, 1], C0=[0, 0, 1], C1=[1, 1, 0], N=1),
    )  # fmt: skip
    stitched = Dictionary(
        ShadingType=3, ColorSpace=Name.DeviceRGB, Coords=[50, 50, 0, 50, 50, 40], Domain=[0, 1],
        Function=Dictionary(
            FunctionType=3, Domain=[0, 1], Bounds=[0.4], Encode=[0, 1, 1, 0],
            Functions=[tint(pdf, (1, 0, 0)), tint(pdf, (0, 1, 0))],
        ),
    )  # fmt: skip
    plane = Dictionary(
        ShadingType=1, ColorSpace=Name.DeviceRGB, Domain=[0, 1, 0, 1], Matrix=[40, 0, 0, 40, 0, 0],
        Function=calculated(pdf, 2, 3, "2 copy mul"),
    )  # fmt: skip
    vertices = bytearray()
    for x, y, color in ((0, 0, (255, 0, 0)), (65535, 0, (0, 255, 0)), (0, 65535, (0, 0, 255))):
        vertices += bytes([0]) + x.to_bytes(2, "big") + y.to_bytes(2, "big") + bytes(color)
    mesh = pdf.make_indirect(Stream(pdf, bytes(vertices)))
    mesh.ShadingType, mesh.ColorSpace, mesh.Decode = 4, Name.DeviceRGB, Array([0, 60, 0, 60, 0, 1, 0, 1, 0, 1])
    mesh.BitsPerCoordinate, mesh.BitsPerComponent, mesh.BitsPerFlag = 16, 8, 8
    glyphs = Dictionary(
        a=pdf.make_indirect(Stream(pdf, b"9 0 0 0 9 9 d1 0 0 5 5 re f")),
        b=pdf.make_indirect(Stream(pdf, b"9 0 d0 0 0 1 rg 0 0 5 5 re f")),
    )
    type3 = Dictionary(
        Type=Name.Font, Subtype=Name.Type3, FontBBox=[0, 0, 9, 9], FontMatrix=[0.1, 0, 0, 0.1, 0, 0], CharProcs=glyphs,
        Encoding=Dictionary(Differences=[97, Name.a, Name.b]), FirstChar=97, LastChar=98, Widths=[9, 9], Resources={},
    )  # fmt: skip
    spot = Array(
        [
            Name.Separation,
            Name("/Lake green"),
            Name.DeviceRGB,
            calculated(pdf, 1, 3, "dup 1 exch sub exch pop 0.4 0.3"),
        ]
    )
    mask = form_of(pdf, b"0.2 g 0 0 40 40 re f", Group=Dictionary(S=Name.Transparency, CS=Name.DeviceRGB))
    soft = image_of(pdf, random.integers(0, 256, (12, 16), np.uint8), Name.DeviceGray)
    page = page_of(
        pdf,
        "1 0 0 rg /F Do 0 0.5 0 rg /N Do 0 0 1 RG 3 w 100 100 60 60 re S 0.1 0.6 0.4 rg 100 100 20 20 re B "
        "q 1 0 0 1 0 60 cm /Group Do Q /Pattern cs /T scn 60 0 30 30 re f /PU cs 0.9 0.8 0.1 /U scn 60 40 30 30 re f "
        "/Pattern cs /S scn 0 100 100 40 re f q 1 0 0 1 100 0 cm /Sh sh Q q 1 0 0 1 150 150 cm /St sh Q /Pl sh "
        "q 1 0 0 1 200 0 cm /M sh Q BT 0.5 0 0.5 rg /F3 12 Tf 10 250 Td (ab) Tj 3 Tr (a) Tj ET "
        "BT 0 Tr 0.2 0.4 0 rg /H 20 Tf 100 250 Td (Visible) Tj 3 Tr (Unseen) Tj ET "
        "/Spot cs 0.7 scn 200 200 30 30 re f /Idx cs 2 sc 240 200 30 30 re f /Cal cs 0.2 0.9 0.4 sc 270 200 20 20 re f "
        "/Lab cs 60 50 -40 sc 270 230 20 20 re f 0.6 g 270 260 20 20 re f "
        "q /Mask gs 1 0 1 rg 200 100 40 40 re f Q q /Mul gs 1 1 0 rg 210 110 40 40 re f Q "
        "q 40 0 0 30 10 150 cm /I8 Do Q q 40 0 0 30 60 150 cm /I16 Do Q q 40 0 0 30 10 190 cm /IP Do Q "
        "q 40 0 0 30 60 190 cm /IK Do Q q 40 0 0 30 10 220 cm /IM Do Q q 40 0 0 30 60 220 cm /I1 Do Q "
        "q 20 0 0 20 120 200 cm BI /W 2 /H 1 /CS /RGB /BPC 8 ID abcdef EI Q "
        "q 20 0 0 20 150 200 cm BI /W 4 /H 1 /CS /G /BPC 2 /D [1 0] ID \x1b EI Q",
        XObject=Dictionary(
            F=inherits, N=nested, Group=group, I8=image_of(pdf, rgb, Name.DeviceRGB, SMask=soft),
            I16=image_of(pdf, (rgb.astype(">u2") * 257), icc(pdf, rgb_profile("opRGB"), 3), 16, Decode=[1, 0, 0, 1, 0, 1]),
            IP=image_of(
                pdf, random.integers(0, 4, (12, 16), np.uint8),
                Array([Name.Indexed, Name.DeviceRGB, 3, pikepdf.String(bytes(range(0, 240, 20)))]),
            ),
            IK=image_of(pdf, rgb // 64 * 64, Name.DeviceRGB, Mask=[0, 64, 0, 255, 0, 255]),
            IM=image_of(pdf, np.full((12, 2), 0xA5, np.uint8), None, 1, ImageMask=True, Width=16),
            I1=image_of(pdf, np.full((12, 2), 0x0F, np.uint8), Name.DeviceGray, 1, Width=16),
        ),
        Pattern=Dictionary(T=tile, U=plain, S=Dictionary(PatternType=2, Shading=axial)),
        Shading=Dictionary(Sh=axial, St=stitched, Pl=plane, M=mesh),
        Font=Dictionary(F3=type3, H=Dictionary(Type=Name.Font, Subtype=Name.Type1, BaseFont=Name.Helvetica)),
        ColorSpace=Dictionary(
            PU=Array([Name.Pattern, Name.DeviceRGB]), Spot=spot,
            Idx=Array([Name.Indexed, Name.DeviceRGB, 2, pikepdf.String(b"\x00\x10\x20\x40\x50\x60\xf0\x20\x10")]),
            Cal=Array([Name.CalRGB, Dictionary(WhitePoint=[0.9505, 1, 1.089], Gamma=[2.2, 2.2, 2.2], Matrix=[
                0.4124, 0.2126, 0.0193, 0.3576, 0.7152, 0.1192, 0.1805, 0.0722, 0.9505])]),
            Lab=Array([Name.Lab, Dictionary(WhitePoint=[0.9642, 1, 0.8249], Range=[-128, 127, -128, 127])]),
        ),
        ExtGState=Dictionary(
            Mask=Dictionary(SMask=Dictionary(S=Name.Luminosity, G=mask)), Mul=Dictionary(BM=Name.Multiply, ca=0.5)
        ),
    )  # fmt: skip
    page.obj.Group = Dictionary(S=Name.Transparency, CS=Name.DeviceRGB)
    note = form_of(pdf, b"0 0 1 rg 0 0 20 10 re f", BBox=Array([0, 0, 20, 10]))
    page.Annots = Array([Dictionary(Subtype=Name.Square, Rect=[270, 0, 290, 10], F=4, AP=Dictionary(N=note))])
    return pdf


def maker_page():
    """A page as a library writes it: process colors, a spot, curves, text."""
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(300, 300))
    canvas.setFillColor(Color(0.8, 0.1, 0.3))
    canvas.circle(80, 80, 50, fill=1, stroke=0)
    canvas.setFillColor(CMYKColor(0.1, 0.7, 0.2, 0.1))
    canvas.roundRect(150, 40, 90, 60, 12, fill=1)
    canvas.setFillColor(CMYKColorSep(0, 0.6, 0.9, 0, spotName="Ember"))
    canvas.ellipse(40, 180, 120, 240, fill=1)
    canvas.setFillGray(0.3)
    canvas.drawString(150, 200, "Night garden")
    canvas.linearGradient(180, 220, 280, 280, (Color(0, 0, 1), Color(1, 1, 0)), extend=False)
    canvas.save()
    return pikepdf.open(io.BytesIO(out.getvalue()))


def everything_in(path):
    """Operators that set a color, and all color space names, of every stream that is still there; masks aside."""
    operators, families = set(), set()
    with pikepdf.open(path) as pdf:
        masks = {each["/SMask"].objgen for each in pdf.objects if isinstance(each, Stream) and "/SMask" in each}
        for page in pdf.pages:
            for state in dict(page.Resources.get("/ExtGState", {})).values():
                if isinstance(state.get("/SMask"), Dictionary):
                    masks.add(state["/SMask"]["/G"].objgen)
        for each in pdf.objects:
            if not isinstance(each, Stream) or each.objgen in masks:
                continue
            if "/ColorSpace" in each:
                space = each["/ColorSpace"]
                families.add(str(space if isinstance(space, Name) else space[1 if space[0] == "/Indexed" else 0]))
        streams = [each for page in pdf.pages for each in [page.Contents]]
        streams += [
            each for each in pdf.objects
            if isinstance(each, Stream) and each.objgen not in masks
            and (each.get("/Subtype") == "/Form" or "/PatternType" in each)
        ]  # fmt: skip
        for each in streams:
            operators |= {str(one.operator) for one in pikepdf.parse_content_stream(each)}
        for page in pdf.pages:
            for shading in dict(page.Resources.get("/Shading", {})).values():
                families.add(str(shading.ColorSpace))
    return operators & {"g", "G", "rg", "RG", "k", "K", "cs", "CS"}, families - {"None"}


def test_every_color_of_a_nasty_document_ends_in_the_destination(sent):
    done, out = sent(nasty())
    assert not done.refused and done.notes == []
    assert done.counts.keys() == {"convert"} and done.counts["convert"] > 30
    operators, families = everything_in(out)
    assert operators <= {"k", "K", "cs", "CS"} and families == {"/DeviceCMYK"}
    with pikepdf.open(out) as pdf:
        assert pdf.pages[0].Group.CS == "/DeviceCMYK" and pdf.Root.OutputIntents[0].DestOutputProfile.N == 4
        content = pdf.pages[0].Contents.read_bytes()
        named = {
            str(one.operands[0]) for one in pikepdf.parse_content_stream(pdf.pages[0]) if str(one.operator) == "cs"
        }
        assert b"(Unseen) Tj" in content and named
        # One form, painted red and then, inside another, green: it is two now.
        forms = [each for each in pdf.objects if isinstance(each, Stream) and b"20 20 re" in each.read_bytes()[:60]]
        assert len({each.read_bytes().split(b" k")[0] for each in forms if each.get("/Subtype") == "/Form"}) == 2


#: Documents that other makers wrote: a drawing library's surface, and an office suite's letter and drawing.
MAKERS = sorted((Path(__file__).parents[1] / "documents").glob("*.pdf"))


@pytest.mark.parametrize("path", MAKERS, ids=lambda path: path.stem)
def test_documents_of_other_makers_end_in_the_destination_and_keep_their_look(path, tmp_path, press):
    """Every color in the press's inks, read again by other means; the proof is near to the document as it came."""
    done = apply(path, tmp_path / "out.pdf", EVERYTHING, RULE, press, limit=320)
    assert not done.refused and done.notes == [] and sum(done.counts.values()) > 8
    operators, families = everything_in(tmp_path / "out.pdf")
    assert operators <= {"k", "K", "cs", "CS", "g", "G"} and families <= {"/DeviceCMYK"}, (operators, families)
    page = done.outcomes[0].use.page - 1
    came = draw(path, page, 72).astype(int)
    proof, _ = proof_page(path, page, 72, EVERYTHING, press, limit=320, view=ProofView(rgb_profile("sRGB")))
    assert proof.shape == came.shape and np.abs(proof.astype(int) - came).mean() < 9


@pytest.mark.parametrize(
    "make", [nasty, maker_page, *MAKERS], ids=lambda make: getattr(make, "__name__", None) or make.stem
)
def test_what_is_left_draws_as_it_did_even_where_every_stream_is_written_anew(make, tmp_path, press, monkeypatch):
    pdf = pikepdf.open(make) if isinstance(make, Path) else make()
    pdf.save(tmp_path / "job.pdf")
    before = draw(tmp_path / "job.pdf", 0, 144)
    done = apply(tmp_path / "job.pdf", tmp_path / "out.pdf", LEAVE, RULE, press)
    assert set(done.counts) == {"leave"} and "/OutputIntents" not in pikepdf.open(tmp_path / "out.pdf").Root
    assert np.array_equal(before, draw(tmp_path / "out.pdf", 0, 144))
    monkeypatch.setattr(Tape, "changed", property(lambda self: True, lambda self, value: None), raising=False)
    with pikepdf.open(tmp_path / "job.pdf") as again:
        rewritten(again, "job.pdf", LEAVE, RULE, press)
        after = draw(saved(again), 0, 144)
    assert np.abs(before.astype(int) - after).max() <= 1


def test_proof_of_a_document_is_the_proof_of_the_same_colors_as_a_picture(tmp_path, press):
    pdf = Pdf.new()
    random = np.random.default_rng(5)
    flat = random.integers(0, 256, (6, 6, 3), np.uint8)
    page = page_of(
        pdf,
        " ".join(
            f"{r / 255:.6f} {g / 255:.6f} {b / 255:.6f} rg {20 * x} {280 - 20 * y} 20 20 re f"
            for (y, x), (r, g, b) in ((at, flat[at]) for at in np.ndindex(6, 6))
        )
        + " q 120 0 0 120 150 180 cm /I Do Q",
        XObject=Dictionary(I=image_of(pdf, flat, Name.DeviceRGB)),
    )
    assert page is not None
    pdf.save(tmp_path / "job.pdf")
    line = compile_recipe(
        Recipe(aim=AimStation("relative"), ink=InkStation(limits=InkLimits(320.0))), press, rgb_profile("sRGB")
    )
    places = PixelGrid(np.arange(6.0), np.arange(6.0), 6, 6)
    printed = line.printed(flat, places)
    shown = proof_page(tmp_path / "job.pdf", 0, 72, EVERYTHING, press, limit=320)[0]
    want = np.clip(cmm.from_lab(rgb_profile("sRGB"), printed.astype(float)), 0, 1)
    for left, top in ((0, 0), (150, 0)):
        got = shown[top + 10 : top + 120 : 20, left + 10 : left + 120 : 20] / 255
        labs = [cmm.to_lab(rgb_profile("sRGB"), each) for each in (want, got)]
        assert delta_e_2000(*labs).max() < 0.75 and delta_e_2000(*labs).mean() < 0.3
    white = proof_page(tmp_path / "job.pdf", 0, 36, EVERYTHING, press, view=ProofView(rgb_profile("sRGB"), True))[0][
        140, 10
    ]
    stock = cmm.from_lab(rgb_profile("sRGB"), press.model.to_absolute([[100.0, 0, 0]]))[0]
    assert np.abs(white / 255 - np.clip(stock, 0, 1)).max() < 0.01


def test_plates_are_the_written_inks_and_hold_the_limit(tmp_path, press):
    pdf = nasty()
    pdf.save(tmp_path / "job.pdf")
    plates = plates_of_page(tmp_path / "job.pdf", 0, 72, EVERYTHING, press, limit=320)
    assert plates.names == ("Cyan", "Magenta", "Yellow", "Black") and plates.guessed == ()
    assert 250 < plates.largest_total_percent[0] <= 320 + 4 * 100 / 255
    # The stroke's blue and the fill of 240, 32, 16 from the palette, as they are written.
    done = apply(tmp_path / "job.pdf", None, EVERYTHING, RULE, press, limit=320)
    written = next(each.written for each in done.outcomes if each.use.values == (2.0,))
    there = plates.codes[300 - 215, 255] / 255
    assert np.abs(there - written).max() <= 1.01 / 255


def packed_bits(*parts):
    """(value, bits) one after another, filled up to a whole byte."""
    text = "".join(f"{value:0{bits}b}" for value, bits in parts)
    text += "0" * (-len(text) % 8)
    return int(text, 2).to_bytes(len(text) // 8, "big")


@pytest.mark.parametrize("kind", [4, 5, 6, 7])
def test_meshes_of_every_type_keep_their_shape_and_take_the_destinations_colors(kind, tmp_path, press):
    """Flags of 4 bits, places of 12, colors of 12: nothing lies on a byte."""
    top, full = 4095, 4095
    colors = [(full, 0, 0), (0, full, 0), (0, 0, full), (full, full, 0)]
    corners = [(0, 0), (0, top), (top, top), (top, 0)]
    data = b""
    if kind in (4, 5):
        order = (0, 1, 3, 2) if kind == 5 else (0, 1, 2, 0, 2, 3)
        for at in order:
            flag = [(0, 4)] if kind == 4 else []
            data += packed_bits(*flag, *((v, 12) for v in corners[at]), *((v, 12) for v in colors[at]))
    else:
        third = [top // 3, 2 * top // 3]
        edge = [(0, 0), (0, third[0]), (0, third[1]), (0, top), (third[0], top), (third[1], top), (top, top),
                (top, third[1]), (top, third[0]), (top, 0), (third[1], 0), (third[0], 0)]  # fmt: skip
        inner = [(third[0], third[0]), (third[0], third[1]), (third[1], third[1]), (third[1], third[0])]
        points = edge + (inner if kind == 7 else [])
        data = packed_bits(
            (0, 4), *((v, 12) for point in points for v in point), *((v, 12) for c in colors for v in c)
        )
    pdf = Pdf.new()
    mesh = pdf.make_indirect(Stream(pdf, data))
    mesh.ShadingType, mesh.ColorSpace, mesh.Decode = kind, Name.DeviceRGB, Array([50, 250, 50, 250, 0, 1, 0, 1, 0, 1])
    mesh.BitsPerCoordinate, mesh.BitsPerComponent = 12, 12
    if kind == 5:
        mesh.VerticesPerRow = 2
    else:
        mesh.BitsPerFlag = 4
    page_of(pdf, "/M sh", Shading=Dictionary(M=mesh))
    pdf.save(tmp_path / "job.pdf")
    came = draw(tmp_path / "job.pdf", 0, 36)
    only = Policy("RGB", (Row(Catches(), Convert()),), into="opRGB", rgb="sRGB")
    done = apply(tmp_path / "job.pdf", tmp_path / "out.pdf", only, DeliveryRule(profiles="inside"), press)
    assert done.counts == {"convert": 1} and not done.refused
    printed, _ = proof_page(tmp_path / "job.pdf", 0, 36, EVERYTHING, press)
    painted = (came != 255).any(axis=2)
    assert painted.sum() > 9000 and ((printed != 255).any(axis=2) == painted).mean() > 0.99
    # As RGB in another space the same colors come out, corner by corner and between.
    with pikepdf.open(tmp_path / "out.pdf") as written:
        shading = written.pages[0].Resources.Shading.M
        assert shading.ColorSpace[0] == "/ICCBased" and shading.ShadingType == (4 if kind in (4, 5) else 7)
    again = draw(tmp_path / "out.pdf", 0, 36)
    assert np.abs(again[30:120, 30:120].astype(int) - came[30:120, 30:120]).mean() < 1.5


@pytest.mark.parametrize("kind", [6, 7])
def test_curved_patches_that_go_on_from_each_other_follow_the_press_between_their_corners(kind, tmp_path, press):
    """The corners alone were converted: half way from green to magenta a viewer mixed inks that print another color."""
    random_ = np.random.default_rng(kind)

    def place(x, y):
        return [(int(v), 16) for v in np.clip(np.array([x, y]) * 65535 / 10, 0, 65535)]

    def shade():
        return [(int(v), 8) for v in random_.integers(0, 256, 3)]

    def patch(flag, points, inner, shades):
        parts = [place(x, y) for x, y in [*points, *(inner if kind == 7 else [])]]
        return packed_bits((flag, 8), *(part for each in (*parts, *shades) for part in each))

    # A patch whose sides bow out, one that goes on over its top, and one to the right of that.
    first = [
        (1, 1),
        (0.6, 2),
        (1.4, 3),
        (1, 4),
        (2, 4.4),
        (3, 3.6),
        (4, 4),
        (4.5, 3),
        (3.5, 2),
        (4, 1),
        (3, 0.7),
        (2, 1.3),
    ]
    above = [(4.3, 5), (3.7, 6), (4, 7), (3, 7.3), (2, 6.7), (1, 7), (1.3, 6), (0.7, 5)]
    beside = [(5, 7.3), (6, 6.7), (7, 7), (7.3, 6), (6.7, 5), (7, 4), (6, 4.3), (5, 3.7)]
    inside_them = ([(2, 2), (1.8, 3.2), (3, 2.6), (3.2, 1.8)], [(2, 5.2), (3, 5), (3.2, 6), (2.1, 6.2)],
                   [(5, 6), (5, 5), (6, 5), (6, 6.2)])  # fmt: skip
    data = b"".join(
        patch(flag, points, inner, [shade() for _ in range(4 if flag == 0 else 2)])
        for flag, points, inner in zip((0, 1, 1), (first, above, beside), inside_them, strict=True)
    )
    pdf = Pdf.new()
    mesh = pdf.make_indirect(Stream(pdf, data))
    mesh.ShadingType, mesh.ColorSpace, mesh.Decode = kind, Name.DeviceRGB, Array([0, 300, 0, 300, 0, 1, 0, 1, 0, 1])
    mesh.BitsPerCoordinate, mesh.BitsPerComponent, mesh.BitsPerFlag = 16, 8, 8
    page_of(pdf, "/M sh", Shading=Dictionary(M=mesh))
    pdf.save(tmp_path / "job.pdf")
    done = apply(tmp_path / "job.pdf", tmp_path / "out.pdf", EVERYTHING, DeliveryRule(), press, limit=320)
    assert done.counts == {"convert": 1} and not any("off between its points" in note for note in done.notes)
    # What stands in the file, drawn ink by ink, against the colors of the drawn original through the same line.
    came = draw(tmp_path / "job.pdf", 0, 72)
    painted = (came != 255).any(axis=2)
    inside = minimum_filter(painted, 5)
    line = compile_recipe(
        Recipe(aim=AimStation("relative"), ink=InkStation(limits=InkLimits(320.0))), press, rgb_profile("sRGB")
    )
    wanted = press.model.lab(line.inks(came[inside] / 255))
    written = plates_of_page(tmp_path / "out.pdf", 0, 72, None, None).codes[inside] / 255
    off = delta_e_2000(press.model.lab(written), wanted)
    assert np.percentile(off, 95) < 2.0 and off.mean() < 0.9, (off.mean(), np.percentile(off, 95))


@pytest.mark.parametrize("edge", [1, 2, 3])
def test_a_patch_that_goes_on_is_the_same_patch_written_by_itself(edge, tmp_path, press):
    random_ = np.random.default_rng(edge)
    points, shades = random_.integers(0, 65536, (16, 2)), random_.integers(0, 256, (4, 3))
    more, two = random_.integers(0, 65536, (12, 2)), random_.integers(0, 256, (2, 3))
    around = [(3 * edge + at) % 12 for at in range(4)]
    both = [
        (edge, more, two),
        (0, np.vstack([points[around], more]), np.vstack([shades[[edge, (edge + 1) % 4]], two])),
    ]
    written = []
    for flag, places, colors in both:
        data = b"".join(
            packed_bits((f, 8), *((int(v), 16) for v in p.ravel()), *((int(v), 8) for v in c.ravel()))
            for f, p, c in ((0, points, shades), (flag, places, colors))
        )
        pdf = Pdf.new()
        mesh = pdf.make_indirect(Stream(pdf, data))
        mesh.ShadingType, mesh.ColorSpace, mesh.Decode = 7, Name.DeviceRGB, Array([0, 1, 0, 1, 0, 1, 0, 1, 0, 1])
        mesh.BitsPerCoordinate, mesh.BitsPerComponent, mesh.BitsPerFlag = 16, 8, 8
        page_of(pdf, "/M sh", Shading=Dictionary(M=mesh))
        pdf.save(tmp_path / "job.pdf")
        apply(tmp_path / "job.pdf", tmp_path / "out.pdf", EVERYTHING, DeliveryRule(), press)
        with pikepdf.open(tmp_path / "out.pdf") as out:
            written.append(out.pages[0].Resources.Shading.M.read_bytes())
    assert written[0] == written[1] and len(written[0]) > 2 * 145


def test_pictures_of_every_packing_come_out_the_same(sent, press):
    """The same colors as JPEG of RGB and CMYK (turned round, as its marker says), JPEG 2000, 4 and 16 bit, Lab, spot."""
    blocks = np.kron(np.array([[0, 120], [200, 255]], np.uint8), np.ones((16, 16), np.uint8))
    rgb = np.stack([blocks, blocks[::-1], np.full_like(blocks, 90)], axis=-1)
    pdf = Pdf.new()

    def packed(data, kind, channels, **more):
        image = Stream(pdf, data)
        image.Type, image.Subtype, image.Filter, image.Width, image.Height = Name.XObject, Name.Image, kind, 32, 32
        image.BitsPerComponent = 8
        image.ColorSpace = {1: Name.DeviceGray, 3: Name.DeviceRGB, 4: Name.DeviceCMYK}[channels]
        for key, value in more.items():
            image[f"/{key}"] = value
        return pdf.make_indirect(image)

    def jpeg(array, mode):
        out = io.BytesIO()
        Image.fromarray(array, mode).save(out, "JPEG", quality=100, subsampling=0)
        return out.getvalue()

    cmyk = np.concatenate([rgb, np.zeros((32, 32, 1), np.uint8)], axis=-1)
    lab = cmm.to_lab(rgb_profile("sRGB"), rgb / 255)
    lab_codes = np.rint(np.stack([lab[..., 0] / 100, (lab[..., 1] + 100) / 200, (lab[..., 2] + 100) / 200], -1) * 255)
    four = np.packbits(np.unpackbits((rgb[:, :, 0] // 17)[..., None], axis=-1)[..., 4:].reshape(32, -1), axis=1)
    pictures = {
        "Jpeg": packed(jpeg(rgb, "RGB"), Name.DCTDecode, 3),
        "Jpx": packed(imagecodecs.jpeg2k_encode(rgb, level=0), Name.JPXDecode, 3),
        "Deep": image_of(pdf, rgb.astype(">u2") * 257, Name.DeviceRGB, 16),
        "Lab": image_of(
            pdf, lab_codes.astype(np.uint8), Array([Name.Lab, Dictionary(WhitePoint=[0.9642, 1, 0.8249])])
        ),
        "Cmyk": packed(jpeg(cmyk, "CMYK"), Name.DCTDecode, 4, Decode=[1, 0] * 4),
        "Four": image_of(pdf, four, Name.DeviceGray, 4, Width=32),
        "Tint": image_of(
            pdf, rgb[..., 0], Array([Name.Separation, Name.Ember, Name.DeviceCMYK, tint(pdf, (0, 1, 0, 0))])
        ),
    }  # fmt: skip
    page_of(
        pdf,
        " ".join(f"q 40 0 0 40 0 0 cm /{name} Do Q" for name in pictures),
        XObject=Dictionary({f"/{name}": each for name, each in pictures.items()}),
    )
    profiles = {press.profile.digest: press.profile}
    done, out = sent(pdf, replace(EVERYTHING, cmyk=press.profile.digest), profiles=profiles)
    assert not done.refused, done.refusals
    with pikepdf.open(out) as written:
        made = {
            name: np.frombuffer(image.read_bytes(), np.uint8).reshape(32, 32, 4)
            for name, image in dict(written.pages[0].Resources.XObject).items()
            if image.Filter == "/FlateDecode" and image.ColorSpace == "/DeviceCMYK"
        }
    inside = (slice(4, 12), slice(4, 12))
    wanted = made["/Deep"][inside].reshape(-1, 4).mean(axis=0)
    for name in ("/Jpeg", "/Jpx", "/Lab"):
        assert np.abs(made[name][inside].reshape(-1, 4).mean(axis=0) - wanted).max() < 6, name
    # CMYK for this very press is what it was, in its own packing; tints and four bits came through their palettes.
    assert "/Cmyk" not in made and done.counts["leave"] == 1
    spaces = [outcome.decision.said for outcome in done.outcomes if "palette" in outcome.decision.said]
    assert len(spaces) == 2


def test_overprint_leaves_out_on_a_plate_what_does_not_touch_it(tmp_path):
    pdf = Pdf.new()
    spot = Array([Name.Separation, Name.Ember, Name.DeviceCMYK, tint(pdf, (0, 0.6, 0.9, 0))])
    every = Array([Name.Separation, Name.All, Name.DeviceCMYK, tint(pdf, (1, 1, 1, 1))])
    page_of(
        pdf,
        "0.5 0 0 0 k 0 0 300 300 re f "
        "0 0 0 1 k 0 0 50 50 re f "  # knocks out
        "/One gs 0 0 0 1 k 50 0 50 50 re f "  # mode 1: cyan stays
        "/Zero gs 0 0 0 1 k 100 0 50 50 re f "  # mode 0: cyan goes
        "/Spot cs 0.8 scn 150 0 50 50 re f "  # a spot over cyan
        "/Off gs 0.4 scn 200 0 50 50 re f /All cs 1 scn 250 0 50 50 re f "
        "/One gs BT /F 40 Tf 0 0 0 0 k 10 100 Td (HH) Tj ET",
        ColorSpace=Dictionary(Spot=spot, All=every),
        Font=Dictionary(F=Dictionary(Type=Name.Font, Subtype=Name.Type1, BaseFont=Name.Helvetica)),
        ExtGState=Dictionary(
            One=Dictionary(OP=True, op=True, OPM=1), Zero=Dictionary(OP=True, op=True, OPM=0),
            Off=Dictionary(OP=False, op=False),
        ),
    )  # fmt: skip
    pdf.save(tmp_path / "job.pdf")
    plates = plates_of_page(tmp_path / "job.pdf", 0, 72, None, None)
    assert plates.names == ("Cyan", "Magenta", "Yellow", "Black", "Ember")
    cyan, black, ember = (plates.codes[275, 25:300:50, at] / 255 for at in (0, 3, 4))
    assert cyan == pytest.approx([0, 0.5, 0, 0.5, 0, 1], abs=0.01)
    assert black == pytest.approx([1, 1, 1, 0, 0, 1], abs=0.01)
    assert ember == pytest.approx([0, 0, 0, 0.8, 0.4, 1], abs=0.01)
    # White that overprints in mode 1 touches no plate at all.
    assert np.isin(plates.codes[150:210, :120, 0], (127, 128)).all()


def test_spot_inks_that_the_house_knows_have_its_color_not_the_jobs(sent, press):
    """Two jobs spell an ink in their own ways and say wrong things of it; shape, tint, picture and shading all follow."""
    pdf = Pdf.new()
    spaces = {
        name: Array([Name.Separation, Name(f"/{spelled}"), Name.DeviceCMYK, tint(pdf, (0, 1, 0, 0))])
        for name, spelled in (("Lake", "LAKE_GREEN"), ("Other", "Moss"))
    }
    picture = image_of(pdf, np.full((4, 4, 1), 255, np.uint8)[..., 0], spaces["Lake"])
    page_of(
        pdf,
        "/Lake cs 1 scn 0 0 50 50 re f 0.4 scn 50 0 50 50 re f /Other cs 1 scn 100 0 50 50 re f "
        "q 50 0 0 50 150 0 cm /P Do Q",
        ColorSpace=Dictionary({f"/{name}": each for name, each in spaces.items()}), XObject=Dictionary(P=picture),
    )  # fmt: skip
    lake = (48.0, -38.0, 10.0)
    known = replace(EVERYTHING, spots=spots_of(["Lake green, spot", "Gold"], [lake, (70, 8, 50)]), cmyk="destination")
    done, out = sent(pdf, known)
    assert not done.refused, done.refusals
    found = {(each.use.space.names[0], each.use.values): each for each in done.outcomes if not each.use.picture}
    solid, tinted = found["LAKE_GREEN", (1.0,)], found["LAKE_GREEN", (0.4,)]
    assert delta_e_2000(np.array(solid.lab), np.array(lake)) < 0.5
    assert delta_e_2000(np.array(tinted.lab), np.array([100 - 0.4 * 52, -15.2, 4.0])) < 0.5
    assert solid.decision.said == "The ink's color as the policy knows it" and not found["Moss", (1.0,)].decision.said
    assert found["Moss", (1.0,)].lab[1] > 50, "an ink that nobody knows is what the job says: magenta"
    with pikepdf.open(out) as written:
        codes = np.frombuffer(written.pages[0].Resources.XObject["/P"].read_bytes(), np.uint8)
        first = codes.reshape(-1, codes.size // 16)[0] / 255
        if codes.size == 16:  # a picture of tints keeps its packing, the inks stand in its palette
            palette = np.frombuffer(bytes(written.pages[0].Resources.XObject["/P"].ColorSpace[3]), np.uint8)
            first = palette.reshape(-1, 4)[codes[0]] / 255
    assert np.abs(first - np.array(solid.written)).max() < 1.5 / 255
    assert (
        known.spot("gold") == known.spots[1]
        and replace(known, spots=(Spot("Black", 20, 0, 0),)).spot("Black") is None
    )
    assert policy_from_json(known.to_json()) == known and "spots" not in EVERYTHING.to_json()
    with pytest.raises(PolicyError, match="there twice"):
        replace(EVERYTHING, spots=(Spot("Lake", *lake), Spot("LAKE spot", *lake)))


def test_a_known_spot_over_other_inks_lets_through_what_it_lets_through_of_paper(sent):
    """In DeviceN too the job's word for the ink (magenta) does not count; what it takes no part in stays as it came."""
    pdf = Pdf.new()
    both = Array([
        Name.DeviceN, Array([Name.Black, Name("/Lake green"), Name.Moss]), Name.DeviceCMYK,
        calculated(pdf, 3, 4, "3 -1 roll 0 4 1 roll"),
    ])  # fmt: skip
    palette = Array([Name.Indexed, both, 1, pikepdf.String(bytes([0, 255, 0, 102, 255, 0]))])
    ramp = Dictionary(
        ShadingType=2, ColorSpace=both, Coords=Array([0, 0, 100, 0]), Extend=Array([True, True]),
        Function=Dictionary(FunctionType=2, Domain=Array([0, 1]), N=1, C0=Array([0, 0, 0]), C1=Array([0, 1, 0])),
    )  # fmt: skip
    picture = image_of(pdf, np.tile(np.array([0, 255, 0], np.uint8), (4, 4, 1)), both)
    page_of(
        pdf,
        "/N cs 0 1 0 scn 0 0 50 50 re f 0.4 1 0 scn 50 0 50 50 re f 0.4 0 0 scn 0 50 50 50 re f /P cs 1 scn 0 90 9 9 re f "
        "/R sh q 50 0 0 50 150 0 cm /I Do Q",
        ColorSpace=Dictionary(N=both, P=palette), Shading=Dictionary(R=ramp), XObject=Dictionary(I=picture),
    )  # fmt: skip
    lake = (48.0, -38.0, 10.0)
    known = replace(EVERYTHING, spots=spots_of(["Lake green"], [lake]), cmyk="destination")
    done, out = sent(pdf, known)
    assert not done.refused, done.refusals
    found = {(each.use.space.family, each.use.values): each for each in done.outcomes if each.use.values}
    alone, over, black = (found["DeviceN", values] for values in ((0.0, 1.0, 0.0), (0.4, 1.0, 0.0), (0.4, 0.0, 0.0)))
    assert delta_e_2000(np.array(alone.lab), np.array(lake)) < 0.5
    through = lab_to_xyz(np.array([black.lab, lake])) / D50_XYZ
    assert delta_e_2000(np.array(over.lab), xyz_to_lab(through.prod(axis=0) * D50_XYZ)) < 1.0
    assert np.abs(np.array(black.written) - [0, 0, 0, 0.4]).max() < 0.01, "black alone is black alone"
    assert not black.decision.said and over.decision.said == alone.decision.said != ""
    assert found["Indexed", (1.0,)].written == over.written
    with pikepdf.open(out) as written:
        resources = written.pages[0].Resources
        codes = np.frombuffer(resources.XObject["/I"].read_bytes(), np.uint8)[:4]
        last = np.frombuffer(resources.Shading["/R"].Function.read_bytes(), ">u2")[-4:]
    assert (
        np.abs(codes / 255 - alone.written).max() < 1.5 / 255 and np.abs(last / 65535 - alone.written).max() < 0.002
    )


def test_a_rule_averages_pictures_down_and_says_what_is_coarse(sent):
    pdf = Pdf.new()
    fine = np.random.default_rng(3).integers(0, 256, (400, 400, 3), np.uint8)
    image = image_of(pdf, fine, Name.DeviceRGB)
    coarse = image_of(pdf, fine[:10, :10], Name.DeviceRGB)
    page_of(pdf, "q 72 0 0 72 0 0 cm /I Do Q q 72 0 0 72 80 0 cm /C Do Q", XObject=Dictionary(I=image, C=coarse))
    page_of(pdf, "q 72 0 0 72 0 0 cm /I Do Q", XObject=Dictionary(I=image))
    rule = DeliveryRule(most_ppi=100, least_ppi=72, compression="jpeg", jpeg_quality=95)
    done, out = sent(pdf, rule=rule)
    assert done.notes == ["Page 1: a picture has 10 ppi, and 72 are wanted."]
    with pikepdf.open(out) as written:
        first, second = (page.Resources.XObject.I for page in written.pages)
        assert first.objgen == second.objgen and (first.Width, first.Filter) == (100, "/DCTDecode")
        codes = np.asarray(pikepdf.PdfImage(first).as_pil_image())
    assert codes.shape == (100, 100, 4)
    # Averaged noise is near one color, and its total within the limit as decoded.
    assert codes.reshape(-1, 4).std(axis=0).max() < 60
    with pikepdf.open(out) as written:
        assert written.pages[0].Resources.XObject.C.Width == 10


def in_memory():
    """Bytes of this process that are no file's, and that it has not given back yet."""
    ctypes.CDLL(None).malloc_trim(0)
    told = Path("/proc/self/status").read_text()
    return 1024 * int(next(line for line in told.splitlines() if line.startswith("RssAnon")).split()[1])


@pytest.mark.parametrize("compression", ["lossless", "jpeg"])
def test_memory_does_not_grow_with_the_pictures_of_a_document(tmp_path, press, compression):
    """A job of 1 GB took 1.5 GB: everything that was written waited in memory."""
    codes = np.random.default_rng(5).integers(0, 256, (15, 480, 480, 3), dtype=np.uint8)
    rule = replace(RULE, compression=compression)
    out, grown, size = tmp_path / "out.pdf", {}, {}
    for count in (4, 30):
        pdf = Pdf.new()
        for at in range(count):
            image = image_of(pdf, codes[at // 2] ^ (at % 2), Name.DeviceRGB)
            page_of(pdf, "q 100 0 0 100 0 0 cm /I Do Q", XObject=Dictionary(I=image))
        pdf.save(tmp_path / "job.pdf")
        del pdf, image
        most = [before := in_memory()]
        apply(
            tmp_path / "job.pdf", out, EVERYTHING, rule, press, limit=320,
            progress=lambda share, most=most: most.append(in_memory()),
        )  # fmt: skip
        grown[count], size[count] = max(most) - before, out.stat().st_size
        assert [each.name for each in tmp_path.iterdir() if ".part" in each.name] == []
    assert size[30] > 4 * size[4]
    assert grown[30] - grown[4] < size[30] / 4


def test_a_document_that_is_cancelled_leaves_nothing_of_its_pictures(tmp_path, press):
    pdf = Pdf.new()
    for shade in range(4):
        image = image_of(pdf, np.full((300, 300, 3), 60 * shade, np.uint8), Name.DeviceRGB)
        page_of(pdf, "q 100 0 0 100 0 0 cm /I Do Q", XObject=Dictionary(I=image))
    job, folder = tmp_path / "job.pdf", tmp_path / "out"
    pdf.save(job)
    folder.mkdir()
    seen = []

    def stopped():
        seen.append([each.name for each in folder.rglob("*") if each.is_file()])
        return len(seen) > 3

    with pytest.raises(Cancelled):
        apply(job, folder / "out.pdf", EVERYTHING, RULE, press, limit=320, stopped=stopped)
    assert seen[-1]
    assert list(folder.iterdir()) == []


def test_black_solids_pure_inks_and_refusals(sent, press):
    pdf = Pdf.new()
    colors = ("0 g", "0 0 0 rg", "0 0 0 0.5 k", "1 0 0 rg", "0.3 0 0 0 k", "0.5 0.5 0.52 rg")
    page_of(pdf, " ".join(f"{color} 0 0 9 9 re f" for color in colors))
    done, _ = sent(pdf, READY_MADE["Office documents"])
    assert [each.decision.does for each in done.outcomes] == ["black only"] * 3 + [
        "clean solids",
        "leave",
        "black only",
    ]
    assert [each.written for each in done.outcomes[:2]] == [(0, 0, 0, 1)] * 2
    assert done.outcomes[2].written[3] == pytest.approx(0.5, abs=0.002) and done.outcomes[3].written == (0, 1, 1, 0)
    gray = done.outcomes[5].written
    wanted = cmm.to_lab(rgb_profile("sRGB"), [[0.5, 0.5, 0.52]])[0, 0]
    darkest = press.model.lab([[0, 0, 0, 1.0]])[0, 0]
    assert gray[:3] == (0, 0, 0) and press.model.lab([gray])[0, 0] == pytest.approx(
        darkest + wanted / 100 * (100 - darkest), abs=0.3
    )
    refusing, out = sent(pdf, READY_MADE["Refuse anything untagged"])
    assert refusing.refused and not out.exists() and "Ask the sender which RGB" in refusing.refusals[0]
    nothing = replace(EVERYTHING, rgb="")
    assert "the policy assumes none" in sent(pdf, nothing)[0].refusals[0]
    with pytest.raises(Cancelled):
        sent(pdf, stopped=lambda: True)


def test_a_black_solid_stays_one_where_the_ramp_turns_around_before_it(sent, condition):
    """On cotton the ramp of black is darkest at 89 % and stands still from there: K 89 was written where K 100 came in."""
    pdf = Pdf.new()
    page_of(pdf, "0 g 0 0 9 9 re f 0 0 0 1 k 0 0 9 9 re f 1 g 0 0 9 9 re f")
    done, _ = sent(pdf, READY_MADE["Office documents"], condition=condition("cotton-54t"))
    assert [each.written for each in done.outcomes] == [(0, 0, 0, 1), (0, 0, 0, 1), (0, 0, 0, 0)]


def test_what_no_policy_reaches_is_said(sent):
    """A square of four colors, a field that is to be drawn anew and a transfer function went through without a word."""
    pdf = Pdf.new()
    inverts = Dictionary(FunctionType=2, Domain=[0, 1], C0=[1], C1=[0], N=1)
    page_of(pdf, "/T gs 1 0 0 rg 0 0 9 9 re f", ExtGState=Dictionary(T=Dictionary(TR2=pdf.make_indirect(inverts))))
    page_of(pdf, "/T gs 1 0 0 rg 0 0 9 9 re f", ExtGState=Dictionary(T=Dictionary(TR=inverts, TR2=Name.Default)))
    drawn = Dictionary(N=form_of(pdf, "0 1 0 rg 0 0 9 9 re f"))

    def annotation(subtype, flags, **more):
        return pdf.make_indirect(Dictionary(Subtype=subtype, Rect=[0, 0, 9, 9], F=flags, C=[1, 0, 0], **more))

    pdf.pages[0].Annots = [
        annotation(Name.Square, 4, IC=[0, 0, 1]), annotation(Name.Stamp, 4, AP=drawn), annotation(Name.Circle, 6),
        annotation(Name.Circle, 0), annotation(Name.Link, 4),
    ]  # fmt: skip
    pdf.pages[1].Annots = [annotation(Name.Widget, 4, FT=Name.Tx, AP=drawn)]
    form = pdf.Root.AcroForm = Dictionary(Fields=[pdf.pages[1].Annots[0]])
    done, _out = sent(pdf)
    assert [note[:60] for note in done.notes] == [
        "Page 1: an annotation or form field has no appearance in the",
        "Page 1: a transfer function changes tones on their way to th",
    ]
    form.NeedAppearances = True
    done, _out = sent(pdf)
    assert [note[:7] for note in done.notes] == ["Page 1:", "Page 2:", "Page 1:"]


def test_a_claim_to_pdf_x_does_not_outlive_its_colors(sent):
    pdf = Pdf.new()
    page_of(pdf, "1 0 0 rg 0 0 9 9 re f")
    pdf.docinfo["/GTS_PDFXVersion"] = "PDF/X-4"
    with pdf.open_metadata() as metadata:
        metadata["{http://www.npes.org/pdfx/ns/id/}GTS_PDFXVersion"] = "PDF/X-4"
    done, out = sent(pdf, LEAVE)
    with pikepdf.open(out) as written:
        assert said_of_itself(written) == "PDF/X-4" and not done.notes
    done, out = sent(pdf)
    with pikepdf.open(out) as written:
        assert said_of_itself(written) == "" and "nothing is claimed any more" in done.notes[0]


def test_one_picture_under_two_profiles_drifts_and_is_said_to(sent, tmp_path):
    """The same pixels as sRGB and as opRGB print apart; placed twice alike they do not."""
    pdf = Pdf.new()
    random = np.random.default_rng(3)
    codes = random.integers(0, 256, (40, 50, 3), dtype=np.uint8)
    spaces = [icc(pdf, rgb_profile(name), 3) for name in ("sRGB", "sRGB", "opRGB")]
    pictures = {f"P{at}": image_of(pdf, codes, space) for at, space in enumerate(spaces)}
    page_of(
        pdf, " ".join(f"q 50 0 0 40 {60 * at} 0 cm /P{at} Do Q" for at in range(2)), XObject=Dictionary(**pictures)
    )
    assert not sent(pdf)[0].drift
    page_of(pdf, "q 50 0 0 40 9 9 cm /P2 Do Q", XObject=Dictionary(**pictures))
    done, _ = sent(pdf)
    assert done.drift is not None and 2 < done.drift < 15
    assert "under several profiles" in as_page(report(done, EVERYTHING, ("C", "M", "Y", "K")))


def test_a_policy_is_read_strictly_said_in_words_and_kept_with_its_profiles():
    for policy in READY_MADE.values():
        assert policy_from_json(json.loads(json.dumps(policy.to_json()))) == policy
        assert all(in_words(row) for row in policy.rows)
    cotton = profile_of("cotton-54t")
    assumed = replace(EVERYTHING, cmyk=cotton.digest)
    again, stored = policy_from_file(json.loads(json.dumps(policy_to_file(assumed, {cotton.digest: cotton}))))
    assert again == assumed and stored[cotton.digest].name == cotton.name
    plain = ALL.to_json()
    for change, words in (
        ({"rows": plain["rows"][:1]}, "last row has to catch everything"),
        ({"rows": []}, "1 to 60 rows"),
        ({"fold": 1}, "nothing is called 'fold'"),
        (
            {"rows": [{"catches": {"space": ["RGB"]}, "does": {"kind": "leave"}}, *plain["rows"]]},
            "nothing is called 'space' in rows › 1 › catches",
        ),
        (
            {"rows": [{"catches": {"objects": ["hat"]}, "does": {"kind": "leave"}}, *plain["rows"]]},
            "'hat'|Input should be",
        ),
        ({"version": 7}, "version 7"),
    ):
        with pytest.raises(PolicyError, match=words):
            policy_from_json({**plain, **change})
    with pytest.raises(PolicyError, match="no profile with this digest"):
        policy_from_file(assumed.to_json())
    with pytest.raises(PolicyError, match="at most 100 and at least 200"):
        rule_from_json({"most_ppi": 100, "least_ppi": 200})
    with pytest.raises(PolicyError, match="nothing is called 'ppi'"):
        rule_from_json({"ppi": 3})
    found = Found("RGB", "text", False, (0.5, 0.5, 0.5), ppi=None)
    assert found.is_a("equal RGB") and not found.is_a("solids") and not Catches(ppi_over=10).has(found)


def test_report_and_comparison_tell_every_decision(sent, tmp_path, press):
    done, _out = sent(nasty(), boxes=True)
    told = report(done, EVERYTHING, ("C", "M", "Y", "K"))
    assert sum(each["times"] for each in told["records"]) == sum(done.counts.values()) == len(done.outcomes)
    assert [row["objects"] for row in told["rows"]] == [len(done.outcomes)]
    red = next(each for each in told["records"] if each["found"] == "DeviceRGB 255 0 0")
    assert red["boxes"][0] == [0, 0, 20, 20] and red["written"].startswith("M ")
    # Every change says from where, in the printed page as well; of a picture there was only that it was converted.
    changed = [each for each in told["records"] if each["done"] == "converted"]
    assert {each["object"] for each in changed} >= {"Picture", "Line art"}
    assert red["why"] == "from sRGB, relative" and all("from " in each["why"] for each in changed)
    outcome = next(
        each for each in done.outcomes if each.use.space.family == "DeviceRGB" and each.use.values == (1, 0, 0)
    )
    assert np.allclose(red["lab"], press.model.lab([outcome.written])[0], atol=0.06)
    text = as_page(told, thumbnails_of(told["records"], lambda page, ppi: draw(tmp_path / "job.pdf", page, ppi)))
    assert "data:image/png" in text and "<b>Sent on.</b>" in text
    (tmp_path / "again.pdf").write_bytes((tmp_path / "job.pdf").read_bytes())
    one = Side(EVERYTHING, RULE, press, 320)
    compared = compare_sides(tmp_path / "again.pdf", one, replace(one, policy=replace(EVERYTHING, rgb="opRGB")))
    assert compared["same"] > 0 and compared["differing"][0]["delta_e"] > 3


SPACES = {
    "gray": ("g", 1), "RGB": ("rg", 3), "CMYK": ("k", 4), "icc": ("/Icc cs {} sc", 3), "spot": ("/Spot cs {} scn", 1),
    "indexed": ("/Idx cs {} sc", 0),
}  # fmt: skip
PAINTS = st.tuples(
    st.sampled_from(sorted(SPACES)),
    st.lists(st.integers(0, 4), min_size=4, max_size=4),
    st.integers(0, 2),
    st.booleans(),
)


@settings(max_examples=25, deadline=None)
@given(st.lists(PAINTS, min_size=1, max_size=8), st.sampled_from(["leave", "refuse", "convert"]), st.integers(0, 2))
def test_nothing_refused_passes_and_nothing_left_changes(press, tmp_path_factory, paints, rgb_does, deep):
    folder = tmp_path_factory.mktemp("made")
    pdf = Pdf.new()
    spaces = Dictionary(
        Icc=icc(pdf, rgb_profile("opRGB"), 3),
        Spot=Array([Name.Separation, Name.Ember, Name.DeviceCMYK, tint(pdf, (0, 1, 1, 0))]),
        Idx=Array([Name.Indexed, Name.DeviceRGB, 4, pikepdf.String(bytes(range(15)))]),
    )  # fmt: skip
    content = ""
    for space, values, nesting, saves in paints:
        operator, count = SPACES[space]
        numbers = str(values[0]) if not count else " ".join(str(each / 4) for each in values[:count])
        color = operator.format(numbers) if "{}" in operator else f"{numbers} {operator}"
        content += (
            ("q " if saves else "") + color + (" /F Do " if nesting else " 0 0 9 9 re f ") + ("Q " if saves else "")
        )
    form = form_of(pdf, b"1 1 9 9 re f")
    for _ in range(deep):
        form = form_of(pdf, b"/F Do", Resources=Dictionary(XObject=Dictionary(F=form)))
    page_of(pdf, content, ColorSpace=spaces, XObject=Dictionary(F=form))
    pdf.save(folder / "job.pdf")
    does = {"leave": Leave(), "refuse": Refuse("No RGB."), "convert": Convert()}[rgb_does]
    rows = (Row(Catches(spaces=("RGB",)), does), Row(Catches(spaces=("CMYK",)), Leave()), Row(Catches(), BlackOnly()))
    done = apply(
        folder / "job.pdf", folder / "out.pdf", Policy("Made", rows, rgb="sRGB", cmyk="destination"), RULE, press
    )
    has_rgb = any(space in ("RGB", "icc", "indexed") for space, *_ in paints)
    if has_rgb and rgb_does == "refuse":
        assert done.refused and not (folder / "out.pdf").exists()
        return
    operators, _families = everything_in(folder / "out.pdf")
    assert ("rg" in operators) == (rgb_does == "leave" and any(space == "RGB" for space, *_ in paints))
    assert "g" not in operators
    black = [each.written for each in done.outcomes if each.decision.does == "black only"]
    assert all(inks[:3] == (0, 0, 0) for inks in black)


def test_mutated_documents_end_in_a_sentence(tmp_path, press):
    """A few hundred here; `make fuzz` sends ten thousand."""
    import os
    import time

    options = {"compress_streams": False, "object_stream_mode": pikepdf.ObjectStreamMode.disable}
    nasty().save(tmp_path / "base.pdf", **options)
    base = (tmp_path / "base.pdf").read_bytes()
    tokens = [found.start() for found in re.finditer(rb"/[A-Z][A-Za-z]+|\d+", base)]
    random = np.random.default_rng(int(os.environ.get("PLINTO_SEED", "8")))
    longest, refused, count = 0.0, 0, int(os.environ.get("PLINTO_FUZZ", "120")) // 2
    for number in range(count):
        data = bytearray(base)
        for _ in range(int(random.integers(1, 8))):
            # Mostly where names and numbers begin: elsewhere a document is only damaged, here it says something else.
            at = int(random.choice(tokens)) if random.random() < 0.7 else int(random.integers(0, len(data)))
            at = min(at, len(data) - 1)
            how = random.random()
            if how < 0.35:
                data[at] = int(random.integers(32, 127))
            elif how < 0.7:
                data[at] = int(random.choice(list(b"0123456789-.[]<>()/ ")))
            else:
                del data[at : at + int(random.integers(1, 12))]
        (tmp_path / "job.pdf").write_bytes(data)
        began = time.monotonic()
        try:
            # Converting builds its tables anew for every document; walking and writing is where files do harm.
            policy = EVERYTHING if number % 20 == 0 else LEAVE
            apply(tmp_path / "job.pdf", tmp_path / "out.pdf", policy, RULE, press)
        except PlintoError as error:
            refused += 1
            assert len(str(error)) > 20
        longest = max(longest, time.monotonic() - began)
    assert refused
    print(f"documents: {count}, {refused} refused, the longest took {longest:.2f} s")
