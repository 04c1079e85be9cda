"""The figures of color truth beside their aims, over the shop's conditions and profiles of other makes; what is missed is
marked. Writes its section of docs/measures.md. Nothing here passes or fails."""

import sys
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT / "src"), str(ROOT / "scripts")]

from measures_file import write_section  # noqa: E402

from plinto_core.chain.compiled import Chain, compile_recipe  # noqa: E402
from plinto_core.chain.library import Condition  # noqa: E402
from plinto_core.colorimetry.difference import delta_e_2000  # noqa: E402
from plinto_core.icc import cmm  # noqa: E402
from plinto_core.icc.standard import rgb_profile  # noqa: E402
from plinto_core.press.fit import fit_model  # noqa: E402
from plinto_core.press.model import model_from_profile  # noqa: E402
from plinto_core.recipe import AimStation, InkStation, Intent, Recipe  # noqa: E402
from plinto_core.recipe.black import BLACK_PRESETS, usual_black  # noqa: E402
from plinto_core.recipe.limits import InkLimits  # noqa: E402
from plinto_core.separation.inverse import Inverse, precompute  # noqa: E402
from plinto_core.truth.black import darkest_found  # noqa: E402
from plinto_core.truth.chroma import in_gamut_kept, primaries_kept, texture_contrast  # noqa: E402
from plinto_core.truth.hue import sector_means  # noqa: E402
from plinto_core.truth.link import device_colors, link_errors  # noqa: E402
from plinto_core.truth.relations import (  # noqa: E402
    backwards,
    fastest_step,
    gray_ramp,
    gray_relations,
    jumps,
    ramps_to_black_and_white,
)  # fmt: skip
from plinto_demo.build import kept  # noqa: E402
from plinto_demo.ink_sets import SETS, fresh_colors, measured, press_of  # noqa: E402
from plinto_demo.makes import MAKES, make_profile  # noqa: E402
from plinto_demo.shop import CONDITIONS  # noqa: E402

HEADING = "## Color truth beside its aims"
SOURCES = ("sRGB", "opRGB", "ROMM")
SHOP = {shop.slug: shop for shop in CONDITIONS if len(shop.inks) > 1}
#: Whose inks artwork in CMYK is in.
PRESS = "halden-silk-150"
NAMES = [*SHOP, *(make.name for make in MAKES)]
#: Of the blue and violet sectors, 240 to 330 degrees of IPT's hue.
VIOLET = slice(8, 11)

#: What, the figure, its aim, and by how much the aim is missed (below 0 where it is held).
Row = tuple[str, float, float, float]


@cache
def known(name: str) -> Condition:
    """A condition of the shop, or the press that a profile of another make tells of."""
    profile = kept(SHOP[name]).read() if name in SHOP else make_profile(next(m for m in MAKES if m.name == name))
    model = model_from_profile(profile)
    return Condition(profile, model, precompute(model))


def line(name: str, intent: Intent, source: str, kind: str = "gcr", total: float = 0.0, *, bpc: bool = True) -> Chain:
    """A rebuilt line."""
    condition = known(name)
    usual = float(SHOP[name].total_ink_percent) if name in SHOP else 240.0 if "newsprint" in name else 320.0
    black = BLACK_PRESETS[kind] if condition.model.black_index is not None else usual_black(condition.model.inks)
    ink = InkStation("rebuilt", InkLimits(total or usual), black)
    profile = rgb_profile(source) if source in SOURCES else known(source).profile
    return compile_recipe(Recipe(aim=AimStation(intent, bpc), ink=ink), condition, profile)


def most(what: str, figure: float, aim: float) -> Row:
    """A figure that should not be larger than its aim."""
    return what, float(figure), aim, float(figure) - aim


def least(what: str, figure: float, aim: float) -> Row:
    """A figure that should not be smaller than its aim."""
    return what, float(figure), aim, aim - float(figure)


