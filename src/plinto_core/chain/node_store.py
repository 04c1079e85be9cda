"""Solved nodes of links, kept on disk: what one process solved, the next one does not solve again.

A node is the same whoever computes it, so a link from here writes the same bytes. Nodes are found by the digest of their
line, and by all that computes them: the code, the libraries and the processor.
"""

import contextlib
import hashlib
import os
import zipfile
from dataclasses import dataclass
from functools import cache
from importlib.metadata import version
from pathlib import Path

import numpy as np
from llvmlite.binding import get_host_cpu_name
from numpy.typing import NDArray

import plinto_core
from plinto_core.files import write_whole

#: Of the core, what a node is computed by; `errors`, `files` and the like compute nothing.
_PACKAGES = ("adjust", "chain", "colorimetry", "gamut", "icc", "inks", "pipeline", "press", "recipe", "separation")
_LIBRARIES = ("imagecodecs", "numba", "numpy", "scipy")
#: A link of four inks takes one or two megabytes.
_MOST_BYTES = 256 << 20


@cache
def _computed_by() -> str:
    """A digest, 16 hexadecimal digits, of everything that could make a node another one."""
    told = hashlib.sha256(" ".join([get_host_cpu_name(), *(version(each) for each in _LIBRARIES)]).encode())
    root = Path(plinto_core.__file__).parent
    for package in _PACKAGES:
        for path in sorted((root / package).glob("*.py")):
            told.update(path.name.encode() + path.read_bytes())
    return told.hexdigest()[:16]


class NodeStore:
    """Nodes under `folder`; when they come to more than `most_bytes`, those used longest ago go."""

    def __init__(self, folder: Path, most_bytes: int = _MOST_BYTES) -> None:
        self._folder, self._most_bytes = folder, most_bytes

    def _path(self, condition: str, line: str) -> Path:
        return self._folder / f"nodes-{_computed_by()}-{condition}-{line}.npz"

    def load(
        self, condition: str, line: str, shape: tuple[int, ...]
    ) -> tuple[NDArray[np.uint16], NDArray[np.bool_]] | None:
        """The nodes of this `shape` (n, inks) and which of them (n,) are solved; None where none are kept.

        `condition` and `line` are digests: of the profile, and of all that the line's inks depend on.
        """
        path = self._path(condition, line)
        if not path.exists():
            return None
        try:
            with np.load(path) as kept:
                nodes = np.asarray(kept["nodes"], np.uint16)
                solved = np.unpackbits(kept["solved"], count=shape[0]).astype(np.bool_)
            os.utime(path)
        except (OSError, ValueError, KeyError, EOFError, zipfile.BadZipFile):
            # Damaged or gone meanwhile: it is solved again.
            path.unlink(missing_ok=True)
            return None
        return (nodes, solved) if nodes.shape == shape else None

    def keep(self, condition: str, line: str, nodes: NDArray[np.uint16], solved: NDArray[np.bool_]) -> None:
        """Keep nodes (n, inks) of which some (n,) are solved. On a full disk nothing is kept: it saves time, no more."""

        def write(part: Path) -> None:
            with part.open("wb") as file:
                np.savez(file, nodes=nodes, solved=np.packbits(solved))

        with contextlib.suppress(OSError):
            self._folder.mkdir(parents=True, exist_ok=True)
            write_whole(self._path(condition, line), write)
            self._make_room()

    def _make_room(self) -> None:
        used = []
        for path in self._folder.glob("nodes-*.npz"):
            with contextlib.suppress(FileNotFoundError):
                told = path.stat()
                used.append((told.st_mtime, told.st_size, path))
        room = self._most_bytes
        for _, size, path in sorted(used, reverse=True):
            room -= size
            if room < 0:
                path.unlink(missing_ok=True)


@dataclass(frozen=True)
class LineNodes:
    """The place of one line's nodes: `condition` and `line` are digests, of its profile and of all its inks depend on."""

    store: NodeStore
    condition: str
    line: str

    def load(self, shape: tuple[int, ...]) -> tuple[NDArray[np.uint16], NDArray[np.bool_]] | None:
        """The nodes of this `shape` (n, inks) and which of them (n,) are solved; None where none are kept."""
        return self.store.load(self.condition, self.line, shape)

    def keep(self, nodes: NDArray[np.uint16], solved: NDArray[np.bool_]) -> None:
        """Keep nodes (n, inks) of which some (n,) are solved."""
        self.store.keep(self.condition, self.line, nodes, solved)


def forget_nodes(folder: Path, condition: str) -> None:
    """Remove the nodes of every line to a condition, by its profile's digest."""
    for path in folder.glob(f"nodes-*-{condition}-*.npz"):
        path.unlink(missing_ok=True)
