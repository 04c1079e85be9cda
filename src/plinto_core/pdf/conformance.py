"""What stands against PDF/X in a document: requirements that are looked at here, each met or not, and those that are not.

Nothing here claims a conformance: ISO 15930-4 (PDF/X-1a) and ISO 15930-7 (PDF/X-4) ask for more than is read. Clauses named
are those of ISO 32000-1 that the required objects are defined in.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any, Literal

import pikepdf
from pikepdf import Array, Dictionary, Name, Stream

from plinto_core.pdf.reading import cause
from plinto_core.pdf.state import ColorUse

Standard = Literal["PDF/X-1a", "PDF/X-4"]
STANDARDS: tuple[Standard, ...] = ("PDF/X-1a", "PDF/X-4")
#: What both ask for and nobody looks at here.
NOT_LOOKED_AT = (
    "whether embedded fonts hold every glyph that is used, and with its width",
    "whether metadata and the information dictionary say the same",
    "what embedded files, form fields and alternate pictures hold",
    "trapping annotations and printer's marks",
)
_MOST_TOLD = 3
_VERSION_KEY = "{http://www.npes.org/pdfx/ns/id/}GTS_PDFXVersion"


@dataclass(frozen=True)
class Requirement:
    """One requirement: where its objects are defined, whether it is met, and what stands against it."""

    asks: str
    clause: str
    met: bool
    said: str = ""


def requirements(pdf: pikepdf.Pdf, uses: list[ColorUse], standard: Standard) -> list[Requirement]:
    """Every requirement of a standard that is looked at, for an open document whose colors were walked."""
    checks: list[tuple[str, str, Callable[[pikepdf.Pdf, list[ColorUse]], Iterator[str]]]] = [
        ("not locked", "7.6", _locked),
        ("one output intent of kind GTS_PDFX, with its condition", "14.11.5", _intent),
        ("a TrimBox or an ArtBox on every page, not both, inside the other boxes", "14.11.2", _boxes),
        ("every font embedded", "9.9", _fonts),
        ("said whether it is trapped", "14.11.6", _trapped),
        ("title and dates", "14.3.3", _information),
        ("no actions and no scripts", "12.6", _actions),
        ("no transfer curves in graphics states", "10.4", _transfer),
        ("no pictures and streams packed by LZW", "7.4.4", _lzw),
    ]
    if standard == "PDF/X-1a":
        checks += [
            ("PDF 1.3 or 1.4", "7.5.2", _old_version),
            ("gray, CMYK and spot inks only, without profiles", "8.6", _inks_only),
            ("no transparency", "11", _opaque),
        ]
    else:
        checks += [
            ("PDF 1.6 at most", "7.5.2", _version),
            ("device colors of the kind of the output intent only", "8.6.4", _as_intended),
        ]
    checks.append((f"says that it is {standard}", "14.3.2", _named(standard)))
    told = []
    for asks, clause, check in checks:
        try:
            against = list(dict.fromkeys(check(pdf, uses)))
        except (TypeError, ValueError, KeyError, AttributeError, pikepdf.PdfError) as error:
            # pikepdf says in any of these that an object is of another kind than belongs there.
            against = [f"it cannot be read ({cause(error)[:80]})"]
        more = f"; and {len(against) - _MOST_TOLD} more" if len(against) > _MOST_TOLD else ""
        told.append(Requirement(asks, clause, not against, "; ".join(against[:_MOST_TOLD]) + more))
    return told


def conformance(pdf: pikepdf.Pdf, uses: list[ColorUse]) -> dict[str, Any]:
    """For each standard what stands against it, and what was not looked at, as plain values."""
    return {
        standard: {
            "against": [
                {"asks": each.asks, "clause": f"ISO 32000-1, {each.clause}", "said": each.said}
                for each in requirements(pdf, uses, standard) if not each.met
            ],
            "not looked at": list(NOT_LOOKED_AT),
        }
        for standard in STANDARDS
    }  # fmt: skip


def _locked(pdf: pikepdf.Pdf, uses: list[ColorUse]) -> Iterator[str]:
    del uses
    if pdf.is_encrypted:
        yield "it is locked"


def _intents(pdf: pikepdf.Pdf) -> list[Any]:
    given = pdf.Root.get("/OutputIntents")
    found = [each for each in given if isinstance(each, Dictionary)] if isinstance(given, Array) else []
    return [each for each in found if str(each.get("/S", "")) == "/GTS_PDFX"]


def _intent(pdf: pikepdf.Pdf, uses: list[ColorUse]) -> Iterator[str]:
    del uses
    found = _intents(pdf)
    if len(found) != 1:
        yield "it has none" if not found else f"it has {len(found)}"
    elif not str(found[0].get("/OutputConditionIdentifier", "")):
        yield "it does not name its condition"
    elif not isinstance(found[0].get("/DestOutputProfile"), Stream) and not str(found[0].get("/RegistryName", "")):
        yield "it has neither a profile nor a registry"


def _boxes(pdf: pikepdf.Pdf, uses: list[ColorUse]) -> Iterator[str]:
    del uses
    for number, page in enumerate(pdf.pages, 1):
        named = [name for name in ("/TrimBox", "/ArtBox") if name in page.obj]
        if len(named) != 1:
            yield f"page {number} has {'both' if named else 'neither'}"
            continue
        inner, media = _rectangle(page.obj[named[0]]), _rectangle(page.mediabox)
        bleed = _rectangle(page.obj.get("/BleedBox")) or media
        if inner is None or media is None or bleed is None:
            yield f"page {number} has a box that is none"
        elif not (_inside(inner, bleed) and _inside(bleed, media)):
            yield f"page {number} has a box outside another"


_Rectangle = tuple[float, float, float, float]


def _rectangle(found: Any) -> _Rectangle | None:
    try:
        x0, y0, x1, y1 = (float(value) for value in found)
    except (TypeError, ValueError):
        return None
    return min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1)


def _inside(inner: _Rectangle, outer: _Rectangle) -> bool:
    slack = 0.01
    return all(inner[at] >= outer[at] - slack for at in (0, 1)) and all(
        inner[at] <= outer[at] + slack for at in (2, 3)
    )


def _fonts(pdf: pikepdf.Pdf, uses: list[ColorUse]) -> Iterator[str]:
    """Font dictionaries anywhere in the document; Type 3 fonts are drawn, and Type 0 are told by what they are made of."""
    del uses
    for found in pdf.objects:
        if not isinstance(found, Dictionary) or str(found.get("/Type", "")) != "/Font":
            continue
        if str(found.get("/Subtype", "")) in ("/Type3", "/Type0"):
            continue
        described = found.get("/FontDescriptor")
        inside = isinstance(described, Dictionary) and any(
            isinstance(described.get(key), Stream) for key in ("/FontFile", "/FontFile2", "/FontFile3")
        )
        if not inside:
            yield str(found.get("/BaseFont", "/a font without a name"))[1:]


def _trapped(pdf: pikepdf.Pdf, uses: list[ColorUse]) -> Iterator[str]:
    del uses
    if str(pdf.docinfo.get("/Trapped", "")) not in ("/True", "/False"):
        yield "it does not say"


def _information(pdf: pikepdf.Pdf, uses: list[ColorUse]) -> Iterator[str]:
    del uses
    for key in ("/Title", "/CreationDate", "/ModDate"):
        if not str(pdf.docinfo.get(key, "")):
            yield f"{key[1:]} is missing"


def _actions(pdf: pikepdf.Pdf, uses: list[ColorUse]) -> Iterator[str]:
    del uses
    if "/OpenAction" in pdf.Root and isinstance(pdf.Root["/OpenAction"], Dictionary):
        yield "it does something when it is opened"
    names = pdf.Root.get("/Names")
    if "/AA" in pdf.Root or (isinstance(names, Dictionary) and "/JavaScript" in names):
        yield "it has scripts or actions"
    for number, page in enumerate(pdf.pages, 1):
        if "/AA" in page.obj:
            yield f"page {number} has actions"


def _transfer(pdf: pikepdf.Pdf, uses: list[ColorUse]) -> Iterator[str]:
    del uses
    for found in pdf.objects:
        # Soft masks have a /TR as well, which is theirs to have.
        if not isinstance(found, Dictionary) or isinstance(found, Stream) or "/S" in found:
            continue
        if "/TR" in found or found.get("/TR2", Name.Default) != Name.Default:
            yield "a graphics state changes tones"


def _lzw(pdf: pikepdf.Pdf, uses: list[ColorUse]) -> Iterator[str]:
    del uses
    for found in pdf.objects:
        if isinstance(found, Stream) and "LZWDecode" in str(found.get("/Filter", "")):
            yield "a stream is packed by LZW"


def _old_version(pdf: pikepdf.Pdf, uses: list[ColorUse]) -> Iterator[str]:
    del uses
    if pdf.pdf_version not in ("1.3", "1.4"):
        yield f"it is PDF {pdf.pdf_version}"


def _version(pdf: pikepdf.Pdf, uses: list[ColorUse]) -> Iterator[str]:
    del uses
    if pdf.pdf_version > "1.6":
        yield f"it is PDF {pdf.pdf_version}"


def _inks_only(pdf: pikepdf.Pdf, uses: list[ColorUse]) -> Iterator[str]:
    del pdf
    for use in uses:
        space = use.space.under if use.space.family == "Indexed" and use.space.under else use.space
        if space.kind == "pattern":
            continue
        device = space.family in ("DeviceGray", "DeviceCMYK", "Separation", "DeviceN")
        if not device or (space.kind == "spot" and space.under and space.under.kind not in ("gray", "CMYK")):
            yield f"page {use.page} has {use.space.label}"


def _opaque(pdf: pikepdf.Pdf, uses: list[ColorUse]) -> Iterator[str]:
    for use in uses:
        if use.alpha < 1 or use.blend not in ("Normal", "Compatible") or use.masked:
            yield f"page {use.page} is transparent in places"
    for number, page in enumerate(pdf.pages, 1):
        group = page.obj.get("/Group")
        if isinstance(group, Dictionary) and str(group.get("/S", "")) == "/Transparency":
            yield f"page {number} is a transparency group"


def _as_intended(pdf: pikepdf.Pdf, uses: list[ColorUse]) -> Iterator[str]:
    found = _intents(pdf)
    profile = found[0].get("/DestOutputProfile") if found else None
    channels = int(profile.get("/N", 0)) if isinstance(profile, Stream) else 0
    for use in uses:
        space = use.space.under if use.space.family == "Indexed" and use.space.under else use.space
        if (space.family == "DeviceRGB" and channels != 3) or (
            space.family == "DeviceCMYK" and channels not in (0, 4)
        ):
            yield f"page {use.page} has {space.family}"


def _named(standard: Standard) -> Callable[[pikepdf.Pdf, list[ColorUse]], Iterator[str]]:
    def check(pdf: pikepdf.Pdf, uses: list[ColorUse]) -> Iterator[str]:
        del uses
        said = said_of_itself(pdf)
        if not said.startswith(standard):
            yield f"it says '{said}'" if said else "it says nothing"

    return check


def said_of_itself(pdf: pikepdf.Pdf) -> str:
    """The PDF/X version that a document names in its metadata or its information; '' for none."""
    metadata = pdf.Root.get("/Metadata")
    if isinstance(metadata, Stream):
        with pdf.open_metadata(set_pikepdf_as_editor=False, update_docinfo=False, strict=False) as found:
            if found.get(_VERSION_KEY):
                return str(found[_VERSION_KEY])[:60]
    return str(pdf.docinfo.get("/GTS_PDFXVersion", ""))[:60]


def unsay(pdf: pikepdf.Pdf) -> None:
    """Take what a document says of its PDF/X version out of it."""
    if isinstance(pdf.Root.get("/Metadata"), Stream):
        with pdf.open_metadata(set_pikepdf_as_editor=False, update_docinfo=False, strict=False) as found:
            if found.get(_VERSION_KEY):
                del found[_VERSION_KEY]
    for key in ("/GTS_PDFXVersion", "/GTS_PDFXConformance"):
        if key in pdf.docinfo:
            del pdf.docinfo[key]
