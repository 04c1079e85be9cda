"""`python -m plinto_demo FOLDER`: the shop as files, for the command line: charts, profiles, artwork."""

import sys
from pathlib import Path

from plinto_core.press.fit import fit_model
from plinto_demo.artwork import PAINTINGS, write_painting
from plinto_demo.shop import CONDITIONS, measure_chart, shop_profile


def main() -> int:
    """Write a CGATS file and an ICC profile for each condition, and the paintings; what is there stays."""
    if len(sys.argv) != 2:
        print("usage: python -m plinto_demo FOLDER", file=sys.stderr)
        return 2
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    for shop in CONDITIONS:
        profile = folder / f"{shop.name}.icc"
        if not profile.exists():
            data = measure_chart(shop)
            (folder / f"{shop.name}.txt").write_text(data.to_cgats())
            profile.write_bytes(shop_profile(shop, fit_model(data).model, data).raw)
        print(profile)
    for painting in PAINTINGS:
        print(write_painting(painting, folder))
    return 0


if __name__ == "__main__":
    sys.exit(main())
