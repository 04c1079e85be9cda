"""Commands around the measuring: chart, characterize, calibrate, backlit, drift."""

import json
from dataclasses import asdict
from pathlib import Path

import click

from plinto_core.cli.settings import FILE, OUT, PERCENT, read_json, read_profile, show, write_text
from plinto_core.errors import RecipeError
from plinto_core.files import write_whole
from plinto_core.inks.names import DRIVEN_BY_RGB
from plinto_core.measurement.cgats import read_measurements
from plinto_core.measurement.chart import characterization_chart, chart_text
from plinto_core.measurement.measurements import Array, Measurements
from plinto_core.press.calibration import Calibration, calibration_from_json

AS_JSON = click.option("--json", "as_json", is_flag=True, help="For programs.")


def measured(path: Path) -> tuple[Measurements, list[str]]:
    """A measurement file; what was assumed goes to stderr."""
    data, notes = read_measurements(path.read_bytes(), path.name)
    for note in notes:
        click.echo(note, err=True)
    return data, notes


def read_calibration(path: Path) -> Calibration:
    """A calibration file."""
    return calibration_from_json(read_json(path, "a calibration as `plinto calibrate` writes it"))


@click.command()
@click.option("--inks", default="CMYK", show_default=True, help="Letters of the inks, in order.")
@click.option("--rgb", is_flag=True, help="For a printer driven by RGB, whose inks are out of reach.")
@click.option("--patches", type=click.IntRange(20, 6000), default=1600, show_default=True)
@click.option("--total-ink", type=click.FloatRange(50, 800), default=400.0, help="Most ink of a patch, %.")
@click.option("--calibration", type=FILE, help="Calibration that the TIFF and the PDF are printed through.")
@click.option("--tiff", type=OUT, help="The chart to print, as TIFF.")
@click.option("--pdf", type=OUT, help="The chart to print, as PDF.")
@click.option("--out", required=True, type=OUT, help="CGATS text to write.")
def chart(
    inks: str,
    rgb: bool,
    patches: int,
    total_ink: float,
    calibration: Path | None,
    tiff: Path | None,
    pdf: Path | None,
    out: Path,
) -> None:
    """Lay out a chart that suits the fit: ramps, overprints, grays, an even fill."""
    if not 1 <= len(inks) <= 8 or len(set(inks)) < len(inks):
        raise RecipeError(f"--inks {inks}: one to eight different letters are meant.")
    letters = DRIVEN_BY_RGB if rgb else tuple(inks)
    layout = characterization_chart(len(letters), patches, total_ink / 100)
    write_whole(out, lambda part: write_text(part, chart_text(layout, letters)))
    _write_chart(layout, letters, read_calibration(calibration) if calibration else None, tiff, pdf, out.stem)
    click.echo(f"{out}: {len(layout)} patches of {'R, G, B' if rgb else f'{len(inks)} inks'}")


def _write_chart(
    layout: Array, letters: tuple[str, ...], calibration: Calibration | None, tiff: Path | None, pdf: Path | None,
    title: str,
) -> None:  # fmt: skip
    from plinto_core.deliver.chart_out import write_chart_pdf, write_chart_tiff
    from plinto_core.press.from_inks import guessed_model

    if calibration:
        if calibration.inks != letters:
            raise RecipeError(
                f"The calibration is for {' '.join(calibration.inks)}, the chart for {' '.join(letters)}."
            )
        layout, letters = calibration.apply(layout), calibration.device_inks
    if tiff:
        write_whole(tiff, lambda part: write_chart_tiff(part, layout, letters))
    if pdf:
        write_whole(pdf, lambda part: write_chart_pdf(part, layout, letters, title, guessed_model(letters)))


