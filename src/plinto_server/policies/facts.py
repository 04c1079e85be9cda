"""What inspecting a document said, as the API tells it; one that is large is opened without being walked, and says less."""

from typing import Any

from ninja import Field, Schema
from pydantic import field_validator


class BoxFacts(Schema):
    """A size of a page's box."""

    width_mm: float
    height_mm: float


class IntentFacts(Schema):
    """An output intent of a document."""

    kind: str = ""
    condition: str = ""
    info: str = ""
    profile: str = ""
    space: str = ""


class SpaceFacts(Schema):
    """How often colors of a space are painted, by kind of object."""

    kind: str
    tagged: bool
    text: int
    line_art: int = Field(validation_alias="line art")
    pictures: int
    shadings: int
    on_pages: int = Field(validation_alias="on pages")
    first_page: int = Field(validation_alias="first page")
    note: str = ""


class PictureFacts(Schema):
    """A picture, once however often it is placed."""

    space: str
    width: int
    height: int
    bits: int
    compression: str
    least_ppi: float = Field(validation_alias="least ppi")
    most_ppi: float = Field(validation_alias="most ppi")
    placed: int
    first: str


class SpotFacts(Schema):
    """A spot ink: what it comes down to where it is not printed, and how often it is met."""

    objects: int
    pages: int
    comes_down_to: str = Field(validation_alias="comes down to")


class OverprintFacts(Schema):
    """Objects that overprint; white ones among them vanish."""

    objects: int = 0
    with_mode_1: int = Field(default=0, validation_alias="with mode 1")
    white: int = 0


class TransparencyFacts(Schema):
    """Objects that are seen through, or through a mask; how many blend in another mode than Normal, by mode; the spaces
    that groups of pages blend in."""

    see_through: int = Field(default=0, validation_alias="see-through objects")
    masked: int = Field(default=0, validation_alias="masked objects")
    blend_modes: dict[str, int] = Field(default={}, validation_alias="blend modes")
    groups_blend_in: list[str] = Field(default=[], validation_alias="page groups blend in")


class TextFacts(Schema):
    """A color of text."""

    space: str
    values: list[float]
    fonts: list[str]
    times: int


class GuessFacts(Schema):
    """RGB without a profile: distinct colors and pictures, between which readings, and how far apart these are (ΔE00);
    None where there is none."""

    colors: int | None = None
    pictures: int = 0
    between: list[str] = Field([])
    mean: float = 0
    largest: float = 0


class AgainstFacts(Schema):
    """A requirement of a standard that the document does not meet."""

    asks: str
    clause: str
    said: str


class ConformanceFacts(Schema):
    """What stands against a standard, and what was not looked at."""

    against: list[AgainstFacts]
    not_looked_at: list[str] = Field(validation_alias="not looked at")


class DocumentFacts(Schema):
    """All there is to tell of a document without drawing it; `version` is empty where it was not walked."""

    version: str = ""
    locked: bool = False
    objects: int = 0
    #: Each size once, by the box's name.
    boxes: dict[str, list[BoxFacts]] = Field(default={}, validation_alias="boxes mm")
    output_intents: list[IntentFacts] = Field(default=[], validation_alias="output intents")
    spaces: dict[str, SpaceFacts] = Field({})
    pictures: list[PictureFacts] = Field([])
    guesses: GuessFacts | None = None
    spots: dict[str, SpotFacts] = Field({})
    text_colors: list[TextFacts] = Field(default=[], validation_alias="text colors")
    overprint: OverprintFacts = OverprintFacts()
    transparency: TransparencyFacts = TransparencyFacts()
    layers: int = 0
    says_it_is: str = Field(default="", validation_alias="says it is")
    standards: dict[str, ConformanceFacts] = Field(default={}, validation_alias="PDF/X")

    @field_validator("boxes", mode="before")
    @classmethod
    def _named(cls, boxes: dict[str, list[Any]]) -> dict[str, list[BoxFacts]]:
        """Sizes are stored as [width, height]."""
        return {
            box: [BoxFacts(width_mm=width, height_mm=height) for width, height in sizes]
            for box, sizes in boxes.items()
        }
