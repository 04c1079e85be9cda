"""A policy: rows read from top to bottom like a sieve, and what holds around them; to and from JSON."""

import json
from dataclasses import asdict, dataclass
from typing import Any, Literal

from plinto_core.computed_once import computed_once
from plinto_core.errors import PolicyError
from plinto_core.plain import read_plain
from plinto_core.policy.kinds import Catches, Found
from plinto_core.policy.spots import NO_SPOTS, Spot, check_spots, spot_key
from plinto_core.recipe import Intent, canonical_digest

POLICY_VERSION = 1
MOST_ROWS = 60
Preserved = Literal["pure black", "pure inks", "gray"]


@dataclass(frozen=True)
class Convert:
    """Into the destination. `intent` None takes the one that the job names, and the policy's where it names none.

    `method`, `black` (a kind of black generation) and `limit` (percent of total ink; None: the condition's) are the Ink
    station's; `preserve` keeps what is named out of the conversion's hands.
    """

    kind: Literal["convert"] = "convert"
    intent: Intent | None = None
    bpc: bool = True
    method: Literal["as-profiled", "rebuilt"] = "rebuilt"
    black: str = "gcr"
    limit: float | None = None
    preserve: tuple[Preserved, ...] = ()

    def __post_init__(self) -> None:
        if self.method == "as-profiled" and self.limit is not None:
            raise PolicyError(
                "The profile's own tables know no limit. Choose Plinto's own separation, or leave the limit out."
            )
        if self.method == "as-profiled" and self.preserve:
            raise PolicyError("The profile's own tables can preserve nothing. Choose Plinto's own separation.")


@dataclass(frozen=True)
class Leave:
    """As it came."""

    kind: Literal["leave"] = "leave"


@dataclass(frozen=True)
class Refuse:
    """The document is not sent on; `sentence` is what the report tells its sender."""

    sentence: str = "This color cannot be printed as it is. Ask the sender what it is meant to be."
    kind: Literal["refuse"] = "refuse"


@dataclass(frozen=True)
class BlackOnly:
    """Its lightness in the black ink alone, by the L* that is printed."""

    kind: Literal["black only"] = "black only"


@dataclass(frozen=True)
class CleanSolids:
    """RGB primaries and secondaries to one or two full inks, black to black ink, white to bare substrate."""

    kind: Literal["clean solids"] = "clean solids"


Does = Convert | Leave | Refuse | BlackOnly | CleanSolids


@dataclass(frozen=True)
class Row:
    """What is caught, and what is done with it; `off` lets everything through without losing the row."""

    catches: Catches
    does: Does
    off: bool = False

    def __post_init__(self) -> None:
        if isinstance(self.does, CleanSolids) and (self.catches.color != "solids" or self.catches.spaces != ("RGB",)):
            raise PolicyError("Clean solids are made of RGB solids only: catch RGB, and of it solids.")


@dataclass(frozen=True)
class Policy:
    """Rows, of which the last catches all that is left, and what is assumed where a job says nothing.

    `into` is 'condition', or the RGB space that everything goes into. `gray`, `rgb`, `cmyk` name what numbers without a
    profile mean: an RGB space, 'gray' (sRGB's curve), 'destination' (they are meant for it), the digest of a profile, or ''
    for nothing, so that they cannot be converted. `profiles_count`: profiles inside the job are believed;
    `intent_wins`: the job's own output intent says what its device colors of that kind mean. `spots` are inks whose color
    the house knows: it counts instead of the color that the job says they come down to.
    """

    name: str
    rows: tuple[Row, ...]
    into: str = "condition"
    intent: Intent = "relative"
    gray: str = "gray"
    rgb: str = ""
    cmyk: str = ""
    profiles_count: bool = True
    intent_wins: bool = True
    spots: tuple[Spot, ...] = ()
    version: int = POLICY_VERSION

    def __post_init__(self) -> None:
        if not 1 <= len(self.name) <= 120:
            raise PolicyError("A policy needs a name of 1 to 120 characters.")
        if not 1 <= len(self.rows) <= MOST_ROWS:
            raise PolicyError(f"A policy has 1 to {MOST_ROWS} rows, and this one has {len(self.rows)}.")
        if not self.rows[-1].catches.everything or self.rows[-1].off:
            raise PolicyError("The last row has to catch everything that is left, and cannot be switched off.")
        check_spots(self.spots)

    def spot(self, name: str) -> Spot | None:
        """The spot ink of this name, in whatever spelling, if the house knows it; process inks are none."""
        return self._spots_by_key.get(spot_key(name))

    @computed_once
    def _spots_by_key(self) -> dict[str, Spot]:
        return {key: each for each in self.spots if (key := spot_key(each.name)) not in NO_SPOTS}

    def caught_by(self, found: Found) -> int:
        """Which row, from 0, this color falls into."""
        return next(at for at, row in enumerate(self.rows) if not row.off and row.catches.has(found))

    @property
    def digest(self) -> str:
        """SHA-256 of the canonical JSON."""
        return canonical_digest(self.to_json())

    def to_json(self) -> dict[str, Any]:
        """Plain lists and dictionaries, without what is as it would be anyway."""
        plain: dict[str, Any] = json.loads(json.dumps(asdict(self)))
        for row in plain["rows"]:
            row["catches"] = {key: value for key, value in row["catches"].items() if value not in (None, [], "any")}
        if not self.spots:
            del plain["spots"]
        return plain


@dataclass(frozen=True)
class Decision:
    """What was decided of one color: the row (from 0) that caught it, what is done, and why if the row does not say."""

    row: int
    does: Literal["convert", "leave", "refuse", "black only", "clean solids"]
    said: str = ""
    #: Source of the conversion, by name, and its intent.
    source: str = ""
    intent: str = ""


def policy_from_json(plain: object) -> Policy:
    """Read a policy. Raises `PolicyError` that says where it cannot be read, and what is wrong there."""
    if not isinstance(plain, dict) or "rows" not in plain:
        raise PolicyError("A policy is a JSON object with a name and rows. Export one from Plinto and change that.")
    if plain.get("version", POLICY_VERSION) != POLICY_VERSION:
        raise PolicyError(
            f"This policy is of version {plain['version']}; this Plinto reads version {POLICY_VERSION}."
        )
    return read_plain(Policy, plain, "The policy", PolicyError)
