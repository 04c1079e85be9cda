"""What the operator chose, station by station: frozen, versioned, to and from JSON."""

import hashlib
import json
import re
from dataclasses import asdict, dataclass, field
from typing import Any, Literal

from plinto_core.errors import RecipeError
from plinto_core.files import safe_name
from plinto_core.plain import read_plain
from plinto_core.recipe.adjustment import Adjustment
from plinto_core.recipe.black import BLACK_PRESETS, BlackPolicy
from plinto_core.recipe.film import FilmSettings, ToneTable
from plinto_core.recipe.formats import FORMATS, Format
from plinto_core.recipe.limits import InkLimits
from plinto_core.recipe.plate import PlateStation
from plinto_core.recipe.region import MOST_REGIONS, Region

#: Version 1 had neither Adjust nor Plate; it is read as one that leaves them alone.
RECIPE_VERSION = 2
_READABLE = (1, 2)

Intent = Literal["perceptual", "relative", "saturation", "absolute"]
Method = Literal["as-profiled", "rebuilt"]
Compression = Literal["none", "lzw", "deflate"]
NAME_FIELDS = ("artwork", "condition", "intent", "limit", "date")


@dataclass(frozen=True)
class SourceStation:
    """Which profile gives the artwork's numbers their meaning: 'embedded', a space's name, or a digest."""

    profile: str = "embedded"


@dataclass(frozen=True)
class AdjustStation:
    """Edits on the artwork, everywhere and region by region; the original is never changed."""

    base: Adjustment = Adjustment()
    regions: tuple[Region, ...] = ()

    def __post_init__(self) -> None:
        if len(self.regions) > MOST_REGIONS:
            raise RecipeError(f"{len(self.regions)} regions are too many; {MOST_REGIONS} are the most.")
        if len({region.name for region in self.regions}) < len(self.regions):
            raise RecipeError("Two regions have the same name; give each its own.")


@dataclass(frozen=True)
class AimStation:
    """How the source's colors are aimed at the condition."""

    intent: Intent = "relative"
    bpc: bool = True

    def __post_init__(self) -> None:
        if self.intent not in ("perceptual", "relative", "saturation", "absolute"):
            raise RecipeError(
                f"'{self.intent}' is no rendering intent; choose perceptual, relative, saturation or absolute."
            )

    @property
    def compensates_black(self) -> bool:
        """Whether black point compensation takes place: never in absolute, which promises true colors."""
        return self.bpc and self.intent != "absolute"


@dataclass(frozen=True)
class InkStation:
    """How an aimed color is made of inks. All but `method` only counts when it is 'rebuilt'.

    `without` names inks that are left out, the others making up for them; `keep` sets of inks (as 'K', 'MY')
    that CMYK artwork keeps pure.
    """

    method: Method = "rebuilt"
    limits: InkLimits = field(default_factory=lambda: InkLimits(300.0))
    black: BlackPolicy = BLACK_PRESETS["gcr"]
    without: tuple[str, ...] = ()
    keep: tuple[str, ...] = ()
    #: What stays of a kept ink: the look of its tints, or its numbers, as far as the ink's limit lets them.
    keep_as: Literal["look", "numbers"] = "look"

    def __post_init__(self) -> None:
        if self.method not in ("as-profiled", "rebuilt"):
            raise RecipeError(f"'{self.method}' is no way to separate; choose as-profiled or rebuilt.")
        if self.keep_as not in ("look", "numbers"):
            raise RecipeError(f"Inks are kept by their look or their numbers, not by '{self.keep_as}'.")
        if self.method == "as-profiled" and (self.without or self.keep):
            raise RecipeError("The profile's own tables can neither leave out nor keep inks. Choose rebuilt.")


@dataclass(frozen=True)
class NegativeSettings:
    """A contact negative: its tone table, and the film it is printed on (one gray picture, or halftoned)."""

    table: ToneTable = field(default_factory=ToneTable)
    film: FilmSettings = field(default_factory=lambda: FilmSettings(halftone=False, mirrored=True, dpi=720))