def hue(name: str) -> Iterator[Row]:
    """Hue errors in 30° sectors, against the profile's own colorimetric table."""
    colors = device_colors("surface", 3000)
    for source in SOURCES:
        rgb = rgb_profile(source)
        wanted = cmm.to_lab(rgb, colors)
        profile = known(name).profile
        own = sector_means(wanted, cmm.to_lab(profile, cmm.convert(rgb, profile, colors, "relative")))
        for intent in ("relative", "perceptual"):
            printed = known(name).model.lab(line(name, intent, source).inks(colors))
            ours = sector_means(wanted, printed)
            worst = float(np.nanmax(ours - own))
            yield most(
                f"hue, {source}, {intent}: most above its own table in any sector and space, degrees", worst, 0.0
            )
            yield most(
                f"hue, {source}, {intent}: blue and violet in IPT, degrees", float(np.nanmax(ours[VIOLET, 0])), 8.0
            )


def chroma(name: str) -> Iterator[Row]:
    """What perceptual and saturation keep."""
    for source in (*SOURCES, *((PRESS,) if name != PRESS else ())):
        relative, perceptual, saturation = (
            line(name, intent, source) for intent in ("relative", "perceptual", "saturation")
        )
        yield least(
            f"chroma, {source}: least primary, perceptual of relative",
            primaries_kept(perceptual, relative).min(),
            0.85,
        )
        yield least(
            f"chroma, {source}: least primary, saturation of relative",
            primaries_kept(saturation, relative).min(),
            1.0,
        )
        yield least(f"chroma, {source}: in gamut, perceptual", in_gamut_kept(perceptual, relative), 0.95)
        if source == PRESS:
            continue
        contrast = texture_contrast(perceptual, relative)
        yield least(f"texture outside, {source}: L*", contrast.lightness, 0.78)
        yield least(f"texture outside, {source}: C* over its mean", contrast.chroma, 0.85)


def relations(name: str) -> Iterator[Row]:
    """Order on gray, and on ramps to black and white."""
    model = known(name).model
    for kind in ("gcr", "ucr", "skeleton", "full") if model.black_index is not None else ("none",):
        found, fastest = [], []
        for total in (180.0, 240.0, 320.0, 400.0):
            inks = line(name, "relative", "sRGB", kind, total).inks(gray_ramp())
            found.append(gray_relations(inks, model.lab(inks), model.black_index))
            if total <= 320.0:
                fastest.append(fastest_step(inks))
        yield most(f"gray, {kind}, 180 to 400 %: L* back", max(g.lightness_back for g in found), 0.02)
        yield most(f"gray, {kind}, 180 to 400 %: K back, %", max(g.black_back_percent for g in found), 0.5)
        yield most(f"gray, {kind}, 180 to 400 %: total ink back, %", max(g.total_back_percent for g in found), 5.0)
        yield most(f"gray, {kind}, 180 to 400 %: C*", max(g.chroma for g in found), 0.5)
        yield most(f"gray, {kind}, 180 to 320 %: an ink's fastest step over its neighbors' mean", max(fastest), 3.0)
    ramps = ramps_to_black_and_white()
    down = len(ramps) // 2
    for intent in ("relative", "perceptual"):
        inks = line(name, intent, "sRGB").inks(ramps)
        lab = model.lab(inks)
        yield most(f"ramps, {intent}: L* back", max(backwards(each[:, 0]) for each in lab), 0.3)
        if model.black_index is not None:
            back = max(100 * backwards(-each[:, model.black_index]) for each in inks[:down])
            yield most(f"ramps to black, {intent}: K back, %", back, 2.0)
    colors = np.concatenate([device_colors(where, 8000) for where in ("random", "surface", "dark")])
    for intent in ("relative", "perceptual"):
        largest = float(jumps(line(name, intent, "sRGB"), colors).max())
        yield most(f"one code of sRGB further, {intent}: ΔE00 printed beyond wanted, largest", largest, 1.0)


def black(name: str) -> Iterator[Row]:
    """The darkest neutral against a search without cleverness."""
    condition = known(name)
    for kind in ("gcr", "full", "none"):
        if condition.model.black_index is None and kind != "none":
            continue
        above = [
            inverse.black_point_lab[0] - darkest_found(inverse)
            for total in (180.0, 240.0, 320.0)
            for inverse in [Inverse(condition.model, condition.tables, BLACK_PRESETS[kind], InkLimits(total))]
        ]
        yield most(f"darkest black, {kind}: L* above the search", float(max(above)), 0.5)


