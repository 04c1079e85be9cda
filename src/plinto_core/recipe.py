"""What the operator chose, station by station: frozen, versioned, to and from JSON."""

import hashlib
import json
import re
from dataclasses import asdict, dataclass, field
from typing import Any, Literal

from plinto_core.errors import RecipeError
from plinto_core.separation.black import BLACK_KINDS, BlackPolicy
from plinto_core.separation.inverse import InkLimits

RECIPE_VERSION = 1

Intent = Literal["perceptual", "relative", "saturation", "absolute"]
Method = Literal["as-profiled", "rebuilt"]
Compression = Literal["none", "lzw", "deflate"]
NAME_FIELDS = ("artwork", "condition", "intent", "limit", "date")


@dataclass(frozen=True)
class SourceStation:
    """Which profile gives the artwork's numbers their meaning: 'embedded', a space's name, or a digest."""

    profile: str = "embedded"


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
    """How an aimed color is made of inks. Limits and black only count when it is 'rebuilt'."""

    method: Method = "rebuilt"
    limits: InkLimits = field(default_factory=lambda: InkLimits(300.0))
    black: BlackPolicy = BLACK_KINDS["gcr"]

    def __post_init__(self) -> None:
        if self.method not in ("as-profiled", "rebuilt"):
            raise RecipeError(f"'{self.method}' is no way to separate; choose as-profiled or rebuilt.")


@dataclass(frozen=True)
class DeliverStation:
    """What the written file is like. `name_rule` has fields in braces: see NAME_FIELDS."""

    depth: Literal[8, 16] = 8
    compression: Compression = "lzw"
    embed_profile: bool = True
    name_rule: str = "{artwork} {condition}"

    def __post_init__(self) -> None:
        if self.depth not in (8, 16):
            raise RecipeError(f"A depth of {self.depth} bit cannot be written; choose 8 or 16.")
        if self.compression not in ("none", "lzw", "deflate"):
            raise RecipeError(f"Compression '{self.compression}' is not known; choose none, lzw or deflate.")
        if not 1 <= len(self.name_rule) <= 200:
            raise RecipeError("The name rule needs 1 to 200 characters.")
        strangers = set(re.findall(r"{([^}]*)}", self.name_rule)) - set(NAME_FIELDS)
        if strangers or self.name_rule.count("{") != self.name_rule.count("}"):
            raise RecipeError(
                f"The name rule has {', '.join(sorted(strangers)) or 'an open brace'}; its fields are "
                + ", ".join(f"{{{name}}}" for name in NAME_FIELDS) + "."
            )  # fmt: skip

    def file_name(self, **fields: str) -> str:
        """The name that the rule gives, safe on every file system, without ending; never empty."""
        name = re.sub(r"{([^}]*)}", lambda found: fields[found[1]], self.name_rule)
        name = re.sub(r'[\x00-\x1f/\\:*?"<>|]+', "-", name).strip(" .")
        return name.encode()[:120].decode("utf-8", "ignore").strip() or "separation"


@dataclass(frozen=True)
class Recipe:
    """All stations of one separation. Adjust and Plate come with their stations."""

    source: SourceStation = field(default_factory=SourceStation)
    aim: AimStation = field(default_factory=AimStation)
    ink: InkStation = field(default_factory=InkStation)
    deliver: DeliverStation = field(default_factory=DeliverStation)
    version: int = RECIPE_VERSION

    def to_json(self) -> dict[str, Any]:
        """Plain lists and dictionaries."""
        plain: dict[str, Any] = json.loads(json.dumps(asdict(self)))
        return plain

    @property
    def digest(self) -> str:
        """SHA-256 of the canonical JSON."""
        return hashlib.sha256(json.dumps(self.to_json(), sort_keys=True).encode()).hexdigest()


def recipe_from_json(plain: object) -> Recipe:
    """Read a recipe; RecipeError says what is wrong with it."""
    if not isinstance(plain, dict):
        raise RecipeError("A recipe is a JSON object with the stations source, aim, ink and deliver.")
    version = plain.get("version", RECIPE_VERSION)
    if version != RECIPE_VERSION:
        raise RecipeError(f"This recipe is of version {version}; this Plinto reads version {RECIPE_VERSION}.")
    try:
        ink = dict(plain.get("ink", {}))
        if "limits" in ink:
            limits = dict(ink["limits"])
            limits["per_ink_percent"] = tuple((str(k), float(v)) for k, v in limits.get("per_ink_percent", ()))
            ink["limits"] = InkLimits(**limits)
        if "black" in ink:
            ink["black"] = BlackPolicy(**ink["black"])
        return Recipe(
            SourceStation(**plain.get("source", {})),
            AimStation(**plain.get("aim", {})),
            InkStation(**ink),
            DeliverStation(**plain.get("deliver", {})),
        )
    except (TypeError, ValueError) as error:
        raise RecipeError(f"The recipe cannot be read: {error}.") from error
