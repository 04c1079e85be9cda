"""Commands that judge: compare variants, the hardest hit, a palette, a hard proof."""

import json
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict, replace
from itertools import product
from pathlib import Path
from typing import Any, get_args

import click

from plinto_core.analysis.figures import coverage, differences
from plinto_core.analysis.hits import worst_color_clusters
from plinto_core.analysis.palette import check_palette, parse_palette
from plinto_core.chain.compiled import compile_recipe
from plinto_core.cli.settings import (
    FILE,
    OUT,
    chain_of,
    library,
    line_options,
    opened_with_chain,
    read_profile,
    rounded,
    show,
    source_of,
)
from plinto_core.errors import RecipeError
from plinto_core.icc.standard import rgb_profile
from plinto_core.raster.opened import Artwork, open_artwork
from plinto_core.raster.pyramid import Pyramid, build_pyramid
from plinto_core.recipe import AimStation, InkStation, Intent, Recipe
from plinto_core.recipe.black import BLACK_PRESETS
from plinto_core.recipe.limits import InkLimits

TOLERANCE = click.option(
    "--tolerance", type=click.FloatRange(0.5, 30), default=3.0, help="ΔE00 from which a color counts as off."
)
AS_JSON = click.option("--json", "as_json", is_flag=True, help="For programs.")
_ORDERS = {"out": "out_percent", "mean": "mean", "p95": "p95", "worst": "worst", "ink": "ink_percent"}


@contextmanager
def _looked_at(artwork: Artwork) -> Iterator[Pyramid]:
    with tempfile.TemporaryDirectory() as folder:
        build_pyramid(artwork, Path(folder))
        yield Pyramid(Path(folder))


@click.command()
@click.argument("src", type=FILE)
@click.option("--profile", "profiles", required=True, type=FILE, multiple=True, help="A condition; give several.")
@click.option("--source", metavar="SPACE|FILE.icc", help="What the numbers mean. Default: the embedded profile.")
@click.option("--intent", "intents", type=click.Choice(get_args(Intent)), multiple=True, help="Default: all four.")
@click.option("--black", "blacks", type=click.Choice(list(BLACK_PRESETS)), multiple=True, help="Default: gcr.")
@click.option("--total-ink", type=click.FloatRange(50, 800), default=300.0, help="Most ink on one spot, %.")
@click.option("--sort", type=click.Choice(list(_ORDERS)), default="mean", help="Figure to sort by.")
@TOLERANCE
@AS_JSON
def compare(
    src: Path, profiles: tuple[Path, ...], source: str | None, intents: tuple[Intent, ...], blacks: tuple[str, ...],
    total_ink: float, sort: str, tolerance: float, as_json: bool,
) -> None:  # fmt: skip
    """Weigh SRC against conditions × intents × kinds of black, with the figures of each."""
    artwork = open_artwork(src)
    known = library()
    rows = []
    with _looked_at(artwork) as pyramid:
        for path, intent, black in product(profiles, intents or get_args(Intent), blacks or ("gcr",)):
            recipe = Recipe(
                aim=AimStation(intent), ink=InkStation("rebuilt", InkLimits(total_ink), BLACK_PRESETS[black])
            )
            chain = compile_recipe(
                recipe,
                known.condition(read_profile(path)),
                source_of(source, recipe, artwork.profile, artwork.space),
            )
            found = differences(pyramid, chain, chain.comparison_line("reach"), tolerance)
            ink = coverage(pyramid, chain, chain)
            rows.append(
                {
                    "condition": chain.condition.profile.name, "intent": intent, "black": black,
                    "out_percent": round(found.out_of_gamut_share * 100, 2), "mean": round(found.mean, 2),
                    "p95": round(found.p95, 2), "worst": round(found.worst, 2),
                    "ink_percent": round(sum(ink.mean_percent), 1),
                }
            )  # fmt: skip
    rows.sort(key=lambda row: row[_ORDERS[sort]])
    _table(rows, as_json)


def _table(rows: list[dict[str, Any]], as_json: bool) -> None:
    if as_json:
        show(rows, True)
        return
    columns = list(rows[0]) if rows else []
    widths = [max(len(str(row[c])) for row in [*rows, {c: c}]) for c in columns]
    for row in [{c: c.replace("_", " ") for c in columns}, *rows]:
        click.echo("  ".join(f"{row[c]!s:<{width}}" for c, width in zip(columns, widths, strict=True)).rstrip())


