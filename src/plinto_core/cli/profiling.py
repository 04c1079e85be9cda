"""Commands of the color lead: profile build, judge and the others, gamut."""

import json
from dataclasses import asdict, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import click
import numpy as np

from plinto_core.cli.measuring import AS_JSON, light, measured, read_calibration
from plinto_core.cli.settings import (
    FILE,
    OUT,
    PERCENT,
    read_json,
    read_profile,
    rounded,
    show,
    write_bytes,
    write_text,
)
from plinto_core.errors import CharacterizationError, RecipeError
from plinto_core.files import write_whole
from plinto_core.icc.profile import Profile
from plinto_core.inks.drive import driven_by_rgb
from plinto_core.measurement.cgats import as_it_came
from plinto_core.measurement.measurements import under_light
from plinto_core.profiling.build_profile import (
    PERCEPTUAL_STYLES,
    BuildSettings,
    automatic_total,
    build_output_profile,
    settings_of,
)
from plinto_core.profiling.characterize import Characterization
from plinto_core.recipe.black import BLACK_PRESETS, BlackPolicy, usual_black
from plinto_core.recipe.limits import InkLimits
from plinto_core.separation.inverse import precompute
from plinto_core.separation.tables import InverseTables

_BLACK_OPTIONS = ("black_amount", "black_start", "black_max")


@click.group()
def profile() -> None:
    """Build, judge, compare, rename output profiles, copy tags between them."""


@profile.command()
@click.argument("data", type=FILE)
@click.option("--out", required=True, type=OUT, help="ICC profile to write.")
@click.option("--icc", type=click.Choice(["2", "4"]), help="ICC version. Default: 4.")
@click.option("--grid", type=click.IntRange(9, 65), help="Points a side from Lab to inks. Default: 33.")
@click.option(
    "--total-ink", metavar="N|auto", help="Most ink on one spot, %, or read from where black gets no darker."
)
@click.option("--black", type=click.Choice(list(BLACK_PRESETS)), help="Kind of black generation to start from.")
@click.option("--black-amount", type=PERCENT)
@click.option("--black-start", type=PERCENT)
@click.option("--black-max", type=PERCENT)
@click.option("--perceptual", type=click.Choice(list(PERCEPTUAL_STYLES)), help="Style of the perceptual table.")
@click.option(
    "--smoothing", metavar="auto|N", default="auto", help="How smooth the fit is; auto: as left-out patches say."
)
@click.option("--gray-balance", metavar="a,b", help="a* and b* of the grays in mid tone.")
@click.option("--chroma", type=click.FloatRange(-50, 50), help="Chroma added in the perceptual table, %.")
@click.option("--name", help="Name of the profile. Default: the data's title.")
@click.option("--copyright", "rights", help="What the profile's copyright says. Default: that no rights are stated.")
@click.option("--illuminant", metavar="D50|D65|A|FILE", help="Light to view under; needs spectra. Default: D50.")
@click.option("--calibration", type=FILE, help="Calibration (JSON) that the chart was printed through.")
@click.option(
    "--date", "created", type=click.DateTime(["%Y-%m-%d"]), help="Date in the profile, for the same bytes again."
)
@click.option("--report", type=OUT, help="Report to write, .html or .json.")
@click.option("--settings", type=FILE, help="Settings (JSON), or a profile built here to take them from.")
def build(
    data: Path, out: Path, settings: Path | None, smoothing: str, illuminant: str | None, calibration: Path | None,
    created: datetime | None, report: Path | None, **given: Any,
) -> None:  # fmt: skip
    """Build an output profile from measured DATA, with three intents and the measurements inside."""
    from plinto_core.profiling.characterize import characterize as read_press

    if report and report.suffix not in (".html", ".json"):
        raise RecipeError(f"--report {report.name}: a name that ends in .html or .json is meant.")
    found_data, notes = measured(data)
    if illuminant:
        found_data = under_light(found_data, light(illuminant))
    text = found_data.to_cgats() if illuminant else as_it_came(data.read_bytes(), found_data)
    found = read_press(found_data, notes, smoothing=None if smoothing == "auto" else _smoothing(smoothing))
    fit = found.fit
    for index, error in fit.outliers:
        dots = " ".join(f"{v * 100:.0f}" for v in found_data.device[index])
        click.echo(f"Patch {dots} is {error:.1f} ΔE00 from what the others say and was set aside.", err=True)
    kept = _kept_settings(settings)
    black = _black(given, kept)
    if fit.model.black_index is None or len(fit.model.inks) == 1:
        black = usual_black(fit.model.inks)
    total = given["total_ink"] or str(kept.get("limits", {}).get("total_percent", "auto"))
    if driven_by_rgb(fit.model.inks):
        asked = [name for name in ("total_ink", "black", *_BLACK_OPTIONS) if given[name] is not None]
        if asked:
            options = ", ".join("--" + name.replace("_", "-") for name in asked)
            raise RecipeError(f"{options}: '{data.name}' is of a printer driven by RGB; its inks are its own affair.")
        total = "300"
    if total == "auto":
        percent, _totals, _lightness = automatic_total(fit.model, black)
        click.echo(f"Total ink {percent:g} %: with more the neutral black gets no darker.", err=True)
    else:
        try:
            percent = float(total)
        except ValueError as error:
            raise RecipeError(f"--total-ink {total} is neither a number nor auto.") from error
    made = BuildSettings(
        given["name"] or kept.get("name") or found_data.title,
        InkLimits(percent, found.stops_at),
        black,
        (int(given["icc"] or kept.get("version", [4])[0]), 4),
        given["grid"] or kept.get("grid", 33),
        given["perceptual"] or kept.get("style", "steady"),
        _balance(given["gray_balance"]) if given["gray_balance"] else tuple(kept.get("gray_balance", (0.0, 0.0))),
        given["chroma"] if given["chroma"] is not None else kept.get("chroma_percent", 0.0),
        given["rights"] if given["rights"] is not None else kept.get("copyright", ""),
    )
    behind = read_calibration(calibration) if calibration else None
    tables = precompute(fit.model)
    profile_ = build_output_profile(fit.model, made, text, behind, tables, created and created.replace(tzinfo=UTC))
    write_whole(out, lambda part: write_bytes(part, profile_.raw))
    if report:
        _write_report(report, profile_, tables, found, black)
    ink = "driven by RGB" if driven_by_rgb(fit.model.inks) else f"total ink {percent:g} %"
    click.echo(f"{out}: {made.name}, {ink}, fit ΔE00 {fit.held_out_mean:.2f} mean, {fit.held_out_p95:.2f} p95")


