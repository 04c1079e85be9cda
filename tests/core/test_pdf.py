"""Documents walked color by color: the cases that break naive work, made by hand."""

import json
from itertools import combinations

import numpy as np
import pikepdf
import pytest
from pikepdf import Array, Dictionary, Name, Pdf, Stream

from plinto_core.cli import plinto
from plinto_core.colorimetry.difference import delta_e_2000
from plinto_core.errors import DocumentError
from plinto_core.icc import cmm
from plinto_core.icc.standard import rgb_profile
from plinto_core.pdf.document import opened
from plinto_core.pdf.function import function_of
from plinto_core.pdf.inspect import inspect_document
from plinto_core.pdf.walk import walk
from tests.conftest import profile_of


def icc(pdf, profile, channels, **more):
    stream = Stream(pdf, profile.raw)
    stream.N = channels
    for key, value in more.items():
        stream[f"/{key}"] = value
    return Array([Name.ICCBased, pdf.make_indirect(stream)])


def tint(pdf, out):
    return Dictionary(FunctionType=2, Domain=[0, 1], C0=[0] * len(out), C1=list(out), N=1)


def calculated(pdf, inputs, outputs, text):
    function = Stream(pdf, b"{ %s }" % text.encode())
    function.FunctionType, function.Domain, function.Range = 4, [0, 1] * inputs, [0, 1] * outputs
    return pdf.make_indirect(function)


def page_of(pdf, content, **resources):
    page = pdf.add_blank_page(page_size=(300, 300))
    page.Contents = Stream(pdf, content.encode())
    page.Resources = Dictionary({f"/{key}": value for key, value in resources.items()})
    return page


@pytest.fixture
def saved(tmp_path):
    """Save the document, and give what is painted as (object, space's label, values), masks aside."""

    def save(pdf, **options):
        path = tmp_path / "job.pdf"
        pdf.save(path, **options)
        with opened(path) as again:
            uses = list(walk(again))
        return path, uses

    return save


def told(uses):
    return [(use.object, use.space.label, use.values) for use in uses if not use.in_mask]


def test_forms_take_on_the_color_they_are_painted_with_and_give_none_back(saved):
    pdf = Pdf.new()
    form = pdf.make_indirect(Stream(pdf, b"0 0 9 9 re f 0 1 0 rg 9 9 9 9 re f"))
    form.Type, form.Subtype, form.BBox = Name.XObject, Name.Form, Array([0, 0, 99, 99])
    red, blue = "1 0 0 rg /F Do 0 0 5 5 re f", "0 0 1 rg /F Do"
    for content in (red, blue):
        page_of(pdf, content, XObject=Dictionary(F=form))
    _path, uses = saved(pdf)
    colors = [values for _object, _label, values in told(uses)]
    assert colors == [(1, 0, 0), (0, 1, 0), (1, 0, 0), (0, 0, 1), (0, 1, 0)]
    assert [use.page for use in uses] == [1, 1, 1, 2, 2] and uses[0].where.startswith("page/F")


def test_spaces_of_every_family_come_down_to_what_they_mean(saved):
    pdf = Pdf.new()
    spot = Array([Name.Separation, Name("/Coral 12"), Name.DeviceCMYK, tint(pdf, (0, 0.7, 0.6, 0))])
    spaces = Dictionary(
        DefaultRGB=icc(pdf, rgb_profile("opRGB"), 3),
        Press=icc(pdf, profile_of("cotton-54t"), 4),
        Wrong=icc(pdf, rgb_profile("sRGB"), 4, Alternate=Name.DeviceCMYK),
        Spot=spot,
        Many=Array([
            Name.DeviceN, Array([Name.Cyan, Name("/None"), Name.Varnish]), Name.DeviceCMYK,
            calculated(pdf, 3, 4, "pop pop 0 0 0"),
        ]),
        Palette=Array([Name.Indexed, spot, 1, b"\x00\xff"]),
        Lab=Array([Name.Lab, Dictionary(WhitePoint=[0.9642, 1, 0.8249])]),
    )  # fmt: skip
    content = (
        "1 0 0 rg 0 0 1 1 re f /Press cs 0 0 0 1 sc 0 0 1 1 re f /Wrong cs 0 0 0 1 sc 0 0 1 1 re f "
        "/Spot cs 0.5 scn 0 0 1 1 re f /Many cs 1 0 1 scn 0 0 1 1 re f /Palette cs 1 sc 0 0 1 1 re f "
        "/Lab CS 0 0 9 9 re S 1 g"
    )
    page_of(pdf, content, ColorSpace=spaces)
    path, uses = saved(pdf)
    labels = [use.space.label for use in uses]
    assert labels == [
        "ICCBased, opRGB", "ICCBased, Cotton 54T", "ICCBased", "Separation Coral 12", "DeviceN Cyan, None, Varnish",
        "Indexed, Separation Coral 12", "Lab",
    ]  # fmt: skip
    assert uses[0].space.tagged and not uses[2].space.tagged and "is for RGB" in uses[2].space.said
    assert uses[2].space.kind == "CMYK" and uses[6].stroke
    found = inspect_document(path)
    assert found["spots"]["Coral 12"] == {"comes down to": "DeviceCMYK", "objects": 2, "pages": 1}
    assert set(found["spots"]) == {"Coral 12", "Cyan", "Varnish"}
    assert "is for RGB" in found["spaces"]["ICCBased"]["note"]


