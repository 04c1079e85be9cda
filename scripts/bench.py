"""Measure what measures.md asks for, print it, and write docs/measures.md. Nothing here passes or fails."""

import gc
import os
import platform
import re
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

import imagecodecs
import numpy as np
import pyvips
import tifffile

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT), str(ROOT / "src")]

from measures_file import TARGET  # noqa: E402
from tests.conftest import SLUGS, fitted, foreign_profile, profile_of, shop_condition  # noqa: E402

from plinto_core.adjust.regions import PixelGrid  # noqa: E402
from plinto_core.analysis.figures import differences  # noqa: E402
from plinto_core.chain.compiled import Chain, compile_recipe  # noqa: E402
from plinto_core.chain.library import Condition, Library  # noqa: E402
from plinto_core.colorimetry import delta_e_2000  # noqa: E402
from plinto_core.icc import cmm  # noqa: E402
from plinto_core.icc.standard import rgb_profile  # noqa: E402
from plinto_core.raster.opened import open_artwork  # noqa: E402
from plinto_core.raster.pyramid import Pyramid, Window, build_pyramid  # noqa: E402
from plinto_core.recipe import AdjustStation, AimStation, InkStation, Intent, Recipe  # noqa: E402
from plinto_core.recipe.adjustment import Adjustment, HueMove  # noqa: E402
from plinto_core.recipe.black import BLACK_PRESETS, BlackPolicy  # noqa: E402
from plinto_core.recipe.curve import ToneCurve  # noqa: E402
from plinto_core.recipe.limits import InkLimits  # noqa: E402
from plinto_core.recipe.plate import InkPlate, PlateStation  # noqa: E402
from plinto_core.recipe.region import Region  # noqa: E402
from plinto_core.screen.proof import Renderer, RenderRequest  # noqa: E402
from plinto_core.separation.inverse import Inverse  # noqa: E402
from plinto_demo.artwork import night_moth  # noqa: E402

INTENTS: tuple[Intent, ...] = ("perceptual", "relative", "saturation", "absolute")
RANDOM = np.random.default_rng(2026)
LINES: list[str] = []


def say(text: str = "") -> None:
    """Print, and keep for the file."""
    print(text, flush=True)
    LINES.append(text)


def best(work: Callable[[], object], times: int = 5) -> float:
    """Seconds of the quickest of `times` runs, after one to warm up."""
    work()
    found = []
    for _ in range(times):
        begin = time.perf_counter()
        work()
        found.append(time.perf_counter() - begin)
    return min(found)


def spread(values: np.ndarray) -> str:
    """Mean, 99th percentile and largest."""
    return f"{values.mean():.3f} | {np.percentile(values, 99):.3f} | {values.max():.2f}"


def recipe(total: float, intent: Intent = "relative", black: BlackPolicy = BLACK_PRESETS["gcr"]) -> Recipe:
    """A rebuilt recipe."""
    return Recipe(aim=AimStation(intent), ink=InkStation("rebuilt", InkLimits(total), black))