def _smoothing(text: str) -> float:
    try:
        return float(text)
    except ValueError as error:
        raise RecipeError(f"--smoothing {text} is neither a number nor auto.") from error


def _write_report(
    path: Path, made: Profile, tables: InverseTables, found: Characterization, black: BlackPolicy
) -> None:
    from plinto_core.profiling.judge import judge
    from plinto_core.profiling.report import report_html, report_json

    judgement = judge(made, tables)
    settings = settings_of(made) or {}
    _percent, totals, lightness = automatic_total(found.fit.model, black, tables)
    curve = [(float(total), round(float(L), 2)) for total, L in zip(totals, lightness, strict=True)]
    make = report_html if path.suffix == ".html" else report_json
    text = make(judgement, found, settings, curve)
    write_whole(path, lambda part: write_text(part, text))


def _kept_settings(path: Path | None) -> dict[str, Any]:
    if path is None:
        return {}
    if path.read_bytes()[36:40] == b"acsp":
        found = settings_of(read_profile(path))
        if found is None:
            raise RecipeError(f"'{path.name}' carries no settings; it was not built here.")
        return found
    return dict(read_json(path, "settings as a profile built here carries them"))


def _black(given: dict[str, Any], kept: dict[str, Any]) -> BlackPolicy:
    start = BLACK_PRESETS[given["black"]] if given["black"] else BlackPolicy(**kept.get("black", {}))
    fields = ("amount_percent", "start_percent", "maximum_percent")
    wanted = zip(fields, _BLACK_OPTIONS, strict=True)
    return replace(start, **{field: given[option] for field, option in wanted if given[option] is not None})


def _balance(text: str) -> tuple[float, float]:
    try:
        a, b = (float(part) for part in text.split(","))
    except ValueError as error:
        raise RecipeError(f"--gray-balance {text} cannot be read; write it like 0.5,-1.") from error
    return a, b