@click.command()
@click.argument("data", type=FILE)
@click.option("--holdout", type=PERCENT, default=10.0, show_default=True, help="Share of patches kept back, %.")
@AS_JSON
def characterize(data: Path, holdout: float, as_json: bool) -> None:
    """Fit measured DATA (CGATS or CxF), name its wrong patches, and read the press off it."""
    from plinto_core.profiling.characterize import characterize as read_press

    found_data, notes = measured(data)
    found = read_press(found_data, notes, holdout / 100)
    fit = found.fit
    show(
        {
            "title": found.title, "inks": " ".join(found.inks), "patches": found.patches,
            "substrate Lab": list(found.substrate_lab),
            "solids Lab": {ink: list(lab) for ink, lab in found.solids_lab.items()},
            "gain at 50 %": {ink: round(gain, 1) for ink, gain in found.gain_50.items()},
            "most ink %": round(found.most_ink_percent, 1),
            **({"ramps": {ink: [list(row) for row in ramp] for ink, ramp in found.ramps.items()}} if as_json else {}),
            "held out ΔE00 mean": round(fit.held_out_mean, 3), "held out ΔE00 p95": round(fit.held_out_p95, 3),
            "smoothing": fit.smoothing,
            "smoothing tried": {
                f"{each.smoothing:g}": f"left out {each.left_out:.3f}, seen {each.seen:.3f}, bending {each.bending:.3f}"
                for each in fit.tried
            },
            "wrong patches": {
                " ".join(f"{v * 100:.0f}" for v in found_data.device[index]): round(error, 1)
                for index, error in fit.outliers
            },
        },
        as_json,
    )  # fmt: skip


@click.command()
@click.argument("ramps", type=FILE)
@click.option("--cross", multiple=True, metavar="C=35,80,15", help="Tones at which dark ink starts and light ink stops, "
              "and light ink held to the end, %.")  # fmt: skip
@click.option("--cap", multiple=True, metavar="K=92", help="Most of an ink, %. Default: where density stops rising.")
@click.option("--behind", type=FILE, help="Calibration that these ramps were printed through, to be corrected.")
@click.option("--gain", type=click.FloatRange(0, 40), help="Aim at this dot gain instead of even steps of color, %.")
@click.option("--out", required=True, type=OUT, help="Calibration (JSON) to write.")
@AS_JSON
def calibrate(
    ramps: Path, cross: tuple[str, ...], cap: tuple[str, ...], behind: Path | None, gain: float | None, out: Path,
    as_json: bool,
) -> None:  # fmt: skip
    """Linearize from RAMPS (a ramp of every ink the printer has), and cross light inks (c, m, k) over into dark ones."""
    from plinto_core.profiling.linearize import InkSplit
    from plinto_core.profiling.linearize import calibrate as make

    data, _notes = measured(ramps)
    crossings = {ink: InkSplit(*(n / 100 for n in numbers)) for ink, numbers in _named(cross, "--cross", 3)}
    caps = {ink: numbers[0] / 100 for ink, numbers in _named(cap, "--cap", 1)}
    made, lines = make(data, crossings, caps, gain, read_calibration(behind) if behind else None)
    write_whole(out, lambda part: write_text(part, json.dumps(made.to_json(), indent=1)))
    show(
        {
            "inks": " ".join(made.inks), "printed": " ".join(made.device_inks),
            "capped at %": {ink: round(line.cap * 100, 1) for ink, line in lines.items()},
            "bulge %": {ink: round(line.bulge_share * 100, 1) for ink, line in lines.items()},
            "measure again": [line.advice for line in lines.values() if line.advice],
        },
        as_json,
    )  # fmt: skip


def _named(given: tuple[str, ...], option: str, count: int) -> list[tuple[str, list[float]]]:
    found = []
    for each in given:
        ink, _, text = each.partition("=")
        try:
            numbers = [float(part) for part in text.split(",")]
        except ValueError:
            numbers = []
        if len(numbers) != count:
            raise RecipeError(f"{option} {each}: an ink's letter and {count} percentages are meant, like C=35,80,15.")
        found.append((ink, numbers))
    return found


