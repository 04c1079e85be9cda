"""Opening a document: what cannot be read in full is refused, with the reason."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pikepdf

from plinto_core.errors import DocumentError
from plinto_core.pdf.reading import cause

MOST_BYTES, MOST_PAGES = 4 << 30, 20_000


@contextmanager
def opened(path: Path, name: str = "", password: str = "") -> Iterator[pikepdf.Pdf]:
    """The document, open as long as the context. Raises `DocumentError`; those that come up in the context get the
    document's name, and the way out, where they have none."""
    name = name or path.name
    if path.stat().st_size > MOST_BYTES:
        raise DocumentError(
            f"'{name}' has {path.stat().st_size >> 20} MB; a document has at most {MOST_BYTES >> 20}."
        )
    try:
        with pikepdf.open(path, password=password) as pdf:
            if len(pdf.pages) > MOST_PAGES:
                raise DocumentError(f"'{name}' has {len(pdf.pages)} pages; a document has at most {MOST_PAGES}.")
            try:
                yield pdf
            except DocumentError as error:
                raise _named(error, name) from error
    except pikepdf.PasswordError as error:
        raise DocumentError(f"'{name}' is locked with a password. Give the password, or have it unlocked.") from error
    except (pikepdf.PdfError, RecursionError) as error:
        raise DocumentError(
            f"'{name}' is damaged and cannot be read in full ({cause(error)}). Export it again."
        ) from error


def _named(error: DocumentError, name: str) -> DocumentError:
    said = str(error)
    if f"'{name}'" in said:
        return error
    return DocumentError(f"'{name}': {said.rstrip('.')}. Export it again.")
