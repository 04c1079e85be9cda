"""Measure documents: rewriting beside reading and writing, plates beside written inks, set-ups told from paper. Writes its
section of docs/measures.md. Nothing here passes or fails."""

import multiprocessing
import os
import platform
import resource
import statistics
import sys
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import pikepdf

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT), str(ROOT / "src")]

from measures_file import write_section  # noqa: E402
from tests.conftest import profile_of  # noqa: E402

from plinto_core.chain.library import Library  # noqa: E402
from plinto_core.pdf.apply import apply  # noqa: E402
from plinto_core.policy.check_strip import hypotheses, read_strip, strip_of  # noqa: E402
from plinto_core.policy.ready_made import READY_MADE  # noqa: E402
from plinto_core.policy.rule import DeliveryRule  # noqa: E402
from plinto_demo.kept_folder import kept_folder  # noqa: E402

HEADING = "## Documents"
POLICY, RULE = READY_MADE["Everything into the condition"], DeliveryRule()


def vector_job(path: Path, pages: int) -> None:
    """Pages of 300 filled curves each in 400 colors of RGB."""
    random = np.random.default_rng(1)
    colors = random.random((400, 3))
    pdf = pikepdf.Pdf.new()
    for _ in range(pages):
        page = pdf.add_blank_page(page_size=(600, 800))
        parts = []
        for color, (x, y) in zip(random.integers(0, 400, 300), random.random((300, 2)) * [500, 700], strict=True):
            r, g, b = colors[color]
            parts.append(
                f"q {r:.3f} {g:.3f} {b:.3f} rg {x:.2f} {y:.2f} m {x + 50:.2f} {y:.2f} l {x + 60:.2f} {y + 5:.2f} "
                f"{x + 70:.2f} {y + 30:.2f} {x:.2f} {y + 40:.2f} c h f Q"
            )
        page.Contents = pikepdf.Stream(pdf, "\n".join(parts).encode())
    pdf.save(path)


def picture_job(path: Path, pages: int) -> None:
    """A picture of 5.8 MP a page, no two alike, not packed: 17 MB each."""
    random = np.random.default_rng(2)
    pdf = pikepdf.Pdf.new()
    for _ in range(pages):
        page = pdf.add_blank_page(page_size=(600, 600))
        picture = pikepdf.Stream(pdf, random.integers(0, 256, 2400 * 2400 * 3, dtype=np.uint8).tobytes())
        picture.Type, picture.Subtype = pikepdf.Name.XObject, pikepdf.Name.Image
        picture.Width = picture.Height = 2400
        picture.BitsPerComponent, picture.ColorSpace = 8, pikepdf.Name.DeviceRGB
        page.Resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(P=pdf.make_indirect(picture)))
        page.Contents = pikepdf.Stream(pdf, b"q 600 0 0 600 0 0 cm /P Do Q")
    pdf.save(path, compress_streams=False)


def read_and_write(path: Path, out: Path) -> float:
    """Seconds that pikepdf takes to open, parse and unparse every stream, and save."""
    begin = time.perf_counter()
    with pikepdf.open(path) as pdf:
        for page in pdf.pages:
            page.Contents = pikepdf.Stream(pdf, pikepdf.unparse_content_stream(pikepdf.parse_content_stream(page)))
        pdf.save(out)
    return time.perf_counter() - begin


def main() -> None:
    """Measure, print, write."""
    press = Library(kept_folder() / "cache").condition(profile_of("halden-silk-150"))
    rows = []
    with tempfile.TemporaryDirectory() as folder:
        job, out = Path(folder) / "job.pdf", Path(folder) / "out.pdf"
        vector_job(job, 2)
        apply(job, out, POLICY, RULE, press, limit=320)
        vector_job(job, 1000)
        ratios = []
        for _ in range(3):
            plain = read_and_write(job, out)
            begin = time.perf_counter()
            apply(job, out, POLICY, RULE, press, limit=320)
            ratios.append((time.perf_counter() - begin) / plain)
        rows.append(
            ("vector, 1,000 pages of 300 objects: apply, times pikepdf's own time", statistics.median(ratios), 2.5)
        )
        # Made by another process, for its memory is not the job's.
        maker = multiprocessing.get_context("spawn").Process(target=picture_job, args=(job, 60))
        maker.start()
        maker.join()
        begin = time.perf_counter()
        apply(job, out, POLICY, RULE, press, limit=320)
        rows.append((f"pictures, {job.stat().st_size / 1e9:.2f} GB: apply, s", time.perf_counter() - begin, None))
        memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
        rows.append(("largest memory of both, MB", memory, 600))
    right = told = wrong = count = 0
    random = np.random.default_rng(31)
    for slug, other in (("halden-silk-150", "murrow-offset-120"), ("cotton-54t", "tern-news-45")):
        profile, others = profile_of(slug), (profile_of(other),)
        strip = strip_of(profile, others)
        made = {each.name: each.lab for each in hypotheses(profile, others, strip)}
        made["mirrored"] = made["once"][::-1]
        for _ in range(100):
            name = list(made)[int(random.integers(0, len(made)))]
            lab = made[name] * (1 + random.normal(0, 0.004, 3)) + random.normal(0, 0.5, 3)
            found = read_strip(profile, others, strip, lab + random.normal(0, 0.45, lab.shape))
            count += 1
            right += found.ranked[0].name == name
            told += found.cause == name
            wrong += found.cause not in ("", name)
    rows.append((f"wrong set-ups of {count} whose cause is ranked first, %", 100 * right / count, 95))
    rows.append(("of them named with certainty, %", 100 * told / count, None))
    rows.append(("named with certainty and wrong", float(wrong), 0))
    load = os.getloadavg()[0]
    head = (
        f"{datetime.now(UTC):%Y-%m-%d %H:%M} UTC, {os.cpu_count()} cores ({platform.machine()}), load {load:.1f}, "
        f"pikepdf {pikepdf.__version__}, by `scripts/bench_pdf.py`. Tickets: noise 0.45 a coordinate, the press off "
        "by 0.5 and 0.4 %."
    )
    lines = [f"| {what} | {value:.2f} | {'' if aim is None else aim} |" for what, value, aim in rows]
    section = [head, "", "| what | figure | aim |", "|---|---|---|", *lines]
    print("\n".join(section))
    write_section(HEADING, section)


if __name__ == "__main__":
    main()