@click.command()
@click.argument("chart", type=FILE)
@click.option("--table-on", required=True, type=FILE, help="Reading of the bare table, on: nm and value a line.")
@click.option("--table-off", required=True, type=FILE, help="The same, off: what the room puts in.")
@click.option("--panel", default="D50", metavar="D50|D65|A|FILE", help="Light that the print will hang on.")
@click.option("--ambient-share", type=PERCENT, default=0.0, help="Light of the room against the panel's, %.")
@click.option("--ambient", metavar="D50|D65|A|FILE", help="Light of the room. Default: like the panel's.")
@click.option("--out", required=True, type=OUT, help="CGATS text to write, as seen on the panel.")
@AS_JSON
def backlit(
    chart: Path, table_on: Path, table_off: Path, panel: str, ambient_share: float, ambient: str | None, out: Path,
    as_json: bool,
) -> None:  # fmt: skip
    """From a CHART read on a light table (spectra) to what it looks like on the panel it will hang on."""
    from plinto_core.colorimetry.spectra import illuminant_power
    from plinto_core.profiling.backlit import Viewing, on_panel, patch_volume

    data, _notes = measured(chart)
    on, off = (reading(path) for path in (table_on, table_off))
    viewing = Viewing(light(panel), ambient_share / 100, light(ambient) if ambient else None)
    made = on_panel(data, on, off, viewing)
    write_whole(out, lambda part: write_text(part, made.to_cgats()))
    at_d50 = on_panel(data, on, off, Viewing(illuminant_power("D50")))
    here, there = patch_volume(made.xyz), patch_volume(at_d50.xyz)
    show(
        {
            "patches": len(made.device), "gamut of the patches": f"{here:,.0f} cubic ΔE",
            "against D50, dark room": f"{(here / there - 1) * 100:+.1f} %",
        },
        as_json,
    )  # fmt: skip


def light(choice: str) -> Array:
    """Relative power (36,) of a standard illuminant or of a file's."""
    from plinto_core.colorimetry.spectra import ILLUMINANTS, illuminant_power, light_from_text

    if choice in ILLUMINANTS:
        return illuminant_power(choice)
    path = Path(choice)
    if not path.is_file():
        raise RecipeError(f"'{choice}' is neither a light ({', '.join(ILLUMINANTS)}) nor a file.")
    return light_from_text(path.read_bytes().decode("utf-8", "replace"), path.name)


def reading(path: Path) -> Array:
    """A reading (36,) in the instrument's own unit: nm and value a line."""
    from plinto_core.colorimetry.spectra import light_from_text

    return light_from_text(path.read_bytes().decode("utf-8", "replace"), path.name, normalized=False)


@click.command()
@click.argument("strip", type=FILE)
@click.option("--aim", required=True, type=FILE, help="ICC profile of the condition.")
@click.option("--paper", type=float, default=3.0, show_default=True, help="Tolerance of the paper, ΔE00.")
@click.option("--solids", type=float, default=3.5, show_default=True, help="Tolerance of solids, ΔE00.")
@click.option("--mean", type=float, default=2.5, show_default=True, help="Tolerance of the mean, ΔE00.")
@click.option("--worst", type=float, default=6.0, show_default=True, help="Tolerance of any patch, ΔE00.")
@AS_JSON
def drift(strip: Path, aim: Path, paper: float, solids: float, mean: float, worst: float, as_json: bool) -> None:
    """Compare a measured control STRIP with a condition's aims; exit code 1 when it is out of tolerance."""
    from plinto_core.press.model import model_from_profile
    from plinto_core.profiling.drift import Tolerances, measure_drift

    data, _notes = measured(strip)
    found = measure_drift(data, model_from_profile(read_profile(aim)), Tolerances(paper, solids, mean, worst))
    if as_json:
        show(asdict(found), True)
    else:
        click.echo(
            f"{found.patches} patches, ΔE00 {found.mean:.2f} mean, {found.worst:.2f} worst (patch {found.worst_patch})"
        )
        click.echo("within its tolerances" if found.within else "OUT: " + "; ".join(found.broken))
    if not found.within:
        raise SystemExit(1)