def test_patterns_glyphs_shadings_masks_and_appearances(saved):
    pdf = Pdf.new()
    tile = pdf.make_indirect(Stream(pdf, b"1 0 0 rg 0 0 4 4 re f"))
    plain = pdf.make_indirect(Stream(pdf, b"0 0 4 4 re f"))
    for each, paint in ((tile, 2), (plain, 1)):
        each.PatternType, each.PaintType, each.TilingType = 1, paint, 1
        each.BBox, each.XStep, each.YStep = Array([0, 0, 4, 4]), 4, 4
        each.Resources = Dictionary()
    axial = Dictionary(
        ShadingType=2, ColorSpace=Name.DeviceRGB, Coords=[0, 0, 9, 9], Function=tint(pdf, (1, 1, 0)), Domain=[0, 1]
    )
    glyph = pdf.make_indirect(Stream(pdf, b"9 0 0 0 9 9 d1 1 0 0 rg 0 0 5 5 re f"))
    font = Dictionary(
        Type=Name.Font, Subtype=Name.Type3, FontBBox=[0, 0, 9, 9], FontMatrix=[1, 0, 0, 1, 0, 0],
        CharProcs=Dictionary(a=glyph), Encoding=Dictionary(Differences=[97, Name.a]), FirstChar=97, LastChar=97, Widths=[9],
    )  # fmt: skip
    mask = pdf.make_indirect(Stream(pdf, b"0.5 g 0 0 9 9 re f"))
    mask.Type, mask.Subtype, mask.BBox = Name.XObject, Name.Form, Array([0, 0, 9, 9])
    states = Dictionary(
        M=Dictionary(SMask=Dictionary(S=Name.Luminosity, G=mask)), Over=Dictionary(OP=True, OPM=1),
        B=Dictionary(BM=Name.Multiply, ca=0.5),
    )  # fmt: skip
    spot = Array([Name.Separation, Name.Gold, Name.DeviceCMYK, tint(pdf, (0, 0.2, 0.8, 0))])
    content = (
        "/P cs 0.8 /T scn 0 0 9 9 re f /Pattern cs /U scn 0 0 9 9 re f /S scn 0 0 9 9 re f /Sh sh "
        "0 1 0 rg BT /F 1 Tf (a) Tj 3 Tr (a) Tj ET "
        "q /Over gs 0 0 0 0 k 0 0 1 1 re f Q q /M gs 0 0 0 1 k 0 0 1 1 re f Q /B gs 0 g 0 0 1 1 re f "
        "q 100 0 0 50 0 0 cm BI /W 2 /H 1 /CS /RGB /BPC 8 ID abcdef EI Q"
    )
    page = page_of(
        pdf, content, ColorSpace=Dictionary(P=Array([Name.Pattern, spot])), ExtGState=states, Font=Dictionary(F=font),
        Pattern=Dictionary(T=tile, U=plain, S=Dictionary(PatternType=2, Shading=axial)), Shading=Dictionary(Sh=axial),
    )  # fmt: skip
    note = pdf.make_indirect(Stream(pdf, b"0 0 1 0 k 0 0 5 5 re f"))
    note.Type, note.Subtype, note.BBox = Name.XObject, Name.Form, Array([0, 0, 9, 9])
    page.Annots = Array([Dictionary(Subtype=Name.Square, Rect=[0, 0, 9, 9], F=4, AP=Dictionary(N=note)),
                         Dictionary(Subtype=Name.Square, Rect=[0, 0, 9, 9], F=2, AP=Dictionary(N=note))])  # fmt: skip
    path, uses = saved(pdf)
    assert told(uses) == [
        # The uncolored tile is in the spot whatever it says of itself; the colored one begins in black.
        ("line art", "Separation Gold", (0.8,)), ("line art", "DeviceGray", (0.0,)),
        ("shading", "DeviceRGB", ()), ("shading", "DeviceRGB", ()),
        # An uncolored glyph is in the color of the text; the invisible one paints, too, for Type 3 knows no modes.
        ("line art", "DeviceRGB", (0, 1, 0)), ("line art", "DeviceRGB", (0, 1, 0)),
        ("line art", "DeviceCMYK", (0, 0, 0, 0)), ("line art", "DeviceCMYK", (0, 0, 0, 1)),
        ("line art", "DeviceGray", (0.0,)), ("image", "DeviceRGB", ()), ("line art", "DeviceCMYK", (0, 0, 1, 0)),
    ]  # fmt: skip
    assert [use.values for use in uses if use.in_mask] == [(0.5,)]
    (picture,) = [use.picture for use in uses if use.picture]
    assert (picture.width, picture.height) == (2, 1) and picture.ppi == pytest.approx(2 / (100 / 72))
    found = inspect_document(path)
    assert found["overprint"] == {"objects": 1, "with mode 1": 1, "white": 1}
    assert found["transparency"]["blend modes"]["Multiply"] >= 1 and found["transparency"]["masked objects"] >= 1


