"""`python -m plinto_demo FOLDER`: the shop as files, for the command line: charts, profiles, artwork."""

import sys
from pathlib import Path

from plinto_demo.artwork import PAINTINGS, write_painting
from plinto_demo.build import build
from plinto_demo.shop import CONDITIONS


def main() -> int:
    """Write a CGATS file and an ICC profile for each condition, and the paintings; what is there stays."""
    if len(sys.argv) != 2:
        print("usage: python -m plinto_demo FOLDER", file=sys.stderr)
        return 2
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    for shop in CONDITIONS:
        if not (folder / f"{shop.slug}.icc").exists():
            build(shop, folder)
    for painting in PAINTINGS:
        print(write_painting(painting, folder))
    return 0


if __name__ == "__main__":
    sys.exit(main())