def color_truth(conditions: dict[str, Condition], picture: np.ndarray) -> None:
    """The rows of measures.md under 'Color truth'."""
    say("## Color truth\n")
    say("### Agreement with the reference CMM, as profiled\n")
    say("| condition | intents × BPC × sources | 8 bit, largest code difference | 16 bit, ΔE00 mean | largest |")
    say("|---|---|---|---|---|")
    for name, known in conditions.items():
        largest, errors = 0.0, []
        for intent in INTENTS:
            for bpc in (True, False):
                for space in ("sRGB", "opRGB", "ROMM"):
                    source = rgb_profile(space)
                    line = compile_recipe(
                        Recipe(aim=AimStation(intent, bpc), ink=InkStation("as-profiled")), known, source
                    )
                    codes = RANDOM.integers(0, 256, (5000, 3)).astype(np.uint8)
                    exact = cmm.convert(source, known.profile, codes / 255, intent, bpc=bpc and intent != "absolute")
                    largest = max(largest, float(np.abs(line.link.inks_of(codes) - exact * 255).max()))
                    deep = line.link.inks_of(codes.astype(np.uint16) * 257, 16) / 65535
                    errors.append(delta_e_2000(cmm.to_lab(known.profile, deep), cmm.to_lab(known.profile, exact)))
        every = np.concatenate(errors)
        say(f"| {name} | 24 | {largest:.2f} | {every.mean():.4f} | {every.max():.4f} |")
    say("\n### Link against exact chain, rebuilt, 200,000 random and image colors, ΔE00\n")
    say("| condition | intent | mean | p99 | largest |\n|---|---|---|---|---|")
    colors = np.concatenate(
        [RANDOM.random((100_000, 3)), RANDOM.permutation(picture.reshape(-1, 3))[:100_000] / 65535]
    )
    for name, known in conditions.items():
        for intent in INTENTS:
            line = compile_recipe(recipe(_limit(name), intent), known, rgb_profile("opRGB"))
            error = delta_e_2000(known.model.lab(line.link.values(colors)), known.model.lab(line.inks(colors)))
            say(f"| {name} | {intent} | {spread(error)} |")
    adjusted_and_cmyk(conditions, colors)
    say("\n### Separation round trip inside the gamut, ΔE00\n")
    say("| condition | black | mean | p99 | largest |\n|---|---|---|---|---|")
    for name, known in conditions.items():
        for kind, black in BLACK_PRESETS.items():
            inverse = Inverse(known.model, known.tables, black, InkLimits(_limit(name)))
            dots = RANDOM.random((60_000, 4)) * inverse.caps
            wanted = known.model.lab(dots[dots.sum(axis=1) <= inverse.total])
            say(f"| {name} | {kind} | {spread(delta_e_2000(known.model.lab(inverse.inks(wanted)), wanted))} |")
    say("\n### Characterization fit on held-out patches, and our profiles read by LittleCMS\n")
    say("| condition | fit mean | fit p95 | B2A then A2B in gamut, mean | p99 | largest |\n|---|---|---|---|---|---|")
    for slug in SLUGS:
        fit, profile, shop = fitted(slug), profile_of(slug), shop_condition(slug)
        dots = RANDOM.random((60_000, 4)) * [1, 1, 1, shop.black_max_percent / 100]
        lab = cmm.to_lab(profile, dots[dots.sum(axis=1) <= shop.total_ink_percent / 100])
        error = delta_e_2000(cmm.to_lab(profile, cmm.from_lab(profile, lab)), lab)
        say(f"| {slug} | {fit.held_out_mean:.3f} | {fit.held_out_p95:.3f} | {spread(error)} |")
    say("\n### Ink limit, smoothness\n")
    say("| condition | pixels over the limit, 8 bit | 16 bit | largest break in gray and hue ramps, 8-bit codes |")
    say("|---|---|---|---|")
    for name, known in conditions.items():
        line = compile_recipe(recipe(_limit(name)), known, rgb_profile("opRGB"))
        over = [
            int((line.link.inks_of(picture, depth).sum(axis=-1, dtype=np.int64) > line.link.total * top + 1e-6).sum())
            for depth, top in ((8, 255), (16, 65535))
        ]
        say(f"| {name} | {over[0]} | {over[1]} | {_break(line):.2f} |")
    say("\nA break is a step beyond twice its neighbors' mean. Proof = file and reproducible bytes: see the tests.\n")


def adjusted_and_cmyk(conditions: dict[str, Condition], colors: np.ndarray) -> None:
    """Links that hold an adjustment, and links from CMYK, against their exact chains."""
    say("\n### The same, adjusted by a curve, chroma +20 % and a hue move; and CMYK for another press\n")
    say("| condition | line | mean | p99 | largest |\n|---|---|---|---|---|")
    for name, known in conditions.items():
        line = compile_recipe(replace(recipe(_limit(name)), adjust=_adjusted(20)), known, rgb_profile("opRGB"))
        error = delta_e_2000(known.model.lab(line.link.values(colors)), known.model.lab(line.inks(colors)))
        say(f"| {name} | adjusted | {spread(error)} |")
    press = conditions["halden-silk-150"].profile
    inks = cmm.from_lab(press, cmm.to_lab(rgb_profile("opRGB"), colors))
    for name in ("cotton-54t", "tern-news-45"):
        known = conditions[name]
        line = compile_recipe(recipe(_limit(name)), known, press)
        error = delta_e_2000(known.model.lab(line.link.values(inks)), known.model.lab(line.inks(inks)))
        say(f"| {name} | from Halden Silk 150 CMYK | {spread(error)} |")


