"""Color lists and routes in figures: many rows through many steps, routes beside LittleCMS, conditions from numbers beside
the press they tell of. Writes its section of docs/measures.md. Nothing here passes or fails."""

import platform
import sys
import time
from datetime import UTC, datetime
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT), str(ROOT / "src")]

from measures_file import write_section  # noqa: E402
from tests.conftest import profile_of  # noqa: E402

from plinto_core.colorimetry.difference import delta_e_2000  # noqa: E402
from plinto_core.icc import cmm  # noqa: E402
from plinto_core.icc.standard import rgb_profile  # noqa: E402
from plinto_core.route.color_list import ColorList  # noqa: E402
from plinto_core.route.route import Waypoint, apart, travel  # noqa: E402
from plinto_core.route.written import TableForm, route_link, route_look  # noqa: E402
from plinto_demo.from_numbers import PRESSES, off_by_numbers  # noqa: E402

HEADING = "## Colors and routes"
LINES: list[str] = ["| what | figure | aim | |", "|---|---|---|---|"]


def row(what: str, figure: float, aim: float) -> None:
    """A figure that should not be larger than its aim."""
    LINES.append(f"| {what} | {figure:.2f} | {aim:g} | {'**missed**' if figure > aim else ''} |")
    print(LINES[-1])


def many_rows() -> None:
    """Device values of a press through four profiles, with the differences between all of them."""
    press, values = profile_of("halden-silk-150"), np.random.default_rng(1).random((100_000, 4))
    colors = ColorList(tuple(str(at) for at in range(len(values))), ("C", "M", "Y", "K"), values)
    steps = tuple(Waypoint(each) for each in (press, rgb_profile("sRGB"), rgb_profile("opRGB"), press))
    took = []
    for _ in range(3):
        began = time.perf_counter()
        stations = travel(colors, steps)
        there = time.perf_counter() - began
        apart(stations)
        took.append((there, time.perf_counter() - began))
    row("100,000 rows of four inks through four steps, s", min(took)[0], 1)
    row("the same, with ΔE00 between every two columns, s", min(each for _, each in took), 2)


def written_routes() -> None:
    """What LittleCMS makes of written routes, against the routes themselves."""
    press, proofer = profile_of("tern-news-45"), profile_of("halden-silk-150")
    way = (Waypoint(press), Waypoint(proofer, "absolute"))
    values = np.random.default_rng(2).random((20_000, 4))
    colors = ColorList(tuple(map(str, range(len(values)))), ("C", "M", "Y", "K"), values)
    end = travel(colors, way)[-1]
    direct = cmm.to_lab(proofer, cmm.convert(press, proofer, values, "absolute"), "absolute")
    row("a proofing route against LittleCMS's own transform, ΔE00 largest", delta_e_2000(direct, end.lab).max(), 0.05)
    link = route_link(way, "Press through proofer", TableForm())
    inks = cmm.by_link(link.profile, values)
    off = delta_e_2000(cmm.to_lab(proofer, inks, "absolute"), end.lab)
    row("the same as a device link, read by LittleCMS, ΔE00 99 %", float(np.percentile(off, 99)), 0.5)
    look = route_look((Waypoint(profile_of("sateen-reactive"), "relative", True),), "Six-ink look", TableForm())
    row("a six-ink press as an abstract profile, ΔE00 mean", look.mean, 0.5)


def numbers() -> None:
    """Conditions from a supplier's numbers."""
    for slug in PRESSES:
        off = off_by_numbers(slug)
        row(f"{slug} from numbers, ΔE00 mean over fresh colors", off.told, 2.5)
        row(f"{slug} after {off.patches} patches", off.moved, 1.2)


def main() -> None:
    """Everything, one after the other."""
    many_rows()
    written_routes()
    numbers()
    about = f"{datetime.now(UTC):%Y-%m-%d %H:%M} UTC, {platform.machine()}, 2 cores. By `scripts/bench_routes.py`."
    write_section(HEADING, [about, "", *LINES])


if __name__ == "__main__":
    main()
