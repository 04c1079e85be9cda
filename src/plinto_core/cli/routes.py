"""Commands of color lists and routes: colors, route, roundtrip, abstract."""

import json
import math
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from plinto_core.cli.measuring import AS_JSON, measured
from plinto_core.cli.settings import FILE, OUT, TABLE, read_json, read_profile, rounded, show, write_bytes, write_text
from plinto_core.errors import PipelineError, RecipeError
from plinto_core.files import write_whole

if TYPE_CHECKING:
    from collections.abc import Callable

    from plinto_core.icc.profile import Profile
    from plinto_core.recipe import Recipe
    from plinto_core.route.color_list import ColorList
    from plinto_core.route.route import Waypoint
    from plinto_core.route.separated import OwnSeparation
    from plinto_core.route.station import Station
    from plinto_core.route.written import TableForm, WrittenRoute


#: What a judged proof tells of by row.
_LISTED = ("requirements", "worst")

INK = click.option(
    "--ink-of",
    type=FILE,
    help="Recipe (JSON) whose Ink station sets the inks of steps with +own. Default: as rebuilt.",
)


def table_form(icc: str, bits: str, points: int) -> "TableForm":
    """What those options ask for."""
    from plinto_core.route.written import TableForm

    return TableForm(2 if icc == "2" else 4, 8 if bits == "8" else 16, points)


def own_by(recipe: "Recipe") -> "Callable[[Profile], OwnSeparation]":
    """What '+own' behind a profile makes of it: its own separation, with a recipe's inks."""
    from plinto_core.cli.settings import library
    from plinto_core.route.separated import OwnSeparation

    return lambda profile: OwnSeparation(library().condition(profile), recipe.ink)


def recipe_in(path: Path | None) -> "Recipe":
    """The recipe of a file, or the usual one."""
    from plinto_core.recipe import Recipe, recipe_from_json

    return recipe_from_json(read_json(path, "a run sheet's 'recipe' part")) if path else Recipe()


def waypoints_of(text: str, recipe: "Recipe | None" = None) -> "tuple[Waypoint, ...]":
    """'A.icc:relative,B.icc:absolute+bpc,C.icc:relative+own' as profiles with their intents.

    An RGB space may stand for a file. A recipe (X.json) between them adjusts the numbers of the profile before it.
    `recipe` sets the inks of steps with +own.
    """
    from plinto_core.icc.standard import RGB_SPACES, rgb_profile
    from plinto_core.route.route import adjusted, waypoint_of

    own = own_by(recipe or recipe_in(None))

    found: list[Waypoint] = []
    for part in filter(None, (each.strip() for each in text.split(","))):
        name, colon, how = part.rpartition(":")
        if not colon or Path(part).is_file():
            name, how = part, ""
        profile = rgb_profile(name) if name in RGB_SPACES else None
        if profile is None:
            if not Path(name).is_file():
                raise PipelineError(f"--through: there is no file '{name}', and no RGB space of this name.")
            if name.lower().endswith(".json"):
                adjust = recipe_in(Path(name)).adjust
                if adjust.regions:
                    raise PipelineError(
                        f"'{name}' has regions, and colors of a list lie nowhere: take them out of it."
                    )
                found.append(adjusted(found[-1] if found else None, adjust.base, Path(name).stem))
                continue
            profile = read_profile(Path(name))
        found.append(waypoint_of(how, profile, own))
    return tuple(found)


@click.command()
@click.argument("file", metavar="LIST", type=FILE)
@click.option(
    "--through", required=True, help="Profiles in their order: A.icc:relative,recipe.json,B.icc:absolute+bpc,…"
)
@AS_JSON
@click.option("--csv", "as_csv", is_flag=True, help="Every color a line, every step's values and Lab side by side.")
@click.option("--cgats", "as_cgats", is_flag=True, help="The last step's values and Lab, as CGATS.")
@click.option(
    "--under",
    type=click.Choice(["D50", "D55", "D65", "A", "F2", "F11"]),
    default="D50",
    help="Light for ΔE00 between steps. Default: D50.",
)
@INK
def route(
    file: Path, through: str, as_json: bool, as_csv: bool, as_cgats: bool, under: str, ink_of: Path | None
) -> None:  # fmt: skip
    """Send LIST (CGATS, a table with a header, lines of 'name L a b' or 'name #rrggbb') through profiles.

    Values, Lab and LCh after every step; ΔE00 between any two steps. Device values begin with the profile that they were
    made for. A recipe (.json) between two profiles adjusts the numbers of the one before it. With +own behind its
    intent, a condition's inks are separated by Plinto instead of the profile's tables.
    Under another light than D50, ΔE00 is told between steps whose spectra are known: how far matches fall apart there.
    """
    from plinto_core.route.color_list import ColorList, read_list
    from plinto_core.route.list_out import written_list
    from plinto_core.route.route import told, travel

    colors = read_list(file.read_bytes(), file.name)
    stations = travel(colors, waypoints_of(through, recipe_in(ink_of)))
    if as_json:
        click.echo(json.dumps(told(colors, stations, under), indent=1, ensure_ascii=False))
    elif as_csv:
        _csv(colors, stations)
    elif as_cgats:
        last = stations[-1]
        listed = ColorList(colors.names, last.channels, last.values)
        click.echo(written_list(listed, last.lab, "cgats", file.stem), nl=False)
    else:
        for station in stations:
            click.echo(f"{station.name}: {', '.join(station.channels)}")
        for row, name in enumerate(colors.names[:40]):
            click.echo(f"  {name}: {'  →  '.join(_said(station, row) for station in stations)}")
        if len(colors.names) > 40:
            click.echo(f"  … {len(colors.names) - 40:,} more; --csv and --json have all of them")
        _between(colors, stations, under)


