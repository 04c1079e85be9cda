"""A link that grows with its pictures: nodes are solved when one touches them, and kept for the next process."""

import threading
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from plinto_core.chain.link import Codes, Link, bake_nodes, digest_of, nodes_used
from plinto_core.chain.node_store import LineNodes

Array = NDArray[np.float64]

#: By how much the nodes that are solved outnumber those on the disk when they are kept anew.
_WORTH_KEEPING = 1.02


@dataclass
class _Grown:
    """A link of whose nodes some are solved (nodes,), and how many of these the disk has."""

    link: Link
    solved: NDArray[np.bool_]
    on_disk: int = 0


class GrowingLink:
    """The link of one line, for many threads.

    `empty` has everything but its nodes, which `inks_of` gives (device values 0…1 to inks 0…1); `kept` is their place on
    the disk. Nodes do not depend on each other, so that the inks are the same as through the whole link.
    """

    def __init__(self, empty: Link, inks_of: Callable[[Array], Array], kept: LineNodes | None) -> None:
        self._empty, self._inks_of, self._kept = empty, inks_of, kept
        self._grown: _Grown | None = None
        self._growing = threading.Lock()

    def for_pixels(self, pixels: Codes) -> Link:
        """A link that is good for these picture codes (..., channels), which touch a tenth of the grid."""
        used = nodes_used(pixels, self._empty.points, self._empty.spread)
        with self._growing:
            return self._with(used).link

    def whole(self) -> Link:
        """The link with every node, its digest that of nodes and line."""
        with self._growing:
            found = self._with(np.ones(len(self._empty.nodes), np.bool_)).link
        return replace(found, digest=digest_of(found.nodes, self._empty.digest))

    def keep(self) -> None:
        """Keep on disk what was solved."""
        with self._growing:
            found = self._grown
            solved = int(found.solved.sum()) if found else 0
            # A batch's every picture adds a few, which are not worth writing all of them.
            if found and self._kept and solved > _WORTH_KEEPING * found.on_disk:
                self._kept.keep(found.link.nodes, found.solved)
                found.on_disk = solved

    def _with(self, used: NDArray[np.bool_]) -> _Grown:
        """What has grown so that the nodes `used` (nodes,) are solved; to be called by one thread at a time."""
        before = self._grown = self._grown or self._from_disk()
        missing = np.flatnonzero(used & ~before.solved)
        if len(missing):
            link, nodes = before.link, before.link.nodes.copy()
            grid = np.stack(np.unravel_index(missing, (link.points,) * link.channels), axis=-1)
            nodes[missing] = bake_nodes(self._inks_of, link.spread.nodes(link.points)[grid], link.caps, link.total)
            self._grown = _Grown(link.with_nodes(nodes, missing), before.solved | used, before.on_disk)
        return self._grown

    def _from_disk(self) -> _Grown:
        kept = self._kept.load(self._empty.nodes.shape) if self._kept else None
        if kept is None:
            return _Grown(self._empty, np.zeros(len(self._empty.nodes), np.bool_))
        nodes, solved = kept
        return _Grown(replace(self._empty, nodes=nodes), solved, int(solved.sum()))