def _limit(name: str) -> float:
    return 300.0 if name == "another layout" else float(shop_condition(name).total_ink_percent)


def _break(line: Chain) -> float:
    gray = np.linspace(0, 1, 256)[:, None].repeat(3, 1)
    turn = np.linspace(0, 2 * np.pi, 512)
    worst = 0.0
    for ramp in (gray, np.stack([0.5 + 0.3 * np.cos(turn + shift) for shift in (0, 2.1, 4.2)], axis=-1)):
        steps = np.abs(np.diff(line.link.values(ramp) * 255, axis=0))
        worst = max(worst, float((steps[1:-1] - (steps[:-2] + steps[2:])).max()))
    return worst


def speed(known: Condition, picture: np.ndarray, folder: Path) -> None:
    """Pixels through a link against libvips, and a changed setting to a new proof."""
    say("## Speed\n")
    (folder / "in.icc").write_bytes(rgb_profile("opRGB").raw)
    (folder / "out.icc").write_bytes(known.profile.raw)
    line = compile_recipe(recipe(230), known, rgb_profile("opRGB"))
    say("| pixels through a link, in memory, two cores | Plinto MP/s | libvips MP/s | ratio (aim 2, then 3) |")
    say("|---|---|---|---|")
    for depth in (8, 16):
        pixels = np.tile(picture, (3, 2, 1))
        pixels = (pixels >> 8).astype(np.uint8) if depth == 8 else pixels
        millions = pixels.shape[0] * pixels.shape[1] / 1e6
        ours = best(lambda p=pixels, d=depth: line.link.inks_of(p, d))
        image = pyvips.Image.new_from_array(pixels, interpretation="rgb" if depth == 8 else "rgb16")

        def theirs(image: pyvips.Image = image, depth: int = depth) -> object:
            return image.icc_transform(
                str(folder / "out.icc"), input_profile=str(folder / "in.icc"), intent="relative", depth=depth
            ).write_to_memory()

        vips = best(theirs, 3)
        say(f"| {depth} bit, {millions:.0f} MP | {millions / ours:.0f} | {millions / vips:.0f} | {vips / ours:.2f} |")
    times = []
    display = rgb_profile("sRGB")
    kept: dict[object, object] = {}
    screen = np.ascontiguousarray(picture[:800, :1280])
    places = PixelGrid.rows(0, 800, 1280, 1600)
    png = imagecodecs.PNG
    for step in range(40):
        settings = recipe(
            200 + step % 30,
            ("relative", "perceptual")[step % 8 == 7],
            BlackPolicy(20 + 2 * step, 10 + step % 20, 90),
        )
        begin = time.perf_counter()
        changed = compile_recipe(settings, known, line.source.profile)
        shown = Renderer(changed, display, kept=keeping(kept)).render(RenderRequest(), screen, places)
        imagecodecs.png_encode(shown, level=1, strategy=png.STRATEGY.RLE, filter=png.FILTER.UP)
        times.append((time.perf_counter() - begin) * 1000)
    ordered = sorted(times)
    say(
        f"\nA changed setting (limit, black, intent) to a new proof of 1280 × 800 as PNG, condition warm: "
        f"median {statistics.median(times):.0f} ms, p95 {ordered[int(len(ordered) * 0.95) - 1]:.0f} ms\n"
    )


def keeping(kept: dict) -> Callable:
    """Results by key, as the server keeps them."""

    def get(key, make):  # type: ignore[no-untyped-def]
        if key not in kept:
            kept[key] = make()
        return kept[key]

    return get