def _said(station: "Station", row: int) -> str:
    """A color at a step: its values, R, G, B to 255 and all else in percent, and its Lab where that is known."""
    lab = " ".join(f"{value:.1f}" for value in station.lab[row])
    if station.channels == ("L*", "a*", "b*"):
        return lab
    scale = 255 if station.channels == ("R", "G", "B") else 100
    values = zip(station.channels, station.values[row] * scale, strict=True)
    device = " ".join(f"{channel} {value:.1f}" for channel, value in values)
    return device if any(math.isnan(value) for value in station.lab[row]) else f"{device} ({lab})"


def _between(colors: "ColorList", stations: "tuple[Station, ...]", light: str) -> None:
    from plinto_core.route.route import apart

    where = "" if light == "D50" else f" under {light}"
    for each in apart(stations, light):
        click.echo(
            f"{each.first} to {each.second}{where}: ΔE00 mean {each.mean:.2f}, 95 % {each.p95:.2f}, 99 % {each.p99:.2f}, "
            f"largest {each.largest:.2f} at {colors.names[each.worst]}"
        )


def _csv(colors: "ColorList", stations: "tuple[Station, ...]") -> None:
    import csv
    import sys

    heads = ["name"]
    for at, station in enumerate(stations):
        heads += [f"{at} {channel}" for channel in station.channels]
        heads += [f"{at} {part}" for part in ("L*", "a*", "b*", "C*", "h")]
    out = csv.writer(sys.stdout, lineterminator="\n")
    out.writerow(heads)
    tables = [(station.values, station.lab, station.lch) for station in stations]
    for row, name in enumerate(colors.names):
        line: list[Any] = [name]
        for values, lab, lch in tables:
            told = [*rounded(values[row], 5), *rounded(lab[row], 3), *rounded(lch[row, 1:], 3)]
            # Behind a device link nobody says what the numbers mean.
            line += ["" if math.isnan(value) else value for value in told]
        out.writerow(line)


@click.command()
@click.option("--through", required=True, help="Profiles in their order, beginning with what Lab goes into.")
@click.option("--out", required=True, type=OUT, help="ICC abstract profile to write.")
@click.option("--points", type=click.IntRange(2, 100), help="Points a side. Default: as fits the table.")
@TABLE
@INK
def abstract(through: str, out: Path, points: int | None, icc: str, bits: str, ink_of: Path | None) -> None:
    """Write what a route makes of Lab as an ICC abstract profile: a press's look for software with three channels."""
    from plinto_core.route.written import route_look

    write_route(out, route_look(waypoints_of(through, recipe_in(ink_of)), form=table_form(icc, bits, points or 0)))


def write_route(out: Path, made: "WrittenRoute") -> None:
    """Write a route's profile, and say how near it comes to the route."""
    write_whole(out, lambda part: write_bytes(part, made.profile.raw))
    click.echo(
        f"{out}: {made.profile.name}, {made.points} points a channel; against the route ΔE00 mean {made.mean:.2f}, "
        f"99 % {made.p99:.2f}, largest {made.largest:.2f}"
    )


