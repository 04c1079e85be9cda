"""What a recipe knows of each delivery format: its file's ending, the bits of an ink, the word in the file's name.

How it is written and read back is a module of the same name in `deliver/formats/`.
"""

from dataclasses import dataclass
from typing import Literal

Format = Literal["tiff", "jpeg", "pdf", "films", "negative", "hard-proof"]


@dataclass(frozen=True)
class FormatFacts:
    """`bits` is None where the recipe's own depth is written; `word` keeps files of one name and ending apart."""

    suffix: str
    bits: int | None = 8
    word: str = ""


FORMATS: dict[str, FormatFacts] = {
    "tiff": FormatFacts(".tif", bits=None),
    "jpeg": FormatFacts(".jpg"),
    "pdf": FormatFacts(".pdf"),
    # Screened from 16 bit, into the container that their settings name.
    "films": FormatFacts(".pdf", bits=16, word="films"),
    "negative": FormatFacts(".pdf", bits=16, word="negative"),
    "hard-proof": FormatFacts(".pdf", word="hard proof"),
}
