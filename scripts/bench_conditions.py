"""Build the shop's eight conditions by Plinto's commands, measure them, and write their section of docs/measures.md."""

import json
import os
import platform
import sys
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT), str(ROOT / "src")]

from measures_file import write_section  # noqa: E402

from plinto_core.chain.library import Library  # noqa: E402
from plinto_core.colorimetry import delta_e_2000  # noqa: E402
from plinto_core.icc import cmm  # noqa: E402
from plinto_core.icc.profile import parse  # noqa: E402
from plinto_core.measurement.cgats import read_measurements  # noqa: E402
from plinto_core.press.fit import fit_model, relative_lab  # noqa: E402
from plinto_core.profiling.build_preview import preview_build  # noqa: E402
from plinto_core.profiling.build_profile import build_settings_from_json, settings_of  # noqa: E402
from plinto_core.recipe.limits import InkLimits  # noqa: E402
from plinto_demo.build import build  # noqa: E402
from plinto_demo.shop import CONDITIONS, ShopCondition  # noqa: E402

HEADING = "## The shop's eight conditions"
RANDOM = np.random.default_rng(2026)


def in_gamut(folder: Path, shop: ShopCondition) -> tuple[float, float]:
    """ΔE00, mean and p99, of B2A then A2B for the colors of all ink values within limit and black, evenly drawn."""
    profile = parse((folder / f"{shop.slug}.icc").read_bytes())
    count = profile.header.channels
    dots = RANDOM.random((60_000, count))
    if count > 1:
        dots[:, 3] *= shop.black_max_percent / 100
    dots = dots[dots.sum(axis=1) <= shop.total_ink_percent / 100]
    lab = cmm.to_lab(profile, dots)
    error = delta_e_2000(cmm.to_lab(profile, cmm.from_lab(profile, lab)), lab)
    return float(error.mean()), float(np.percentile(error, 99))


def row(folder: Path, shop: ShopCondition) -> str:
    """Build one and measure it."""
    begin = time.perf_counter()
    built = build(shop, folder)
    seconds = time.perf_counter() - begin
    report = json.loads(built.report.read_text())
    judged, found = report["judgement"], report["characterization"]
    mean, p99 = in_gamut(folder, shop)
    return (
        f"| {shop.name} | {' '.join(found['inks'])} | {found['patches']} | {found['held_out_mean']:.3f} / "
        f"{found['held_out_p95']:.3f} | {judged['round_trip_mean']:.2f} / {judged['round_trip_p99']:.2f} | "
        f"{mean:.2f} / {p99:.2f} | {judged['most_ink_percent']:.2f} of {shop.total_ink_percent} | "
        f"{judged['max_neutral_chroma']:.2f} | {seconds:.1f} |"
    )


def live(folder: Path, shop: ShopCondition) -> float:
    """Milliseconds, p95, from a moved control to its figures on the Build page, in the core."""
    profile = parse((folder / f"{shop.slug}.icc").read_bytes())
    known = Library(folder / "cache").condition(profile)
    settings = build_settings_from_json(settings_of(profile))
    times = []
    for step in range(24):
        begin = time.perf_counter()
        limits = InkLimits(max(shop.total_ink_percent - 3.0 * step, 60))
        preview_build(known.model, known.tables, settings.black, limits)
        times.append((time.perf_counter() - begin) * 1000)
    return float(np.percentile(times[2:], 95))


def chosen(folder: Path) -> str:
    """What smoothing by left-out patches costs in fit and gains in smoothness, for the mesh."""
    data, _ = read_measurements((folder / "cotton-54t measured.txt").read_bytes(), "cotton")
    lines = []
    for smoothing in (1e-8, 1e-6, 1e-4, None):
        fit = fit_model(data, smoothing=smoothing)
        seen = delta_e_2000(fit.model.lab(data.device), relative_lab(data)).mean()
        bends = np.abs(np.diff(fit.model.nodes.reshape(17, 17, 17, 17, 3)[..., 0], 2, axis=0)).mean()
        name = f"auto, {fit.smoothing:g}" if smoothing is None else f"{smoothing:g}"
        lines.append(f"| {name} | {seen:.3f} | {fit.held_out_mean:.3f} | {bends:.3f} |")
    return "\n".join(lines)


def main() -> None:
    """Print the section, and put it in place of the former one."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        lines = [
            HEADING,
            "",
            f"{datetime.now(UTC):%Y-%m-%d %H:%M} UTC, {platform.machine()}, {os.cpu_count()} cores. Built by `plinto "
            "chart`, `calibrate`, `backlit` and `profile build` from simulated measurements; build time is chart to "
            "judged profile, report included. ΔE00; round trips are mean / p99: of colors that the profile's own "
            "separation prints, and of all ink values within limit and black.",
            "",
            "| condition | inks | patches | fit held out, mean / p95 | round trip, own | round trip, all inks | "
            "most ink % | C* off neutral | build s |",
            "|---|---|---|---|---|---|---|---|---|",
        ]
        # Compiled beforehand: kernels are compiled once on a machine.
        build(CONDITIONS[-1], folder)
        for shop in CONDITIONS:
            lines.append(row(folder, shop))
            print(lines[-1], flush=True)
        lines += ["", "| Build page: a moved control to its figures | p95 ms |", "|---|---|"]
        lines += [f"| {shop.name} | {live(folder, shop):.0f} |" for shop in CONDITIONS]
        lines += ["", "| smoothing, Cotton 54T | fit of seen patches | held out | mean second difference of L* |",
                  "|---|---|---|---|", chosen(folder), ""]  # fmt: skip
    section = "\n".join(lines)
    print(section)
    write_section(HEADING, section.removeprefix(HEADING).splitlines())


if __name__ == "__main__":
    main()
