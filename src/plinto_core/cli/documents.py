"""Commands of documents: pdf inspect, apply, proof, plates, compare."""

import json
from pathlib import Path
from typing import Any

import click

from plinto_core.cli.measuring import AS_JSON
from plinto_core.cli.settings import FILE, OUT, library, read_profile, write_text
from plinto_core.errors import PolicyError
from plinto_core.files import write_whole


@click.group()
def pdf() -> None:
    """Inspect PDF documents, and send them through a policy."""


@pdf.command(name="inspect")
@click.argument("file", type=FILE)
@click.option("--password", default="", help="For a locked document.")
@AS_JSON
def inspect(file: Path, password: str, as_json: bool) -> None:
    """Spaces, profiles, pictures, spots, text colors, overprint, transparency, boxes and output intents of FILE."""
    from plinto_core.pdf.inspect import inspect_document

    found = inspect_document(file, password)
    if as_json:
        click.echo(json.dumps(found, indent=2, ensure_ascii=False))
        return
    for key, value in found.items():
        if key == "PDF/X":
            for standard, told in value.items():
                click.echo(f"against {standard}:" if told["against"] else f"nothing found against {standard}")
                for each in told["against"]:
                    click.echo(f"  {each['asks']} ({each['clause']}): {each['said']}")
                click.echo(f"  not looked at: {'; '.join(told['not looked at'])}")
        elif isinstance(value, list | dict) and value:
            click.echo(f"{key}:")
            entries = value.items() if isinstance(value, dict) else enumerate(value, 1)
            for name, told in entries:
                click.echo(f"  {name}: {_words(told)}")
        else:
            click.echo(f"{key}: {_words(value) or 'none'}")


POLICY = click.option(
    "--policy", "policy_file", required=True, type=FILE, help="Policy (JSON); `plinto policy ready` writes one."
)
PROFILE = click.option(
    "--profile", type=FILE, help="ICC output profile of the condition that the policy converts into."
)
LIMIT = click.option("--total-ink", type=click.FloatRange(50, 800), help="Most ink on one spot, % (TAC).")
PASSWORD = click.option("--password", default="", help="For a locked document.")
PPI = click.option("--ppi", type=click.FloatRange(9, 2400), default=150.0, help="Default: 150.")
PAGE = click.option("--page", type=click.IntRange(1), default=1, help="Default: the first.")


def _press(profile: Path | None) -> Any:
    return library().condition(read_profile(profile)) if profile else None


def _rule(path: Path | None) -> Any:
    from plinto_core.policy.rule import read_rule

    return read_rule(path)


@pdf.command()
@click.argument("file", type=FILE)
@POLICY
@PROFILE
@LIMIT
@click.option("--rule", type=FILE, help="Delivery rule (JSON).")
@click.option("--out", required=True, type=click.Path(path_type=Path), help="PDF to write.")
@click.option("--report", "report_file", type=click.Path(path_type=Path), help="Every decision: .html or .json.")
@PASSWORD
def apply(
    file: Path, policy_file: Path, profile: Path | None, total_ink: float | None, rule: Path | None, out: Path,
    report_file: Path | None, password: str,
) -> None:  # fmt: skip
    """Send FILE through a policy. A document in which anything is refused is not written, and the command ends with 3."""
    from plinto_core.pdf.apply import apply as apply_policy
    from plinto_core.pdf.draw import draw
    from plinto_core.pdf.report import as_page, report, thumbnails_of
    from plinto_core.policy.conversion import destination_of
    from plinto_core.policy.files import read_policy

    if out.exists() and out.samefile(file):
        raise PolicyError(f"--out {out.name} is the document itself, and originals are never changed.")
    policy, profiles = read_policy(policy_file)
    press = _press(profile)
    with click.progressbar(length=1000, label=file.name) as bar:
        done = apply_policy(
            file, out, policy, _rule(rule), press, limit=total_ink, profiles=profiles, password=password,
            boxes=report_file is not None, progress=lambda share: bar.update(max(0, int(1000 * share) - bar.pos)),
        )  # fmt: skip
    told = report(done, policy, destination_of(policy.into, press, total_ink).letters)
    if report_file is not None:
        text = json.dumps(told, indent=2)
        if report_file.suffix.lower() in (".html", ".htm"):
            text = as_page(told, thumbnails_of(told["records"], lambda page, ppi: draw(file, page, ppi)))
        write_whole(report_file, lambda part: write_text(part, text))
    for line in (*done.refusals[:50], *done.notes[:50]):
        click.echo(line)
    counts = ", ".join(f"{count} {word}" for word, count in sorted(done.counts.items()))
    if done.refused:
        click.echo(f"Refused, nothing was written. {counts}")
        raise click.exceptions.Exit(3)
    click.echo(f"{out}: {done.pages} pages, {counts}, {done.bytes_before:,} → {done.bytes_after:,} bytes")