@click.command()
@click.argument("press", type=FILE)
@click.option("--through", type=FILE, help="ICC output profile of the proofing printer.")
@click.option(
    "--measured", "measured_file", type=FILE, help="A proof that was printed and measured instead (CGATS, CxF)."
)
@click.option("--list", "list_file", type=FILE, help="Press values to look at. Default: a grid.")
@click.option("--spots", type=FILE, help="Colors of spot inks that the proof has to show (CGATS, CxF, ICC …).")
@click.option("--grid", type=click.IntRange(2, 30), default=9, help="Steps a channel of the grid. Default: 9.")
@click.option(
    "--tolerances", type=FILE, help="What may be off (JSON). Default: as ISO 12647-7:2016, clause 4, has it."
)
@click.option("--report", type=OUT, help="Page of HTML to write, to be printed.")
@AS_JSON
def roundtrip(
    press: Path, through: Path | None, measured_file: Path | None, list_file: Path | None,
    spots: Path | None, grid: int, tolerances: Path | None, report: Path | None, as_json: bool,
) -> None:  # fmt: skip
    """Judge a proofing system: the colors of PRESS, ICC-absolute, against their proof; exit code 1 out of tolerance."""
    from datetime import UTC, datetime

    from plinto_core.plain import read_plain
    from plinto_core.route.color_list import read_list
    from plinto_core.route.proof_report import proof_html, proof_plain
    from plinto_core.route.proofing import ProofTolerances, judged, judged_by_measurement, proofed_colors

    if (through is None) == (measured_file is None):
        raise PipelineError("A proof is told of by --through PROFILE or by --measured FILE: give one of them.")
    if measured_file is not None and (list_file is not None or spots is not None):
        raise PipelineError("A measured proof says itself which colors it has: leave out --list and --spots.")
    given = read_json(tolerances, "an object of tolerances") if tolerances else {}
    allowed = read_plain(ProofTolerances, given, "The tolerances", RecipeError)
    profile = read_profile(press)
    if measured_file is not None:
        found = judged_by_measurement(profile, measured(measured_file)[0], allowed)
    elif through is not None:
        colors = read_list(list_file.read_bytes(), list_file.name) if list_file else proofed_colors(profile, grid)
        inks = read_list(spots.read_bytes(), spots.name) if spots else None
        found = judged(profile, read_profile(through), colors, allowed, inks)
    if report:
        text = proof_html(found, f"{datetime.now(UTC):%Y-%m-%d}")
        write_whole(report, lambda part: write_text(part, text))
    plain = proof_plain(found)
    show(plain if as_json else {key: value for key, value in plain.items() if key not in _LISTED}, as_json)
    if not as_json:
        for each in plain["requirements"]:
            figure = "    " if each["figure"] is None else f"{each['figure']:.2f}"
            held = {True: "held", False: "BROKEN", None: "cannot be told"}[each["held"]]
            click.echo(f"{each['what']:<32} {figure:>6} {each['unit']:<6} {each['allowed']:g} allowed  {held}")
    if found.held is False:
        raise SystemExit(1)


@click.group()
def colors() -> None:
    """Color lists: sampled from artwork, and from one format to another."""


def _written(out: Path, listed: "ColorList", lab: Any) -> None:
    from plinto_core.route.list_out import written_list

    kind = {".txt": "cgats", ".cgats": "cgats", ".csv": "csv", ".cxf": "cxf", ".icc": "icc"}.get(out.suffix.lower())
    if kind is None:
        raise PipelineError(f"--out: '{out.name}' ends in none of .txt, .csv, .cxf and .icc, which tell the format.")
    data = written_list(listed, lab, kind, out.stem)
    write_whole(out, lambda part: write_bytes(part, data))
    click.echo(f"{out}: {len(listed.names):,} colors, {', '.join(listed.channels)}")


def _numbers_of(text: str, count: int, separator: str, option: str) -> list[int]:
    try:
        found = [int(part) for part in text.split(separator)]
    except ValueError:
        found = []
    if len(found) != count:
        raise PipelineError(f"{option}: '{text}' is not {count} whole numbers with '{separator}' between them.")
    return found


@colors.command()
@click.argument("src", type=FILE)
@click.option("--rect", required=True, help="Left, top, width and height in pixels: 100,80,400,300.")
@click.option("--grid", "fields", default="8x6", show_default=True, help="Fields across and down.")
@click.option(
    "--out", required=True, type=OUT, help="List to write: .txt (CGATS), .csv, .cxf or .icc (named colors)."
)
def sample(src: Path, rect: str, fields: str, out: Path) -> None:
    """Write the means of a grid over a rectangle of SRC as a list, with the Lab that its profile gives them."""
    from plinto_core.icc import cmm
    from plinto_core.raster.opened import open_artwork
    from plinto_core.route.sampled import sampled

    left, top, width, height = _numbers_of(rect, 4, ",", "--rect")
    across, down = _numbers_of(fields, 2, "x", "--grid")
    artwork = open_artwork(src)
    listed, _middles = sampled(artwork, (left, top, width, height), across, down)
    lab = cmm.to_lab(artwork.profile, listed.values) if artwork.profile else None
    _written(out, listed, lab)


@colors.command()
@click.argument("file", metavar="LIST", type=FILE)
@click.option(
    "--profile", "profile", default="", help="What device values mean: an ICC profile, or an RGB space's name."
)
@click.option(
    "--out", required=True, type=OUT, help="List to write: .txt (CGATS), .csv, .cxf or .icc (named colors)."
)
def convert(file: Path, profile: str, out: Path) -> None:
    """Write LIST in another format: CGATS, a table, CxF, ICC named colors, or typed lines in."""
    from plinto_core.route.color_list import read_list
    from plinto_core.route.route import travel

    listed = read_list(file.read_bytes(), file.name)
    lab = None if listed.is_lab or not profile else travel(listed, waypoints_of(profile))[0].lab
    _written(out, listed, lab)