def test_pictures_are_told_once_with_every_size_they_are_placed_at(saved):
    pdf = Pdf.new()
    image = pdf.make_indirect(Stream(pdf, bytes(300 * 150 * 3)))
    image.Type, image.Subtype, image.ColorSpace = Name.XObject, Name.Image, Name.DeviceRGB
    image.Width, image.Height, image.BitsPerComponent = 300, 150, 8
    for size in (72, 144):
        page_of(pdf, f"q {size} 0 0 {size / 2} 10 10 cm /I Do Q", XObject=Dictionary(I=image))
    pdf.Root.OutputIntents = Array([
        Dictionary(S=Name.GTS_PDFX, OutputConditionIdentifier="Halden Silk 150",
                   DestOutputProfile=icc(pdf, profile_of("halden-silk-150"), 4)[1])
    ])  # fmt: skip
    path, _uses = saved(pdf)
    found = inspect_document(path)
    (picture,) = found["pictures"]
    assert (picture["least ppi"], picture["most ppi"], picture["placed"]) == (150, 300, 2)
    assert found["output intents"][0]["profile"] == "Halden Silk 150" and found["boxes mm"]["MediaBox"] == [
        [105.8, 105.8]
    ]


def test_text_is_told_by_its_color_and_font(saved, capsys):
    pdf = Pdf.new()
    font = Dictionary(Type=Name.Font, Subtype=Name.Type1, BaseFont=Name.Helvetica)
    page_of(
        pdf, "0 0 0 1 k BT /F 9 Tf (Black) Tj 3 Tr (Nothing) Tj 2 Tr 1 0 0 RG [(Both)] TJ ET", Font=Dictionary(F=font)
    )
    path, uses = saved(pdf)
    assert [(use.stroke, use.values, use.font) for use in uses] == [
        (False, (0, 0, 0, 1), "Helvetica"), (False, (0, 0, 0, 1), "Helvetica"), (True, (1, 0, 0), "Helvetica"),
    ]  # fmt: skip
    plinto(["pdf", "inspect", str(path), "--json"], standalone_mode=False)
    assert json.loads(capsys.readouterr().out)["text colors"][0]["times"] == 2
    plinto(["pdf", "inspect", str(path)], standalone_mode=False)
    assert "DeviceCMYK: kind CMYK" in capsys.readouterr().out


