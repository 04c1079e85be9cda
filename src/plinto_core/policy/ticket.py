"""A ticket: what is set at a device, and what follows from it alone."""

import json
from dataclasses import asdict, dataclass
from typing import Any, Literal

from plinto_core.errors import PolicyError
from plinto_core.plain import read_plain
from plinto_core.recipe import Intent

Converter = Literal["application", "driver", "RIP"]
Mirror = Literal["application", "driver", "RIP", "press"]
Verdict = Literal["once", "twice", "never", "mirrored twice", "mirrored never", "mirrored for nothing"]


@dataclass(frozen=True)
class Ticket:
    """Who converts colors (exactly one should), who mirrors, and the rest of the settings, for the record.

    `transfer`: the print is brought to its stock face down, so that it has to be mirrored once. Raises `PolicyError`.
    """

    converts: tuple[Converter, ...] = ("application",)
    mirrors: tuple[Mirror, ...] = ()
    transfer: bool = False
    profile: str = ""
    intent: Intent = "relative"
    bpc: bool = True
    medium: str = ""
    carriage_gap_mm: float | None = None
    drying_minutes: float | None = None

    def __post_init__(self) -> None:
        for each in (self.converts, self.mirrors):
            if len(set(each)) < len(each):
                raise PolicyError("A place stands twice in the ticket; each converts or mirrors once at most.")

    @property
    def verdicts(self) -> tuple[tuple[Verdict, str], ...]:
        """What happens to a job, each with its sentence."""
        found: list[tuple[Verdict, str]] = []
        by = " and ".join(self.converts)
        if self.converted == "once":
            found.append(("once", f"Colors are converted once, by the {by}."))
        elif self.converts:
            found.append(("twice", f"Colors are converted more than once: by the {by}. Switch all off but one."))
        else:
            found.append(("never", "Nobody converts colors: numbers are printed as if they were the device's own."))
        turned = len(self.mirrors)
        if self.transfer and not turned:
            found.append(("mirrored never", "A transfer has to be mirrored, and nobody does."))
        elif self.transfer and turned % 2 == 0:
            found.append(
                ("mirrored twice", f"Mirrored by the {' and the '.join(self.mirrors)}: it reads the wrong way.")
            )
        elif not self.transfer and turned % 2:
            found.append(("mirrored for nothing", f"Mirrored by the {self.mirrors[0]}, and nothing asks for it."))
        elif turned > 1:
            found.append(("mirrored twice", f"Mirrored by the {' and the '.join(self.mirrors)}."))
        return tuple(found)

    @property
    def converted(self) -> Literal["once", "twice", "never"]:
        """How often colors are converted."""
        return "never" if not self.converts else "once" if len(self.converts) == 1 else "twice"

    @property
    def reads_mirrored(self) -> bool:
        """Whether the print reads the wrong way on its stock."""
        return (len(self.mirrors) % 2 == 1) != self.transfer

    @property
    def is_right(self) -> bool:
        """Whether colors are converted once, and mirrored as the stock asks."""
        return [verdict for verdict, _ in self.verdicts] == ["once"]

    def to_json(self) -> dict[str, Any]:
        """Plain values."""
        plain: dict[str, Any] = json.loads(json.dumps(asdict(self)))
        return plain


def ticket_from_json(plain: object) -> Ticket:
    """Read a ticket. Raises `PolicyError` that says what is wrong."""
    return read_plain(Ticket, plain, "The ticket", PolicyError)
