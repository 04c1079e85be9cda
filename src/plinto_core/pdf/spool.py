"""Pictures on their way into a document: packed beside the work on the next one, and kept on disk until it is saved.

A document of a thousand pictures so takes no more memory than two of them.
"""

import io
import json
import tempfile
from collections import deque
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import imagecodecs
import numpy as np
from numpy.typing import NDArray
from pikepdf import Name, Pdf, Stream

#: Smaller streams stay in memory: a file each would cost more.
_WORTH_A_FILE = 1 << 16
#: Pictures that wait for being packed; whoever brings one more waits with them.
_MOST_WAITING = 2
_LEVEL = 4


def deflated(codes: NDArray[np.uint8]) -> bytes:
    """Codes in their order as a zlib stream (RFC 1950)."""
    return bytes(imagecodecs.deflate_encode(np.ascontiguousarray(codes).tobytes(), level=_LEVEL, raw=False))


class Spool:
    """Makes streams of a document. Those with a folder are files in it until the document is saved."""

    def __init__(self, pdf: Pdf, folder: Path | None = None) -> None:
        self._pdf, self._folder = pdf, folder
        self._count = 0
        self._packers = ThreadPoolExecutor(1) if folder is not None else None
        self._waiting: deque[Future[None]] = deque()

    def packed(self, codes: NDArray[np.uint8]) -> Any:
        """Codes as a stream by `FlateDecode`, an object of its own. Its data are there after `finish`."""
        if self._folder is None or self._packers is None or codes.nbytes < _WORTH_A_FILE:
            made = self._pdf.make_indirect(Stream(self._pdf, deflated(codes)))
        else:
            path = self._next()
            while len(self._waiting) >= _MOST_WAITING:
                self._waiting.popleft().result()
            self._waiting.append(self._packers.submit(_pack, codes, path))
            made = self._from_file(path)
        made["/Filter"] = Name.FlateDecode
        return made

    def stream(self, data: bytes) -> Any:
        """Data as they are, an object of its own."""
        if self._folder is None or len(data) < _WORTH_A_FILE:
            return self._pdf.make_indirect(Stream(self._pdf, data))
        path = self._next()
        path.write_bytes(data)
        return self._from_file(path)

    def finish(self) -> None:
        """Wait until everything is packed. Raises `OSError` where the disk had no room."""
        while self._waiting:
            self._waiting.popleft().result()

    def close(self) -> None:
        """Let go of what is not needed any more, whether it was packed or not."""
        if self._packers is not None:
            self._packers.shutdown(wait=True, cancel_futures=True)

    def _next(self) -> Path:
        assert self._folder is not None
        self._count += 1
        return self._folder / f"{self._count}"

    def _from_file(self, path: Path) -> Any:
        """A stream whose data are read from a file when they are asked for: pikepdf has them in memory in any other way."""
        made = self._pdf.make_indirect(Stream(self._pdf, b""))
        number = made.objgen[0]
        head = {"jsonversion": 2, "pdfversion": "1.7", "maxobjectid": number}
        told = {"qpdf": [head, {f"obj:{number} 0 R": {"stream": {"datafile": str(path), "dict": {}}}}]}
        self._pdf.update_from_qpdf_json(io.BytesIO(json.dumps(told).encode()))
        return made


def _pack(codes: NDArray[np.uint8], path: Path) -> None:
    path.write_bytes(deflated(codes))


@contextmanager
def spool_beside(pdf: Pdf, out: Path | None) -> Iterator[Spool]:
    """A spool in a folder of its own beside the file that is to be written, gone afterwards; for one that is not, where
    temporary files are.
    """
    name = out.name[:60] if out is not None else "document"
    beside = out.parent if out is not None else None
    with tempfile.TemporaryDirectory(".part", f".{name}-", beside) as folder:
        spool = Spool(pdf, Path(folder))
        try:
            yield spool
        finally:
            spool.close()