@pdf.command()
@click.argument("file", type=FILE)
@click.option(
    "--policy", "policy_file", type=FILE, help="How it prints after this policy. Default: with its own inks."
)
@PROFILE
@LIMIT
@PAGE
@PPI
@click.option("--out", required=True, type=OUT, help="PNG to write.")
@click.option("--substrate", is_flag=True, help="Show the color of the stock.")
@click.option("--display", type=FILE, help="RGB profile of the display. Default: sRGB.")
@PASSWORD
def proof(
    file: Path, policy_file: Path | None, profile: Path | None, total_ink: float | None, page: int, ppi: float,
    out: Path, substrate: bool, display: Path | None, password: str,
) -> None:  # fmt: skip
    """Draw a page of FILE as it prints."""
    from PIL import Image

    from plinto_core.cli.settings import read_rgb_profile
    from plinto_core.icc.standard import rgb_profile
    from plinto_core.pdf.proof import ProofView, proof_page
    from plinto_core.policy.files import read_policy

    shown = read_rgb_profile(display, "--display") if display else rgb_profile("sRGB")
    policy, profiles = read_policy(policy_file) if policy_file else (None, {})
    pixels, done = proof_page(
        file, page - 1, ppi, policy, _press(profile), limit=total_ink, profiles=profiles, password=password,
        view=ProofView(shown, substrate),
    )  # fmt: skip
    image = Image.fromarray(pixels)
    write_whole(out, lambda part: image.save(part, "PNG", dpi=(ppi, ppi), icc_profile=shown.raw))
    for line in done.refusals if done else ():
        click.echo(f"Would be refused: {line}")


@pdf.command()
@click.argument("file", type=FILE)
@click.option(
    "--policy", "policy_file", type=FILE, help="Plates after this policy. Default: of the document's own inks."
)
@PROFILE
@LIMIT
@PAGE
@PPI
@click.option("--out", required=True, type=click.Path(path_type=Path), help="Folder for a gray TIFF an ink.")
@AS_JSON
@PASSWORD
def plates(
    file: Path, policy_file: Path | None, profile: Path | None, total_ink: float | None, page: int, ppi: float,
    out: Path, as_json: bool, password: str,
) -> None:  # fmt: skip
    """Write the plates of a page of FILE, spots included, and say how much ink each takes."""
    import tifffile

    from plinto_core.cli.settings import show
    from plinto_core.files import safe_name
    from plinto_core.pdf.plates import bands, plates_of_page
    from plinto_core.policy.files import read_policy

    policy, profiles = read_policy(policy_file) if policy_file else (None, {})
    found = plates_of_page(
        file, page - 1, ppi, policy, _press(profile), limit=total_ink, profiles=profiles, password=password
    )
    out.mkdir(parents=True, exist_ok=True)
    for at, (ink, plane) in enumerate(bands(found)):

        def write(part: Path, plane: Any = plane, ink: str = ink) -> None:
            tifffile.imwrite(
                part, plane, photometric="miniswhite", compression="lzw", resolution=(ppi, ppi), resolutionunit=2,
                description=ink,
            )  # fmt: skip

        write_whole(out / f"{at + 1} {safe_name(ink, 'ink')}.tif", write)
    largest, (column, row) = found.largest_total_percent
    told: dict[str, Any] = {
        "mean %": found.mean_percent, "largest total %": round(largest, 1),
        "at": f"{column * 25.4 / ppi:.1f} mm from the left, {row * 25.4 / ppi:.1f} mm from the top",
    }  # fmt: skip
    if found.guessed:
        told["no inks, converted"] = list(found.guessed)
    show(told, as_json)


@pdf.command()
@click.argument("file", type=FILE)
@click.option("--policy", "policy_files", required=True, type=FILE, multiple=True, help="Give two of them.")
@PROFILE
@LIMIT
@click.option("--rule", type=FILE, help="Delivery rule (JSON).")
@AS_JSON
@PASSWORD
def compare(
    file: Path, policy_files: tuple[Path, ...], profile: Path | None, total_ink: float | None, rule: Path | None,
    as_json: bool, password: str,
) -> None:  # fmt: skip
    """Say object by object what two policies make of FILE: decisions, ΔE00 between the prints."""
    from plinto_core.pdf.compare import compare_sides
    from plinto_core.pdf.side import Side
    from plinto_core.policy.files import read_policy

    if len(policy_files) != 2:
        raise PolicyError("Two policies are compared: give --policy twice.")
    press, delivered = _press(profile), _rule(rule)
    one, other = (
        Side(policy, delivered, press, total_ink, profiles)
        for policy, profiles in (read_policy(path) for path in policy_files)
    )
    told = compare_sides(file, one, other, password)
    if as_json:
        click.echo(json.dumps(told, indent=2, ensure_ascii=False))
        return
    for each in told["differing"]:
        click.echo(
            f"page {each['page']}, {each['object']}, {each['found']}: {each['first']} / {each['second']}, "
            f"ΔE00 {'–' if each['delta_e'] is None else each['delta_e']}"
        )
    for name, drift in zip(told["policies"], told["drift"], strict=True):
        if drift is not None:
            click.echo(f"{name}: pictures that should match are up to ΔE00 {drift:.1f} apart")
    click.echo(f"{told['same']} alike, {len(told['differing'])} differ")


def _words(told: Any) -> str:
    if isinstance(told, dict):
        return ", ".join(f"{key} {_words(value)}" for key, value in told.items())
    if isinstance(told, list):
        return " ".join(_words(each) for each in told)
    return f"{told:g}" if isinstance(told, float) else "no" if told is False else "yes" if told is True else str(told)
