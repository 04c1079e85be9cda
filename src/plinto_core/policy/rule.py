"""A delivery rule: what a document has to be like when it leaves."""

import json
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any, Literal

from plinto_core.errors import PolicyError
from plinto_core.plain import read_plain


@dataclass(frozen=True)
class DeliveryRule:
    """`profiles`: whether converted colors carry the destination's profile, or go as device colors under an output intent.

    `most_ppi`: pictures above it are averaged down to it, never up; `least_ppi`: pictures below it are named in the report.
    `spots`: 'keep', or 'refuse' a document in which a spot ink is left. `transparency`: 'keep' or 'refuse'. Raises
    `PolicyError`.
    """

    name: str = "As it is"
    profiles: Literal["inside", "none"] = "none"
    output_intent: bool = True
    most_ppi: float | None = None
    least_ppi: float | None = None
    compression: Literal["lossless", "jpeg"] = "lossless"
    jpeg_quality: int = 92
    pdf_version: Literal["", "1.4", "1.6", "1.7", "2.0"] = ""
    spots: Literal["keep", "refuse"] = "keep"
    transparency: Literal["keep", "refuse"] = "keep"

    def __post_init__(self) -> None:
        if not 50 <= self.jpeg_quality <= 100:
            raise PolicyError(f"A JPEG quality of {self.jpeg_quality} is not for print; choose 50 to 100.")
        for bound in (self.most_ppi, self.least_ppi):
            if bound is not None and not 10 <= bound <= 10_000:
                raise PolicyError(f"A resolution of {bound:g} ppi is out of any range; choose 10 to 10,000.")
        if self.most_ppi and self.least_ppi and self.most_ppi < self.least_ppi:
            raise PolicyError(f"No picture has at most {self.most_ppi:g} and at least {self.least_ppi:g} ppi.")

    def to_json(self) -> dict[str, Any]:
        """Plain values."""
        plain: dict[str, Any] = json.loads(json.dumps(asdict(self)))
        return plain


def read_rule(path: Path | None) -> DeliveryRule:
    """The rule in a JSON file; the one that changes nothing where there is none. Raises `PolicyError`."""
    if path is None:
        return DeliveryRule()
    try:
        return rule_from_json(json.loads(path.read_bytes()))
    except (ValueError, RecursionError) as error:
        raise PolicyError(f"'{path.name}' is no JSON, so no delivery rule ({error}).") from error


def rule_from_json(plain: object) -> DeliveryRule:
    """Read a delivery rule. Raises `PolicyError` that says what is wrong."""
    return read_plain(DeliveryRule, plain, "The delivery rule", PolicyError)