def test_what_cannot_be_read_in_full_is_refused_with_page_and_object(saved, tmp_path):
    def refused(content, words, **resources):
        pdf = Pdf.new()
        page_of(pdf, "0 g", Font=Dictionary())
        page_of(pdf, content, **resources)
        with pytest.raises(DocumentError, match=words) as error:
            saved(pdf)
        assert "Page 2" in str(error.value)

    refused("/Nothing Do", "'Nothing' is painted in page and nowhere defined")
    refused("/None cs 1 sc 0 0 1 1 re f", "color space 'None' is nowhere defined")
    refused("/DeviceRGB cs 1 sc 0 0 1 1 re f", "1 values are set in page for DeviceRGB")
    refused("/X gs", "graphics state in page is nowhere defined")
    pdf = Pdf.new()
    form = pdf.make_indirect(Stream(pdf, b"/F Do"))
    form.Type, form.Subtype, form.BBox = Name.XObject, Name.Form, Array([0, 0, 9, 9])
    form.Resources = Dictionary(XObject=Dictionary(F=form))
    page_of(pdf, "/F Do", XObject=Dictionary(F=form))
    with pytest.raises(DocumentError, match="painted inside itself"):
        saved(pdf)
    locked = Pdf.new()
    page_of(locked, "0 g 0 0 1 1 re f")
    locked.save(tmp_path / "locked.pdf", encryption=pikepdf.Encryption(owner="a", user="b"))
    with pytest.raises(DocumentError, match="locked with a password"):
        inspect_document(tmp_path / "locked.pdf")
    assert inspect_document(tmp_path / "locked.pdf", "b")["locked"]
    (tmp_path / "cut.pdf").write_bytes((tmp_path / "locked.pdf").read_bytes()[:40])
    with pytest.raises(DocumentError, match=r"'cut.pdf' is damaged"):
        inspect_document(tmp_path / "cut.pdf")


@pytest.mark.parametrize(
    ("text", "values", "wanted"),
    [
        # A stack that is deeper on one side, as browsers write it.
        ("dup 0.5 gt { 0 0 } if pop", [[0.2], [0.9]], None),
        ("dup 0.5 gt { 0.3 } if", [[0.2], [0.9]], [[0.2], [0.3]]),
        ("dup 0.5 gt { 1 exch sub } if", [[0.2], [0.9]], [[0.2], [0.1]]),
        ("dup 0.5 le { 2 mul } { pop 1 } ifelse", [[0.1], [0.8]], [[0.2], [1.0]]),
        ("360 mul sin abs", [[0.25], [0.5]], [[1.0], [0.0]]),
        ("dup 0 eq { pop 7 2 idiv 3 div } { 5 3 mod exch pop 2 div } ifelse", [[0.0], [0.4]], [[1.0], [1.0]]),
        ("0.25 exch 0.5 exch 3 1 roll pop exch pop", [[0.6]], [[0.25]]),
        ("3 copy pop pop pop pop pop pop 1", None, None),
        ("1 2 bitshift 8 div exch pop", [[0.1]], [[0.5]]),
        (
            "dup 0.3 lt 1 index 0.7 gt or not { 1 } { 0 } ifelse exch pop",
            [[0.1], [0.5], [0.9]],
            [[0.0], [1.0], [0.0]],
        ),
        ("ln", [[0.0]], None),
        ("dance", [[0.1]], None),
    ],
)
def test_calculated_functions_work_on_many_values_at_once(text, values, wanted):
    """A radial gradient of a browser took a minute, value by value."""
    pdf = Pdf.new()
    function = function_of(calculated(pdf, 1, 1, text), 1)
    if wanted is None:
        with pytest.raises(DocumentError, match="calculated function"):
            function(np.array(values or [[0.2], [0.9]]))
        return
    assert function(np.array(values)) == pytest.approx(np.array(wanted), abs=1e-9)


def test_how_far_guesses_about_plain_rgb_are_apart_is_told(tmp_path):
    """Gray is read alike by all of them; a full green is not; what has a profile is no guess."""
    pdf = Pdf.new()
    page_of(pdf, "0.5 0.5 0.5 rg 0 0 9 9 re f 0 1 0 rg 0 0 9 9 re f /S cs 1 0 0 sc 0 0 9 9 re f",
            ColorSpace=Dictionary(S=icc(pdf, rgb_profile("sRGB"), 3)))  # fmt: skip
    pdf.save(tmp_path / "job.pdf")
    found = inspect_document(tmp_path / "job.pdf")["guesses"]
    green = [cmm.to_lab(rgb_profile(name), [[0.0, 1, 0]]) for name in ("sRGB", "opRGB", "P3")]
    largest = max(delta_e_2000(one, other)[0] for one, other in combinations(green, 2))
    # Grays differ by the curves: sRGB's bends where opRGB's is a power.
    assert found["colors"] == 2 and found["pictures"] == 0 and found["largest"] == pytest.approx(largest, abs=0.06)
    assert found["mean"] < largest / 2 + 1
    page_of(pdf, "0 0 0 1 k 0 0 9 9 re f")
    del pdf.pages[0]
    pdf.save(tmp_path / "black.pdf")
    assert inspect_document(tmp_path / "black.pdf")["guesses"] == {}


