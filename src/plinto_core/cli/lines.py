"""Commands of the line: trace, proof, separate, films, negative, link."""

import json
import sys
from dataclasses import replace
from datetime import UTC, datetime
from functools import partial
from pathlib import Path
from typing import Any, get_args

import click
import numpy as np

from plinto_core.adjust.regions import PixelGrid
from plinto_core.chain.compiled import Chain
from plinto_core.cli.settings import (
    FILE,
    OUT,
    TABLE,
    chain_of,
    line_options,
    opened_with_chain,
    read_rgb_profile,
    recipe_of,
    rounded,
    show,
    write_bytes,
    write_text,
)
from plinto_core.errors import ArtworkError, RecipeError
from plinto_core.files import write_whole
from plinto_core.icc.standard import RGB_SPACES, rgb_profile
from plinto_core.inks.drive import driven_by_rgb, turned
from plinto_core.raster.opened import Artwork
from plinto_core.recipe import Compression, DeliverStation, Format, Recipe

_FORMATS: dict[str, Format] = {".tif": "tiff", ".tiff": "tiff", ".jpg": "jpeg", ".jpeg": "jpeg", ".pdf": "pdf"}


@click.command()
@click.argument("src", type=FILE, nargs=-1, required=True)
@click.option(
    "--out",
    required=True,
    type=click.Path(path_type=Path),
    help="File to write: .tif, .jpg (CMYK) or .pdf; of several pictures, the folder to write them to.",
)
@line_options
@click.option("--format", "format_", type=click.Choice(["tiff", "jpeg", "pdf"]), help="In a folder. Default: tiff.")
@click.option("--compression", type=click.Choice(get_args(Compression)), help="Of a TIFF. Default: lzw.")
@click.option("--quality", type=click.IntRange(50, 100), help="Of a JPEG. Default: 92.")
@click.option("--strip-profile", is_flag=True, help="Do not embed the condition's profile.")
@click.option(
    "--run-sheet", type=click.Path(path_type=Path), help="JSON of how the file was made; of several, a folder."
)
def separate(
    src: tuple[Path, ...], out: Path, format_: Format | None, compression: Compression | None, quality: int | None,
    strip_profile: bool, run_sheet: Path | None, **given: Any,
) -> None:  # fmt: skip
    """Write SRC as inks. No pixel exceeds the ink limits, which is checked on what is written."""
    several = len(src) > 1 or out.is_dir()
    made = format_ or ("tiff" if several else _FORMATS.get(out.suffix.lower()))
    if made is None:
        raise RecipeError(f"--out {out.name}: the ending says the format; use .tif, .jpg or .pdf.")
    for folder in (out, run_sheet) if several else ():
        if folder is not None and not folder.is_dir():
            raise RecipeError(f"'{folder}' is no folder. Of several pictures, files and sheets go into folders.")
    jobs = []
    for each in src:
        artwork, chain = opened_with_chain(each, given)
        deliver = chain.recipe.deliver
        deliver = replace(
            deliver, format=made, embed_profile=deliver.embed_profile and not strip_profile,
            compression=compression or deliver.compression, jpeg_quality=quality or deliver.jpeg_quality,
        )  # fmt: skip
        stem = named(artwork, chain, deliver)
        target = out / f"{stem}{deliver.suffix}" if several else out
        sheet = run_sheet / f"{stem} run sheet.json" if several and run_sheet else run_sheet
        jobs.append((each, target, artwork, chain, deliver, sheet))
    # Before anything is written: no file over another one, and none over an original.
    _check_targets([(each, target) for each, target, *_ in jobs])
    for job in jobs:
        write_delivery(*job)


def _check_targets(jobs: list[tuple[Path, Path]]) -> None:
    originals = {source.resolve() for source, _ in jobs}
    taken: dict[Path, Path] = {}
    for source, target in jobs:
        where = target.resolve()
        if where in originals:
            raise ArtworkError(
                f"'{target.name}' is an original, and originals are never changed. Choose another --out."
            )
        if where in taken:
            raise RecipeError(f"'{source}' and '{taken[where]}' would both become '{target.name}'. Rename one.")
        taken[where] = source


