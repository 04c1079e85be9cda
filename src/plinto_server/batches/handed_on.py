"""What a batch came to, for others: its files as one archive, and a page to print."""

import json
import tempfile
import zipfile
from html import escape
from typing import IO

from plinto_core.files import safe_name
from plinto_core.printed_page import printed_page
from plinto_server.batches import service
from plinto_server.batches.models import Batch, Item
from plinto_server.errors import ConflictError
from plinto_server.files import store
from plinto_server.jobs.models import Run

#: An archive up to this size is made in memory, beyond on disk; it is gone when it was sent.
_IN_MEMORY = 32 << 20


def archive_name(batch: Batch) -> str:
    """What the archive is called."""
    return f"{safe_name(batch.name, 'batch')}.zip"


def archive(batch: Batch) -> IO[bytes]:
    """Finished files, each with its run sheet beside it, open at the start. Raises `ConflictError` where there is none.

    Files of one name (made again under another number) get the number of their run.
    """
    done = service.items(batch, Run.State.DONE).iterator(chunk_size=200)
    file: IO[bytes] = tempfile.SpooledTemporaryFile(_IN_MEMORY)  # noqa: SIM115 - whoever sends it closes it
    taken: set[str] = set()
    # Separations are packed already.
    with zipfile.ZipFile(file, "w", zipfile.ZIP_STORED, allowZip64=True) as packed:
        for item in done:
            run = item.run
            if run is None or not store.is_here(run.result_sha256):
                continue
            stem, _, ending = run.file_name.rpartition(".")
            stem = stem if stem.casefold() not in taken else f"{stem} {run.id}"
            taken.add(stem.casefold())
            packed.write(store.path_of(run.result_sha256), f"{stem}.{ending}")
            sheet = json.dumps(run.run_sheet, indent=2, ensure_ascii=False)
            packed.writestr(f"{stem} run sheet.json", sheet, zipfile.ZIP_DEFLATED)
    if not taken:
        file.close()
        raise ConflictError(f"Nothing of '{batch.name}' is finished yet; there is nothing to hand on.")
    file.seek(0)
    return file


def page(batch: Batch) -> str:
    """The whole batch as a page that prints: what failed first, then every file with its state and largest coverage."""
    counts = service.counts([batch])[batch.id]
    found = list(service.items(batch))
    found.sort(key=lambda item: (service.state_of(item) not in ("failed", "refused"), item.number))
    summary = ", ".join(f"{count:,} {state}" for state, count in sorted(counts.items()))
    by = batch.asked_by.get_username() if batch.asked_by else "nobody who is still here"
    rows = "".join(map(_row, found))
    return printed_page(
        batch.name,
        f"<p>Batch of {counts.total():,} files, asked for by {escape(by)} on {batch.asked_at:%Y-%m-%d %H:%M} UTC: "
        f"{escape(summary)}.</p><table><thead><tr><th>File</th><th>Of</th><th>For</th><th>State</th>"
        f"<th>Coverage, most</th><th>Said</th></tr></thead><tbody>{rows}</tbody></table>",
    )


def _row(item: Item) -> str:
    run = item.run
    largest = (run.run_sheet or {}).get("largest_coverage_percent") if run else None
    cells = [
        run.file_name if run else item.file_name, item.of_name, item.for_name, service.state_of(item),
        f"{largest:.0f} %" if isinstance(largest, int | float) else "", (run.message if run else "") or item.said,
    ]  # fmt: skip
    return "<tr>" + "".join(f"<td>{escape(cell)}</td>" for cell in cells) + "</tr>"
