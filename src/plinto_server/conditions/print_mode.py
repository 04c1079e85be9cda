"""How a printer is set for a condition: what no profile says, and what has to be the same for every job."""

from dataclasses import asdict, dataclass, fields
from typing import Any

from plinto_core.errors import CharacterizationError

_MOST_LETTERS = 120
#: What each figure may be, and its unit.
_RANGES = {"feed_percent": (90.0, 110.0, "%"), "heat_celsius": (0.0, 250.0, "°C"), "carriage_mm": (0.0, 100.0, "mm")}


@dataclass(frozen=True)
class PrintMode:
    """A mode by its name, `resolution` ('720 × 1440 dpi') and `quality` ('8 passes, one way') as the printer has them;
    `feed_percent` is what the medium is fed by against what is asked, `heat_celsius` what it is dried or fixed at, and
    `carriage_mm` the height of the carriage. '' and None where nothing is said. Raises `CharacterizationError`."""

    name: str = ""
    resolution: str = ""
    quality: str = ""
    feed_percent: float | None = None
    heat_celsius: float | None = None
    carriage_mm: float | None = None

    def __post_init__(self) -> None:
        if max(len(self.name), len(self.resolution), len(self.quality)) > _MOST_LETTERS:
            raise CharacterizationError(f"A part of a mode has at most {_MOST_LETTERS} letters.")
        for name, (least, most, unit) in _RANGES.items():
            value = getattr(self, name)
            if value is not None and not least <= value <= most:
                what = name.split("_")[0]
                raise CharacterizationError(
                    f"A {what} of {value:g} {unit} is out of any range: {least:g} to {most:g} here."
                )

    def to_json(self) -> dict[str, Any]:
        """What is said, without the rest."""
        return {name: value for name, value in asdict(self).items() if value not in ("", None)}

    def in_words(self) -> str:
        """'Fine, 720 × 1440 dpi, 8 passes, feed 100.2 %', '' where nothing is said."""
        figures = {
            "feed": self.feed_percent is not None and f"feed {self.feed_percent:g} %",
            "heat": self.heat_celsius is not None and f"heat {self.heat_celsius:g} °C",
            "carriage": self.carriage_mm is not None and f"carriage {self.carriage_mm:g} mm",
        }
        said = [part.strip() for part in (self.name, self.resolution, self.quality)]
        return ", ".join([*(part for part in said if part), *(part for part in figures.values() if part)])


def mode_from_json(plain: dict[str, Any]) -> PrintMode:
    """A mode as it was kept; what is not known any more is left out."""
    known = {field.name for field in fields(PrintMode)}
    return PrintMode(**{name: value for name, value in plain.items() if name in known})
