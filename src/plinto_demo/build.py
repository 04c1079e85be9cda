"""The shop's profiles, made by Plinto's own commands from what the simulated press and instrument give."""

import contextlib
import io
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

from plinto_core.cli import plinto
from plinto_core.cli.settings import read_json
from plinto_core.icc.profile import Profile, parse
from plinto_core.inks.names import letters_of
from plinto_core.measurement.cgats import read_chart
from plinto_core.press.calibration import Calibration, calibration_from_json
from plinto_demo.artwork import PAINTINGS
from plinto_demo.kept_folder import kept_folder
from plinto_demo.light_table import PANELS, LightTable
from plinto_demo.shop import CONDITIONS, ShopCondition, measure, measure_ramps


@dataclass(frozen=True)
class Built:
    """Files of a condition: measured data as the profile was built from, and the profile."""

    data: Path
    profile: Path
    report: Path

    def read(self) -> Profile:
        """The profile."""
        return parse(self.profile.read_bytes())


def kept(shop: ShopCondition) -> Built:
    """As `build`, made once in `kept_folder` and found again there."""
    folder = kept_folder()
    found = _names(shop, folder)
    return found if found.report.exists() else build(shop, folder)


#: The demo is the same on every machine, so its profiles carry one date.
_BUILT = "2026-01-01"


def _names(shop: ShopCondition, folder: Path) -> Built:
    stem = folder / shop.slug
    return Built(
        Path(f"{stem} {'on panel' if shop.table else 'measured'}.txt"), Path(f"{stem}.icc"), Path(f"{stem}.json")
    )


def build(shop: ShopCondition, folder: Path) -> Built:
    """Chart, print, measure, and build; each step by the command a person would use. Files stay in `folder`."""
    folder.mkdir(parents=True, exist_ok=True)
    stem = folder / shop.slug
    calibration = _calibrate(shop, stem) if shop.has_light_inks else None
    chart = Path(f"{stem} chart.txt")
    letters = "".join(letters_of([ink.name for ink in shop.inks]))
    _run("chart", "--inks", letters, "--patches", shop.patches, "--out", chart)
    data = Path(f"{stem} measured.txt")
    asked, _inks = read_chart(chart.read_bytes(), chart.name)
    data.write_text(measure(shop, asked, calibration).to_cgats())
    if shop.table:
        data = _for_panel(shop.table, stem, data)
    made = _names(shop, folder)
    options = ["--calibration", f"{stem} calibration.json"] if calibration else []
    black = [] if len(shop.inks) == 1 else [
        "--black-amount", shop.black_amount_percent, "--black-start", shop.black_start_percent,
        "--black-max", shop.black_max_percent,
    ]  # fmt: skip
    _run(
        "profile", "build", data, "--out", made.profile, "--name", shop.name, "--total-ink", shop.total_ink_percent,
        "--report", made.report, "--date", _BUILT, *black, *options, *shop.build,
    )  # fmt: skip
    return made


def _calibrate(shop: ShopCondition, stem: Path) -> Calibration:
    """Light into dark inks from the ramps of each, then even steps from ramps printed through that."""
    ramps, first, check, out = (
        Path(f"{stem} {name}") for name in ("ramps.txt", "crossing.json", "check.txt", "calibration.json")
    )
    ramps.write_text(measure_ramps(shop).to_cgats())
    _run("calibrate", ramps, "--out", first)
    check.write_text(measure_ramps(shop, calibration=_read(first)).to_cgats())
    _run("calibrate", check, "--behind", first, "--out", out)
    return _read(out)


def _read(path: Path) -> Calibration:
    return calibration_from_json(read_json(path, "a calibration"))


def _for_panel(table: LightTable, stem: Path, chart: Path) -> Path:
    panel, on, off = (Path(f"{stem} {name}.csv") for name in ("panel", "table on", "table off"))
    for path, light in ((panel, PANELS[table.panel]), (on, table.on()), (off, table.off())):
        path.write_text("".join(f"{380 + 10 * i} {value:.6g}\n" for i, value in enumerate(light)))
    data = Path(f"{stem} on panel.txt")
    _run(
        "backlit", chart, "--table-on", on, "--table-off", off, "--panel", panel,
        "--ambient-share", table.ambient_share * 100, "--out", data,
    )  # fmt: skip
    return data


def _run(*arguments: object) -> None:
    # What a command says is for who types it.
    with contextlib.redirect_stdout(io.StringIO()), contextlib.redirect_stderr(io.StringIO()):
        plinto([str(argument) for argument in arguments], standalone_mode=False)


if __name__ == "__main__":
    # Ahead of the tests, so that those that run beside each other find it. A profile leaves half a core for the painting.
    with ThreadPoolExecutor(1) as painter:
        painted = [painter.submit(painting.paint) for painting in PAINTINGS]
        for each in CONDITIONS:
            print(kept(each).profile.name)
        for picture in painted:
            picture.result()