@profile.command(name="judge")
@click.argument("file", type=FILE)
@click.option("--data", type=FILE, help="Measurements to hold it against.")
@click.option("--against", type=FILE, help="Another output profile to set beside it.")
@AS_JSON
def judge_profile(file: Path, data: Path | None, against: Path | None, as_json: bool) -> None:
    """Round trip, neutrality, dot gain, ink really laid down, smoothness and gamut of an output profile."""
    from plinto_core.profiling.judge import judge

    compared = measured(data)[0] if data else None
    found = [judge(read_profile(path), data=compared) for path in (file, against) if path]
    shared = _shared([read_profile(path) for path in (file, against) if path])
    if as_json:
        show([asdict(each) | shared for each in found], True)
        return
    for each in found:
        show(
            {
                "name": each.name, "inks": " ".join(each.inks),
                "round trip ΔE00": _three(each.round_trip_mean, each.round_trip_p99, each.round_trip_worst),
                **({"measured ΔE00": _three(*each.against_data)} if each.against_data else {}),
                "gray axis": f"at most {each.max_neutral_chroma:.2f} C* off neutral",
                "gain at 50 %": {k: round((dict(v)[0.5] - 0.5) * 100, 1) for k, v in each.gain.items()},
                "most ink in tables %": round(each.most_ink_percent, 1), "black Lab": list(each.black_lab),
                "roughness": f"{each.roughness:.2f} codes beyond an even step",
                "gamut volume": f"{each.gamut_volume:,.0f} cubic ΔE",
            },
            False,
        )  # fmt: skip
    for name, share in shared.items():
        click.echo(f"{name:<28} {share}")


def _shared(profiles: list[Profile]) -> dict[str, str]:
    """How much of each gamut lies in the other, where there are two."""
    from plinto_core.gamut.volume import coverage
    from plinto_core.press.model import model_from_profile
    from plinto_core.profiling.judge import gamut_of

    if len(profiles) < 2:
        return {}
    first, second = (gamut_of(model_from_profile(profile)) for profile in profiles)
    return {
        "of the first in the second": f"{coverage(first, second) * 100:.1f} %",
        "of the second in the first": f"{coverage(second, first) * 100:.1f} %",
    }


def _three(mean: float, p99: float, worst: float) -> str:
    return f"{mean:.2f} mean, {p99:.2f} p99, {worst:.2f} worst"


@profile.command(name="from-inks")
@click.argument("numbers", type=FILE)
@click.option("--out", required=True, type=OUT, help="ICC profile to write.")
@click.option(
    "--total-ink", type=click.FloatRange(50, 600), help="Most ink on one spot, %. Default: read from the model."
)
@click.option(
    "--patches", type=FILE, help="Measured patches of the same inks (a control strip), which move the model."
)
def from_inks(numbers: Path, out: Path, total_ink: float | None, patches: Path | None) -> None:
    """Build a usable profile from a few NUMBERS (JSON): Lab of paper, solids and overprints, dot gain of each ink.

    Overprints that are not given are predicted, and named.
    """
    from plinto_core.measurement.cgats import read_measurements
    from plinto_core.press.corrected import corrected
    from plinto_core.press.from_inks import ink_numbers_from_json, model_from_inks

    given = ink_numbers_from_json(read_json(numbers, "paper, solids, overprints and gain_percent"))
    if patches is None:
        model = model_from_inks(given)
        if given.missing_overprints:
            click.echo(f"Predicted, for nobody gave them: {', '.join(given.missing_overprints)}")
    else:
        moved = corrected(given, read_measurements(patches.read_bytes(), patches.name)[0])
        model = moved.model
        click.echo(f"{moved.patches} patches: ΔE00 {moved.before:.2f} by the numbers, {moved.after:.2f} now")
    black = usual_black(model.inks)
    total = total_ink or automatic_total(model, black)[0]
    made = build_output_profile(model, BuildSettings(given.name, InkLimits(total), black))
    write_whole(out, lambda part: write_bytes(part, made.raw))
    click.echo(f"{out}: {given.name}, total ink {total:g} %")


@profile.command(name="copy-tag")
@click.argument("source", type=FILE)
@click.argument("target", type=FILE)
@click.argument("tags", nargs=-1, required=True)
@click.option("--out", required=True, type=OUT, help="ICC profile to write.")
def copy_tag(source: Path, target: Path, tags: tuple[str, ...], out: Path) -> None:
    """Write TARGET with TAGS taken from SOURCE."""
    from plinto_core.icc.edit import copy_tags

    _write_profile(copy_tags(read_profile(source), read_profile(target), tags), out, (source, target))


