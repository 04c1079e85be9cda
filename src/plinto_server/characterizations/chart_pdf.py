"""A step's chart on paper."""

import tempfile
from pathlib import Path

from plinto_core.deliver.chart_out import write_chart_pdf
from plinto_core.press.from_inks import guessed_model
from plinto_server.characterizations import analysis
from plinto_server.characterizations.models import Characterization


def sheet_pdf(found: Characterization, step: str, *, check: bool = False) -> bytes:
    """PDF pages in the inks that the printer lays down: the step's chart, or a check of what it came to."""
    sheet = analysis.check_chart(found, step) if check else analysis.step_chart(found, step)
    inks = tuple(found.device_inks) if sheet.printed.shape[1] == len(found.device_inks) else sheet.inks
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "sheet.pdf"
        write_chart_pdf(path, sheet.printed, inks, f"{found.name}: {step}", guessed_model(inks))
        return path.read_bytes()