@click.command()
@click.argument("src", type=FILE)
@line_options
@TOLERANCE
@AS_JSON
def hits(src: Path, tolerance: float, as_json: bool, **given: Any) -> None:
    """List the families of colors in SRC that the print misses by most, the worst first."""
    artwork, chain = opened_with_chain(src, given)
    with _looked_at(artwork) as pyramid:
        found = worst_color_clusters(pyramid, chain, tolerance)
    if not found and not as_json:
        click.echo(f"No color is further than {tolerance:g} ΔE00 off.")
        return
    if as_json:
        show([asdict(family) for family in found], True)
        return
    _table(
        [
            {
                "wanted Lab": rounded(f.wanted_lab, 1), "printed Lab": rounded(f.printed_lab, 1),
                "mean": round(f.delta_e_mean, 1), "worst": round(f.delta_e_worst, 1),
                "area %": round(f.share * 100, 2),
            }
            for f in found
        ],
        False,
    )  # fmt: skip


@click.command()
@click.argument("colors", type=FILE)
@line_options
@TOLERANCE
@AS_JSON
def palette(colors: Path, tolerance: float, as_json: bool, **given: Any) -> None:
    """Say which COLORS (text of hex, Lab or CGATS) print, how far off the others are, and the nearest that prints."""
    wanted = parse_palette(colors.read_text(errors="replace"))
    # Palette colors are wanted colors already; the source only names a working space for the line.
    given["source"] = given["source"] or "sRGB"
    verdicts = check_palette(chain_of(given, rgb_profile("sRGB")), wanted, tolerance)
    if as_json:
        show([asdict(verdict) for verdict in verdicts], True)
        return
    _table(
        [
            {
                "name": v.name, "Lab": rounded(v.lab, 1), "prints": "yes" if v.prints else "no",
                "ΔE00": round(v.delta_e, 1), "nearest Lab": rounded(v.printed_lab, 1),
                "inks %": " ".join(f"{ink}{value:.0f}" for ink, value in v.inks_percent.items()),
            }
            for v in verdicts
        ],
        False,
    )  # fmt: skip


@click.command(name="hard-proof")
@click.argument("src", type=FILE)
@click.option("--out", required=True, type=OUT, help="PDF to write.")
@line_options
def hard_proof(src: Path, out: Path, **given: Any) -> None:
    """Write one page in the condition's inks: SRC, a gray ramp, a control strip, the settings, a place to sign."""
    from plinto_core.cli.lines import write_delivery

    if out.suffix.lower() != ".pdf":
        raise RecipeError(f"--out {out.name}: a hard proof is written as .pdf.")
    artwork, chain = opened_with_chain(src, given)
    write_delivery(src, out, artwork, chain, replace(chain.recipe.deliver, format="hard-proof"), None)


@click.command()
@click.argument("sheets", metavar="SHEET.json…", type=FILE, nargs=-1, required=True)
@click.option("--costs", required=True, type=FILE, help="Laydown (g/m²) and price (per kg) of each ink, as JSON.")
@click.option("--copies", type=click.IntRange(1, 10_000_000), default=1, show_default=True)
@AS_JSON
def cost(sheets: tuple[Path, ...], costs: Path, copies: int, as_json: bool) -> None:
    """Say what the separations of run SHEETs cost: grams of each ink and money, the first beside the others."""
    from dataclasses import asdict

    from plinto_core.analysis.cost import cost_of_sheet, costs_from_file
    from plinto_core.deliver.run_sheet import read_run_sheet

    known = costs_from_file(costs.read_bytes(), costs.name)
    found = {path.name: cost_of_sheet(read_run_sheet(path), known, copies) for path in sheets}
    if as_json:
        click.echo(json.dumps({name: asdict(each) for name, each in found.items()}, indent=1, ensure_ascii=False))
        return
    first = next(iter(found.values()))
    for name, each in found.items():
        inks = ", ".join(f"{ink} {grams:.1f} g" for ink, grams in each.grams.items())
        apart = each.total_money - first.total_money
        beside = "" if each is first else f" ({apart:+.2f} against the first)"
        click.echo(
            f"{name}: {each.total_money:.2f} {each.currency}{beside} for {each.copies:,} of {each.area_m2:.3f} m²: {inks}; "
            f"ink {sum(each.ink_money.values()):.2f}, medium {each.medium_money:.2f}"
        )
        if each.unknown:
            click.echo(f"  Not counted, for nothing is said of them: {', '.join(each.unknown)}.")