@profile.command()
@click.argument("file", type=FILE)
@click.argument("name")
@click.option("--out", required=True, type=OUT, help="ICC profile to write.")
def rename(file: Path, name: str, out: Path) -> None:
    """Write a profile under another NAME."""
    from plinto_core.icc.edit import renamed

    _write_profile(renamed(read_profile(file), name), out, (file,))


def _write_profile(made: Profile, out: Path, originals: tuple[Path, ...]) -> None:
    if any(out.resolve() == path.resolve() for path in originals):
        raise RecipeError(f"'{out.name}' is an original, and originals are never changed. Choose another --out.")
    write_whole(out, lambda part: write_bytes(part, made.raw))
    click.echo(f"{out}: {made.name}")


@profile.command(name="compare")
@click.argument("one", type=FILE)
@click.argument("other", type=FILE)
@AS_JSON
def compare_profiles(one: Path, other: Path, as_json: bool) -> None:
    """Say where two profiles differ: header, tags, and the colors of the same ink values."""
    from plinto_core.colorimetry.difference import delta_e_2000
    from plinto_core.icc import cmm
    from plinto_core.inspection import describe_profile

    a, b = read_profile(one), read_profile(other)
    first, second = describe_profile(a), describe_profile(b)
    different = {k: [first[k], second[k]] for k in first if k not in ("tags", "sha256") and first[k] != second[k]}
    tags = {
        tag: [first["tags"].get(tag), second["tags"].get(tag)]
        for tag in {**a.tags, **b.tags}
        if repr(a.tags.get(tag)) != repr(b.tags.get(tag))
    }
    found: dict[str, Any] = {"different": different, "tags": tags}
    if a.header.space == b.header.space and a.header.profile_class == b.header.profile_class != "link":
        values = np.random.default_rng(5).random((5000, a.header.channels))
        error = delta_e_2000(cmm.to_lab(a, values), cmm.to_lab(b, values))
        found["ΔE00 of equal values"] = rounded([error.mean(), np.percentile(error, 95), error.max()])
    show(found, as_json)


@click.command()
@click.argument("files", type=FILE, nargs=-1, required=True)
@AS_JSON
def gamut(files: tuple[Path, ...], as_json: bool) -> None:
    """Volumes of output profiles and RGB spaces, how much of each the first covers, and shares of images outside it."""
    from plinto_core.chain.source_gamut import surface_lab
    from plinto_core.chain.stations import Source
    from plinto_core.gamut.boundary import boundary_of_surface
    from plinto_core.gamut.volume import coverage, share_outside, volume
    from plinto_core.icc import cmm
    from plinto_core.press.model import model_from_profile
    from plinto_core.profiling.judge import gamut_of
    from plinto_core.raster.opened import open_artwork
    from plinto_core.raster.pyramid import Pyramid, build_pyramid

    first, rows = None, {}
    for path in files:
        if path.read_bytes()[36:40] == b"acsp":
            found = read_profile(path)
            rgb = found.header.space == "RGB "
            edge = boundary_of_surface(surface_lab(Source(found))) if rgb else gamut_of(model_from_profile(found))
            first = first or edge
            covered = coverage(edge, first) * 100
            rows[path.name] = {"volume": round(volume(edge)), "covered by the first %": round(covered, 1)}
            continue
        if first is None:
            raise RecipeError("Name a profile before the images: they are compared with the first one.")
        artwork = open_artwork(path)
        if artwork.profile is None:
            raise CharacterizationError(f"'{path.name}' has no embedded profile, so its colors are not known.")
        import tempfile

        with tempfile.TemporaryDirectory() as folder:
            build_pyramid(artwork, Path(folder))
            pixels, _places, _step = Pyramid(Path(folder)).sample(40_000)
        lab = cmm.to_lab(artwork.profile, pixels.reshape(-1, pixels.shape[-1]) / float(np.iinfo(pixels.dtype).max))
        rows[path.name] = {"outside the first %": round(share_outside(lab, first) * 100, 1)}
    click.echo(json.dumps(rows, indent=2, ensure_ascii=False)) if as_json else show(rows, False)