def named(artwork: Artwork, chain: Chain, deliver: DeliverStation) -> str:
    """The file's name, without ending, as the recipe's name rule says."""
    return stem_of(artwork.name, chain.condition.profile.name, chain.recipe, deliver)


def stem_of(artwork: str, condition: str, recipe: Recipe, deliver: DeliverStation) -> str:
    """As `named`, of names alone: before anything is opened or compiled."""
    ink = recipe.ink
    return deliver.file_name(
        artwork=Path(artwork).stem, condition=condition, intent=recipe.aim.intent,
        limit=f"{ink.limits.total_percent:.0f}" if ink.method == "rebuilt" else "as profiled",
        date=datetime.now(UTC).strftime("%Y-%m-%d"),
    )  # fmt: skip


def write_delivery(
    src: Path, out: Path, artwork: Artwork, chain: Chain, deliver: DeliverStation, run_sheet: Path | None
) -> None:
    """Write what the deliver station says, with its run sheet where one is wanted, and say what came out."""
    from plinto_core.deliver import run_sheet as sheets
    from plinto_core.deliver import separate as making
    from plinto_core.files import file_digest

    if out.resolve() == src.resolve():
        raise ArtworkError(f"'{src.name}' is the original, and originals are never changed. Choose another --out.")
    chain = chain.delivering(deliver)
    # Progress is for whoever sits before a terminal; a log has no use for it.
    with click.progressbar(length=1000, label=artwork.name, file=sys.stderr, hidden=not sys.stderr.isatty()) as bar:
        outcome = making.separate(artwork, chain, out, lambda share: bar.update(int(1000 * share) - bar.pos))
        bar.update(1000 - bar.pos)
    if run_sheet:
        digest = file_digest(src)
        sheet = json.dumps(sheets.run_sheet(artwork, digest, chain, outcome, out.name), indent=2)
        write_whole(run_sheet, lambda part: write_text(part, sheet))
    if driven_by_rgb(outcome.inks):
        click.echo(f"{out}: R, G, B for {chain.condition.profile.name}")
        return
    means = ", ".join(f"{ink} {mean:.1f}" for ink, mean in zip(outcome.inks, outcome.mean_percent, strict=True))
    click.echo(f"{out}: largest coverage {outcome.largest_percent:.1f} %; mean % {means}")


@click.command()
@click.argument("src", type=FILE)
@click.option("--out", required=True, type=OUT, help="PNG to write, in the display's RGB.")
@line_options
@click.option("--substrate/--no-substrate", default=False, help="Show the color of the stock as well.")
@click.option("--black-depth/--full-black", default=True, help="Show the real depth of the print's black.")
@click.option("--display", type=FILE, help="ICC profile of the display. Default: sRGB.")
def proof(src: Path, out: Path, substrate: bool, black_depth: bool, display: Path | None, **given: Any) -> None:
    """Write how SRC will print, computed from the very ink values that `separate` writes."""
    import imagecodecs

    from plinto_core.screen.proof import Renderer, RenderRequest, display_gap_share

    artwork, chain = opened_with_chain(src, given)
    screen = read_rgb_profile(display, "--display") if display else rgb_profile("sRGB")
    # The whole link is baked once: the proof then goes through what a file goes through.
    _ = chain.link
    chain.keep_nodes()
    scene, view = Renderer(chain, screen), RenderRequest(substrate=substrate, black_depth=black_depth)
    rows, top = [], 0
    for band in artwork.bands():
        rows.append(scene.render(view, band, PixelGrid.rows(top, len(band), artwork.width, artwork.height)))
        top += len(band)
    encoded = bytes(imagecodecs.png_encode(np.concatenate(rows), level=4))
    write_whole(out, lambda part: write_bytes(part, encoded))
    gap = display_gap_share(chain.condition.model, screen, substrate) * 100
    said = f"{artwork.width} × {artwork.height}, for {screen.name}, which cannot show {gap:.1f} % of the condition"
    click.echo(f"{out}: {said}")


