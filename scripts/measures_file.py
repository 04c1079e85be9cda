"""docs/measures.md in sections: each command writes its own and leaves the others."""

import re
from pathlib import Path

TARGET = Path(__file__).resolve().parents[1] / "docs" / "measures.md"


def write_section(heading: str, lines: list[str]) -> None:
    """Put the lines under `heading` ('## Faults'), in place of what stood there."""
    text = TARGET.read_text() if TARGET.exists() else "# Measures\n"
    made = f"{heading}\n\n" + "\n".join(lines).strip() + "\n"
    found = re.search(rf"^{re.escape(heading)}$.*?(?=^## |\Z)", text, flags=re.MULTILINE | re.DOTALL)
    before, after = (text[: found.start()], text[found.end() :]) if found else (text.rstrip() + "\n\n", "")
    TARGET.write_text(f"{before}{made}\n{after}".rstrip() + "\n")