@dataclass(frozen=True)
class DeliverStation:
    """What the written file is like. `name_rule` has fields in braces: see NAME_FIELDS.

    'films' are a gray or 1-bit film an ink, 'negative' one contact negative made of the artwork's lightness,
    'hard-proof' one page with a control strip and the settings.
    """

    depth: Literal[8, 16] = 8
    compression: Compression = "lzw"
    embed_profile: bool = True
    name_rule: str = "{artwork} {condition}"
    format: Format = "tiff"
    jpeg_quality: int = 92
    film: FilmSettings = field(default_factory=FilmSettings)
    negative: NegativeSettings = field(default_factory=NegativeSettings)
    #: Whether TIFF and films hold what the printer lays down, light and dark inks apart, instead of the separation.
    calibrated: bool = False

    def __post_init__(self) -> None:
        if self.depth not in (8, 16):
            raise RecipeError(f"A depth of {self.depth} bit cannot be written; choose 8 or 16.")
        if self.compression not in ("none", "lzw", "deflate"):
            raise RecipeError(f"Compression '{self.compression}' is not known; choose none, lzw or deflate.")
        if self.format not in FORMATS:
            raise RecipeError(f"The format '{self.format}' is not known; choose {', '.join(FORMATS)}.")
        if not 50 <= self.jpeg_quality <= 100:
            raise RecipeError(f"A JPEG quality of {self.jpeg_quality} is not for print; choose 50 to 100.")
        if not 1 <= len(self.name_rule) <= 200:
            raise RecipeError("The name rule needs 1 to 200 characters.")
        unknown = set(re.findall(r"{([^}]*)}", self.name_rule)) - set(NAME_FIELDS)
        if unknown or self.name_rule.count("{") != self.name_rule.count("}"):
            raise RecipeError(
                f"The name rule has {', '.join(sorted(unknown)) or 'an open brace'}; its fields are "
                + ", ".join(f"{{{name}}}" for name in NAME_FIELDS) + "."
            )  # fmt: skip

    def suffix_for(self, plates: int) -> str:
        """The ending of the file's name, for so many plates: several film TIFFs come in an archive."""
        if self.format == "films" and self.film.container == "tiff" and plates == 1:
            return ".tif"
        return self.suffix

    @property
    def suffix(self) -> str:
        """The ending of the file's name, for more plates than one."""
        if self.format == "films":
            return ".zip" if self.film.container == "tiff" else ".pdf"
        if self.format == "negative":
            return ".tif" if self.negative.film.container == "tiff" else ".pdf"
        return FORMATS[self.format].suffix

    @property
    def ink_depth(self) -> int:
        """Bits an ink is written with; JPEG and PDF know 8, films are screened from 16."""
        return FORMATS[self.format].bits or self.depth

    def file_name(self, **fields: str) -> str:
        """The name that the rule gives, safe on every file system, without ending; never empty."""
        name = re.sub(r"{([^}]*)}", lambda found: fields[found[1]], self.name_rule)
        # A page, its films and its negative may all be PDF: none is written over another.
        word = FORMATS[self.format].word
        name = name if word in name else f"{name} {word}"
        return safe_name(name, "separation")


@dataclass(frozen=True)
class Recipe:
    """All stations of one separation, in the order of the line."""

    source: SourceStation = field(default_factory=SourceStation)
    adjust: AdjustStation = field(default_factory=AdjustStation)
    aim: AimStation = field(default_factory=AimStation)
    ink: InkStation = field(default_factory=InkStation)
    plate: PlateStation = field(default_factory=PlateStation)
    deliver: DeliverStation = field(default_factory=DeliverStation)
    version: int = RECIPE_VERSION

    def to_json(self) -> dict[str, Any]:
        """Plain lists and dictionaries."""
        plain: dict[str, Any] = json.loads(json.dumps(asdict(self)))
        return plain

    @property
    def digest(self) -> str:
        """SHA-256 of the canonical JSON."""
        return canonical_digest(self.to_json())


def canonical_digest(plain: object) -> str:
    """SHA-256 of plain values: the same whether a number was typed as 230 or read as 230.0."""
    return hashlib.sha256(json.dumps(_as_floats(plain), sort_keys=True).encode()).hexdigest()


def _as_floats(plain: object) -> object:
    if isinstance(plain, dict):
        return {key: _as_floats(value) for key, value in plain.items()}
    if isinstance(plain, list | tuple):
        return [_as_floats(value) for value in plain]
    return float(plain) if isinstance(plain, int) and not isinstance(plain, bool) else plain


def recipe_from_json(plain: object) -> Recipe:
    """Read a recipe; RecipeError says what is wrong with it, and where."""
    if not isinstance(plain, dict):
        raise RecipeError("A recipe is a JSON object with the stations source, adjust, aim, ink, plate and deliver.")
    version = plain.get("version", RECIPE_VERSION)
    if version not in _READABLE:
        raise RecipeError(f"This recipe is of version {version}; this Plinto reads up to version {RECIPE_VERSION}.")
    return read_plain(Recipe, {**plain, "version": RECIPE_VERSION}, "The recipe", RecipeError)