@click.command()
@click.option("--rgb", required=True, metavar="R,G,B", help="Source color, 0 to 255 (decimals allowed).")
@line_options
@click.option("--json", "as_json", is_flag=True, help="For programs.")
def trace(rgb: str, as_json: bool, **given: Any) -> None:
    """Follow one color through every station."""
    try:
        values = [float(v) for v in rgb.split(",")]
    except ValueError:
        values = []
    if len(values) != 3 or not all(0 <= v <= 255 for v in values):
        raise RecipeError(f"--rgb {rgb} cannot be read; write three numbers from 0 to 255, like 12,200,40.")
    if given["source"] is None and given["recipe"] is None:
        raise RecipeError(f"A color alone has no profile: choose --source ({', '.join(RGB_SPACES)} or an ICC file).")
    chain = chain_of(given, None)
    found = chain.trace(np.array(values) / 255)
    inks = chain.condition.model.inks
    ink: dict[str, Any] = {
        "ink": {
            **dict(zip(inks, rounded(found.inks * 100), strict=True)),
            "sum_percent": round(float(found.inks.sum()) * 100, 2),
        }
    }
    if driven_by_rgb(inks):
        ink = {"device": {"rgb": rounded(turned(found.inks) * 255)}}
    show(
        {
            "source": {
                "profile": chain.source.profile.name,
                "rgb": rounded(values),
                "lab": rounded(found.source_lab),
            },
            "adjust": {"rgb": rounded(found.adjusted * 255), "lab": rounded(found.adjusted_lab)},
            "aim": {"want_lab": rounded(found.want_lab), "lab": rounded(found.aim_lab)},
            **ink,
            "print": {"lab": rounded(found.print_lab), "delta_e_2000": round(float(found.delta_e[0]), 3)},
        },
        as_json,
    )


@click.command()
@click.option("--out", required=True, type=OUT, help="ICC device link to write.")
@click.option(
    "--through", help="Instead of a line a route: A.icc:relative,B.icc:absolute+bpc,… (see `plinto route`)."
)
@click.option("--points", type=click.IntRange(2, 255), help="Points a channel, of a route. Default: by the channels.")
@TABLE
@partial(line_options, needs_profile=False)
def link(out: Path, through: str | None, points: int | None, icc: str, bits: str, **given: Any) -> None:
    """Write the whole line, limits and black included, or a route, as an ICC device link for other software."""
    if through is not None:
        from plinto_core.cli.routes import table_form, waypoints_of, write_route
        from plinto_core.route.written import route_link

        write_route(out, route_link(waypoints_of(through, recipe_of(given)), form=table_form(icc, bits, points or 0)))
        return
    if (icc, bits) != ("4", "16"):
        raise click.UsageError(
            "--icc and --bits are for a route: give --through. A line's link is version 4, 16 bit."
        )
    if given["profile"] is None:
        raise click.UsageError("Give --profile for a line, or --through for a route.")
    if given["source"] is None and given["recipe"] is None:
        raise RecipeError(
            f"A link needs to know its source: choose --source ({', '.join(RGB_SPACES)} or an ICC file)."
        )
    space = "RGB"
    if given["source"] not in (None, *RGB_SPACES) and Path(given["source"]).is_file():
        from plinto_core.cli.settings import read_profile

        space = read_profile(Path(given["source"])).header.space.strip()
    chain = chain_of(given, None, space)
    if chain.plates or chain.regions:
        raise RecipeError(
            "A device link knows colors only: it cannot hold plate curves or regions. Take them out of the recipe."
        )
    source, target = chain.source.profile, chain.condition.profile
    made = chain.baked.to_profile(f"{source.name} to {target.name}", source, target)
    chain.keep_nodes()
    write_whole(out, lambda part: write_bytes(part, made.raw))
    click.echo(f"{out}: {made.name}, {chain.baked.points} points a side")