def standing_page(pdf):
    """A page that meets what is looked at for PDF/X-4, and a document around it."""
    page = page_of(pdf, "0 1 1 0 k 10 10 50 50 re f")
    page.TrimBox = Array([10, 10, 290, 290])
    intent = Dictionary(Type=Name.OutputIntent, S=Name.GTS_PDFX, OutputConditionIdentifier="Halden Silk 150")
    profile = Stream(pdf, profile_of("halden-silk-150").raw)
    profile.N = 4
    intent.DestOutputProfile = pdf.make_indirect(profile)
    pdf.Root.OutputIntents = Array([intent])
    for key, value in {"Title": "Poster", "CreationDate": "D:20261126", "ModDate": "D:20261126"}.items():
        pdf.docinfo[f"/{key}"] = value
    pdf.docinfo["/Trapped"] = Name("/False")
    pdf.docinfo["/GTS_PDFXVersion"] = "PDF/X-4"
    return page


def test_what_stands_against_pdf_x_is_named_and_nothing_is_claimed(tmp_path):
    """Every requirement that is looked at: none stands against the first document, each against one that breaks it."""

    def against(spoil, standard="PDF/X-4", **options):
        pdf = Pdf.new()
        spoil(pdf, standing_page(pdf))
        pdf.save(tmp_path / "job.pdf", min_version="1.4", **options)
        found = inspect_document(tmp_path / "job.pdf")
        assert found["PDF/X"][standard]["not looked at"]
        return {each["clause"].split()[-1]: each["said"] for each in found["PDF/X"][standard]["against"]}

    def nothing(pdf, page):
        del pdf, page

    def see_through(pdf, page):
        page.Resources.ExtGState = Dictionary(G=Dictionary(ca=0.5))
        page.Contents = Stream(pdf, b"/G gs 0 1 1 0 k 10 10 50 50 re f")

    def font(pdf, page):
        face = Dictionary(Type=Name.Font, Subtype=Name.Type1, BaseFont=Name.Helvetica)
        page.Resources.Font = Dictionary(F=pdf.make_indirect(face))

    def rgb(pdf, page):
        page.Contents = Stream(pdf, b"1 0 0 rg 10 10 50 50 re f")

    def curve(pdf, page):
        del page
        pdf.Root.Extra = pdf.make_indirect(Dictionary(Type=Name.ExtGState, TR=Name.Identity))

    def boxes(pdf, page):
        del pdf
        page.ArtBox = Array([10, 10, 20, 20])

    def outside(pdf, page):
        del pdf
        page.TrimBox = Array([-10, 10, 290, 290])

    assert against(nothing) == {}
    assert against(nothing, "PDF/X-1a").keys() == {"14.3.2"}
    assert against(nothing, object_stream_mode=pikepdf.ObjectStreamMode.disable, force_version="1.7").keys() == {
        "7.5.2"
    }
    for spoil, clause, words in (
        (font, "9.9", "Helvetica"), (rgb, "8.6.4", "page 1 has DeviceRGB"), (curve, "10.4", "changes tones"),
        (boxes, "14.11.2", "page 1 has both"), (outside, "14.11.2", "outside another"),
        (lambda pdf, page: pdf.Root.__delitem__("/OutputIntents"), "14.11.5", "none"),
        (lambda pdf, page: pdf.docinfo.__delitem__("/Trapped"), "14.11.6", "does not say"),
        (lambda pdf, page: pdf.docinfo.__delitem__("/Title"), "14.3.3", "Title is missing"),
        (lambda pdf, page: page.obj.__setitem__("/AA", Dictionary()), "12.6", "page 1 has actions"),
        (lambda pdf, page: pdf.docinfo.__setitem__("/GTS_PDFXVersion", "PDF/X-3"), "14.3.2", "PDF/X-3"),
    ):  # fmt: skip
        found = against(spoil)
        assert list(found) == [clause] and words in found[clause], (clause, found)
    assert "transparent" in against(see_through, "PDF/X-1a")["11"] and "DeviceRGB" in against(rgb, "PDF/X-1a")["8.6"]
