"""House rules: what a house takes for granted, and what it does with artwork that says something else, or nothing."""

import base64
import binascii
from dataclasses import asdict, dataclass, field
from typing import Any, Literal

from plinto_core.errors import IccError, RecipeError
from plinto_core.icc.profile import Profile, parse
from plinto_core.icc.standard import RGB_SPACES, rgb_profile
from plinto_core.plain import read_plain

RULES_VERSION = 1
Action = Literal["keep", "assume", "convert", "ask"]


@dataclass(frozen=True)
class HouseRules:
    """A named set. Spaces are names (sRGB, opRGB, ROMM, P3) or digests of profiles that travel with the set.

    `gray` names the RGB space whose curve gray artwork has; `cmyk` is a digest, or empty where the house has none.
    `untagged` and `differing` say what happens to artwork without a profile, and with one that is not the house's.
    `results_days` (1…3650) is how long files of runs are kept; None keeps them until somebody removes them.
    """

    name: str
    rgb: str = "opRGB"
    gray: str = "sRGB"
    cmyk: str = ""
    intent: Literal["perceptual", "relative", "saturation", "absolute"] = "relative"
    bpc: bool = True
    display: str = "sRGB"
    mark_color: tuple[int, int, int] = (255, 255, 255)
    untagged: Literal["keep", "assume", "ask"] = "ask"
    differing: Action = "keep"
    results_days: int | None = None

    def __post_init__(self) -> None:
        if not 1 <= len(self.name) <= 80:
            raise RecipeError("House rules need a name of 1 to 80 letters.")
        if self.gray not in RGB_SPACES:
            raise RecipeError(f"Gray follows the curve of {', '.join(RGB_SPACES)}, not of '{self.gray}'.")
        if any(not 0 <= value <= 255 for value in self.mark_color):
            raise RecipeError("The marking color is three values from 0 to 255.")
        if self.results_days is not None and not 1 <= self.results_days <= 3650:
            raise RecipeError("Files of runs are kept for 1 to 3650 days, or until somebody removes them.")

    def space_for(self, stored_as: str) -> str:
        """The house's space for artwork stored as RGB, gray, CMYK or Lab; empty where there is none."""
        return {"RGB": self.rgb, "gray": self.gray, "CMYK": self.cmyk}.get(stored_as, "")

    @property
    def digests(self) -> tuple[str, ...]:
        """The profiles that travel with the set."""
        named = {self.rgb, self.cmyk, self.display} - set(RGB_SPACES) - {""}
        return tuple(sorted(named))


@dataclass(frozen=True)
class Decision:
    """What is done with a piece of artwork and why, as a line of its log; `space` is what is assumed or aimed for."""

    action: Action
    space: str
    log: str
    asks: tuple[str, ...] = field(default=())


def decide(  # noqa: PLR0911 - one return a case
    rules: HouseRules, stored_as: str, embedded: Profile | None, house: Profile | None
) -> Decision:
    """What the rules do with artwork; `house` is the profile behind `rules.space_for(stored_as)`, if there is one."""
    space = rules.space_for(stored_as)
    if stored_as == "Lab":
        return Decision("keep", "", f"{rules.name}: Lab artwork says its colors itself.")
    if house is None:
        said = f"{rules.name}: the house has no {stored_as} space, so the artwork stays as it came."
        return Decision("keep", "", said)
    if embedded is None:
        if rules.untagged == "assume":
            return Decision("assume", space, f"{rules.name}: no profile was embedded; {house.name} was assumed.")
        if rules.untagged == "ask":
            return Decision("ask", space, f"{rules.name}: no profile was embedded; you decide.", ("assume", "keep"))
        return Decision("keep", "", f"{rules.name}: no profile was embedded, and none was assumed.")
    if _same(embedded, house) or (stored_as == "gray" and rules.differing == "convert"):
        return Decision("keep", "", f"{rules.name}: {embedded.name} is embedded and stays.")
    differs = f"{rules.name}: {embedded.name} is embedded, the house's is {house.name}"
    if rules.differing == "assume":
        return Decision("assume", space, f"{differs}; {house.name} was assumed instead.")
    if rules.differing == "convert":
        return Decision("convert", space, f"{differs}; the colors were converted to it.")
    if rules.differing == "ask":
        return Decision("ask", space, f"{differs}; you decide.", ("keep", "convert", "assume"))
    return Decision("keep", "", f"{differs}; the embedded one stays.")


def _same(one: Profile, other: Profile) -> bool:
    """Whether two profiles say the same colors: equal tags, whatever their names, dates and texts."""
    texts = {"desc", "cprt", "dmnd", "dmdd", "targ", "chad", "bkpt"}
    first, second = ({tag: repr(v) for tag, v in p.tags.items() if tag not in texts} for p in (one, other))
    return one.digest == other.digest or first == second


def house_profile(space: str, stored: dict[str, Profile]) -> Profile | None:
    """The profile that a set names; None for an empty name. Raises `RecipeError` for one that is not at hand."""
    if not space:
        return None
    if space in RGB_SPACES:
        return rgb_profile(space)
    if space not in stored:
        raise RecipeError(
            f"The profile {space[:12]}… of these house rules is not here: import the set with its profiles."
        )
    return stored[space]


def read_rules(plain: object) -> HouseRules:
    """A set from plain values. Raises `RecipeError` that says where it cannot be read."""
    return read_plain(HouseRules, plain, "The house rules", RecipeError, strict=False)


def rules_to_file(rules: HouseRules, stored: dict[str, Profile]) -> dict[str, Any]:
    """The set as one JSON object, its profiles inside."""
    profiles = {digest: base64.b64encode(stored[digest].raw).decode() for digest in rules.digests}
    return {"house_rules": RULES_VERSION, "rules": asdict(rules), "profiles": profiles}


def rules_from_file(plain: object) -> tuple[HouseRules, dict[str, Profile]]:
    """The set and its profiles by digest. Raises `RecipeError` that says what is wrong."""
    if not isinstance(plain, dict) or plain.get("house_rules") != RULES_VERSION:
        raise RecipeError("This is no file of house rules. Export a set from Plinto and import that.")
    try:
        rules = read_rules(plain.get("rules"))
        given = plain.get("profiles") or {}
        profiles = [parse(base64.b64decode(text, validate=True)) for text in dict(given).values()]
    except (binascii.Error, TypeError, ValueError, IccError) as error:
        raise RecipeError(f"A profile inside the house rules cannot be read: {error}") from error
    stored = {profile.digest: profile for profile in profiles}
    for space in (rules.rgb, rules.cmyk, rules.display):
        house_profile(space, stored)
    return rules, stored