def on_the_bench(known: Condition, folder: Path) -> None:
    """A 100-megapixel artwork opened and changed, and eight variants of a 40-megapixel one, as the screen asks."""
    tile = (night_moth() >> 8).astype(np.uint8)
    source, display = rgb_profile("opRGB"), rgb_profile("sRGB")
    png = imagecodecs.PNG
    say("| on the Bench, 1280 × 800, condition warm | median ms | p95 ms |\n|---|---|---|")
    for millions, across in ((100, 5), (40, 3)):
        path = folder / f"bench-{millions}.tif"
        down = round(millions * 1e6 / (2400 * across))
        row = np.tile(tile, (1, across, 1))
        rows = (row[at % 1600 : at % 1600 + 64] for at in range(0, down, 64))
        _write_strips(path, (strip[: down - i * 64] for i, strip in enumerate(rows)), down, 2400 * across)
        begin = time.perf_counter()
        build_pyramid(open_artwork(path), folder / "levels")
        taken = time.perf_counter() - begin
        levels = Pyramid(folder / "levels")
        zoom = min(870 / levels.width, 640 / levels.height)
        window = Window(0, 0, round(levels.width * zoom), round(levels.height * zoom), zoom)
        pixels, places = levels.window(window), levels.places(window)
        kept: dict[object, object] = {}

        def look(settings: Recipe, view: RenderRequest = RenderRequest()) -> float:  # noqa: B008
            begin = time.perf_counter()
            line = keeping(kept)(settings, lambda: compile_recipe(settings, known, source))  # noqa: B023
            shown = Renderer(line, display, kept=keeping(kept)).render(view, pixels, places)  # noqa: B023
            imagecodecs.png_encode(shown, level=1, strategy=png.STRATEGY.RLE, filter=png.FILTER.UP)
            return (time.perf_counter() - begin) * 1000

        if millions == 100:
            first = look(recipe(230))
            say(f"| {millions} MP: taken in and decoded once | {taken * 1000:.0f} | |")
            say(f"| {millions} MP: first picture after opening | {first:.0f} | |")
            for name, change in CHANGES.items():
                times = sorted(look(change(step)) for step in range(20))
                say(f"| {millions} MP: {name} | {statistics.median(times):.0f} | {times[18]:.0f} |")
        else:
            small = Window(0, 0, 280, round(280 * levels.height / levels.width), 280 / levels.width)
            pixels, places = levels.window(small), levels.places(small)
            look(recipe(230))
            begin = time.perf_counter()
            for step in range(8):
                settings = recipe(230, INTENTS[step % 4], list(BLACK_PRESETS.values())[1 + step // 4])
                look(settings)
                line = keeping(kept)(settings, lambda: None)
                reach = keeping(kept)(("reach", step // 4), lambda line=line: line.comparison_line("reach"))
                differences(levels, line, reach, 3.0)
            spent = (time.perf_counter() - begin) * 1000
            say(f"| {millions} MP: a sheet of eight variants with their figures | {spent:.0f} | |")
        path.unlink()
    say()


def _adjusted(step: int) -> AdjustStation:
    curve = ToneCurve(((0, 0), (0.4, 0.35 + 0.01 * step), (1, 1)))
    return AdjustStation(Adjustment(curve, chroma_percent=step, hues=(HueMove(145, shift_deg=step),)))


def _regioned(step: int) -> AdjustStation:
    corners = tuple((0.3 + 0.2 * np.cos(a), 0.5 + 0.3 * np.sin(a)) for a in np.linspace(0, 6.2, 60))
    return AdjustStation(regions=(Region("petal", corners, 0.02, adjustment=_adjusted(step).base, black="none"),))


CHANGES: dict[str, Callable[[int], Recipe]] = {
    "ink limit or black moved": lambda step: recipe(200 + step, black=BlackPolicy(20 + 2 * step, 10 + step, 90)),
    "curve, chroma or hue moved": lambda step: replace(recipe(230), adjust=_adjusted(step)),
    "adjustment in a lasso region moved": lambda step: replace(recipe(230), adjust=_regioned(step)),
    "plate curve moved": lambda step: replace(
        recipe(230), plate=PlateStation((InkPlate("K", ToneCurve(((0, 0), (0.5, 0.4 + 0.01 * step), (1, 1)))),))
    ),
}


def whole_files(folder: Path, sizes: tuple[int, ...]) -> None:
    """The whole command, TIFF to TIFF, against libvips, and its peak memory; the second time that a line is used."""
    say(
        "| whole command, TIFF to TIFF (8 bit, LZW), second time | Plinto s | peak MB | libvips s | ratio (aim 1.5) |\n"
        "|---|---|---|---|---|"
    )
    tile = (night_moth() >> 8).astype(np.uint8)
    for millions in sizes:
        path = folder / f"{millions}.tif"
        across = 4 if millions <= 100 else 8
        down = round(millions * 1e6 / (2400 * across))

        def strips(across: int = across, down: int = down):
            row = np.tile(tile, (1, across, 1))
            for top in range(0, down, 1600):
                yield from (row[at : at + 64] for at in range(0, min(1600, down - top), 64))

        _write_strips(path, strips(), down, 2400 * across)
        env = {**os.environ, "PLINTO_CACHE": str(folder / "cache")}
        command = [
            sys.executable,
            "-m",
            "plinto_core.cli",
            "separate",
            str(path),
            "--profile",
            str(folder / "out.icc"),
        ]
        vips = [
            sys.executable,
            "-c",
            _VIPS.format(path=path, icc=folder / "out.icc", src=folder / "in.icc", out=folder / "v.tif"),
        ]
        theirs = min(_run(vips, env)[0] for _ in range(2)) if millions <= 100 else float("nan")
        for method, settings in (("rebuilt", ["--total-ink", "230"]), ("as profiled", [])):
            words = [*command, "--source", "opRGB", *settings, "--out", str(folder / "o.tif")]
            runs = [_run(words, env) for _ in range(3 if millions <= 100 else 1)]
            ours, peak = min(runs[1:] or runs)
            say(f"| {millions} MP, {method} | {ours:.1f} | {peak:.0f} | {theirs:.1f} | {theirs / ours:.2f} |")
        path.unlink()
    say()


_VIPS = (
    "import pyvips; i = pyvips.Image.new_from_file('{path}', access='sequential');"
    "i.icc_transform('{icc}', input_profile='{src}', intent='relative')"
    ".tiffsave('{out}', compression='lzw', predictor='horizontal')"
)


def _write_strips(path: Path, strips, height: int, width: int) -> None:
    encoded = (bytes(imagecodecs.lzw_encode(imagecodecs.delta_encode(s, axis=1).tobytes())) for s in strips)
    tifffile.imwrite(
        path, encoded, shape=(height, width, 3), dtype=np.uint8, photometric="rgb", compression="lzw", predictor=True,
        rowsperstrip=64, metadata=None,
    )  # fmt: skip


def _run(command: list[str], env: dict[str, str]) -> tuple[float, float]:
    """Seconds and peak megabytes of a command in a process of its own."""
    begin = time.perf_counter()
    code = (
        "import resource, subprocess, sys; subprocess.run(sys.argv[1:], check=True, stdout=subprocess.DEVNULL);"
        "print(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss)"
    )
    done = subprocess.run([sys.executable, "-c", code, *command], env=env, check=True, capture_output=True, text=True)
    return time.perf_counter() - begin, int(done.stdout) / 1024


def main() -> None:
    """Everything, in a few minutes."""
    sizes = tuple(int(word) for word in sys.argv[1:]) or (4, 40, 100, 400)
    say("# Measures\n")
    say(
        f"{datetime.now(UTC):%Y-%m-%d %H:%M} UTC, {platform.machine()}, {os.cpu_count()} cores, "
        f"{os.sysconf('SC_PAGE_SIZE') * os.sysconf('SC_PHYS_PAGES') >> 30} GB, Python {platform.python_version()}. "
        "Printed by `make bench`.\n"
    )
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        library = Library(folder / "cache")
        conditions = {slug: library.condition(profile_of(slug)) for slug in SLUGS}
        conditions["another layout"] = library.condition(foreign_profile())
        picture = night_moth()
        color_truth(conditions, picture)
        speed(conditions["cotton-54t"], picture, folder)
        on_the_bench(conditions["cotton-54t"], folder)
        gc.collect()
        whole_files(folder, sizes)
        say(f"Peak memory of this benchmark itself: {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss >> 10} MB")
    # Sections of other commands stay: only what stands before them is written anew.
    text = TARGET.read_text() if TARGET.exists() else ""
    others = re.findall(r"^## (?!Color truth$|Speed$).*?(?=^## |\Z)", text, flags=re.MULTILINE | re.DOTALL)
    TARGET.write_text("\n".join(LINES).rstrip() + "\n\n" + "\n".join(each.rstrip() + "\n" for each in others))
    print(f"written to {TARGET}")


if __name__ == "__main__":
    main()