def links(name: str) -> Iterator[Row]:
    """The baked link against the exact line."""
    for intent, source, kind, bpc in (
        ("relative", "sRGB", "gcr", True), ("perceptual", "ROMM", "gcr", True), ("relative", "ROMM", "ucr", False),
    ):  # fmt: skip
        made = line(name, intent, source, kind, bpc=bpc)
        for where in ("random", "dark", "surface"):
            error = link_errors(made, device_colors(where, 10_000))
            told = f"link, {intent}, {source}, {kind}{'' if bpc else ', no BPC'}, {where}"
            yield most(f"{told}: p99", float(np.percentile(error, 99)), 0.6)
            yield most(f"{told}: largest", float(error.max()), 2.0)


def kept_black(name: str) -> Iterator[Row]:
    """Pure K of CMYK artwork for another press: how much further than the nearest tint of pure K."""
    condition = known(name)
    if condition.model.inks[:4] != ("C", "M", "Y", "K"):
        return
    recipe = Recipe(ink=InkStation("rebuilt", InkLimits(320), keep=("K",)))
    made = compile_recipe(recipe, condition, known("halden-silk-150").profile)
    ramp = np.zeros((64, 4))
    ramp[:, 3] = np.linspace(0, 1, 64)
    tints = np.zeros((2001, len(condition.model.inks)))
    tints[:, 3] = np.linspace(0, made.bounds[0][3], 2001)
    wanted, inks = made.wanted_lab(ramp), made.inks(ramp)
    nearest = delta_e_2000(wanted[:, None], condition.model.lab(tints)[None]).min(axis=1)
    off = delta_e_2000(wanted, condition.model.lab(inks)) - nearest
    yield most("pure K kept: ΔE00 above the nearest tint of K", float(off.max()), 0.5)
    yield most("pure K kept: other inks, %", float(np.delete(inks, 3, axis=1).max() * 100), 0.0)


def ink_set(name: str) -> Iterator[Row]:
    """A set of inks: the fit against fresh colors of its press, and what is reported of it."""
    press = press_of(SETS[name])
    fit = fit_model(measured(press, {1: 60, 2: 300, 3: 800}.get(len(SETS[name]), 2000)))
    dots, lab = fresh_colors(press)
    error = delta_e_2000(fit.model.lab(dots), lab)
    count = len(SETS[name])
    yield most(f"{count} inks, fresh colors: mean", float(error.mean()), 0.35)
    yield most(f"{count} inks, fresh colors: p95", float(np.percentile(error, 95)), 0.7)
    yield most(f"{count} inks, reported of patches kept back: mean", fit.held_out_mean, 0.35)


PARTS = (hue, chroma, relations, black, links, kept_black)


def main() -> None:
    """Every part for every profile; the worst of each figure, and by how many profiles it is missed."""
    found: dict[str, list[tuple[float, float, float, str]]] = {}

    def note(name: str, rows: Iterator[Row]) -> None:
        for what, figure, aim, short in rows:
            found.setdefault(what, []).append((short, figure, aim, name))
            print(f"{'MISSED' if short > 0 else '      '} {name}: {what}: {figure:.3f} (aim {aim:g})", flush=True)

    for name in SETS:
        note(name, ink_set(name))
    for name in NAMES:
        for part in PARTS:
            note(name, part(name))
        known.cache_clear()
    over = f"Over {len(SETS)} ink sets and {len(NAMES)} profiles: {'; '.join(NAMES)}."
    head = f"{over} Printed by `make bench`; each figure is that of the worst one."
    rows = []
    for what, every in found.items():
        _short, figure, aim, name = max(every)
        missed = sum(each[0] > 0 for each in every)
        told = f"**missed** by {missed} of {len(every)}, most by {name}" if missed else "held by all"
        rows.append(f"| {what} | {figure:.2f} | {aim:g} | {told} |")
    write_section(HEADING, [head, "", "| what | worst figure | aim | |", "|---|---|---|---|", *rows])


if __name__ == "__main__":
    main()
