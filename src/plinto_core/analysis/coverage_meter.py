"""How much ink was laid down, counted over codes as they pass."""

import numpy as np

from plinto_core.raster.opened import Codes
from plinto_core.ready_kernels import ROWS, ReadyKernel

HISTOGRAM_BINS = 60
_measure_coverage = ReadyKernel("plinto_core.analysis.coverage_kernels", "measure_coverage")


class CoverageMeter:
    """Counts ink over the codes it is shown: means, largest total and where, histogram of totals, pixels above a limit in
    percent."""

    def __init__(self, inks: int, depth: int, limit_percent: float = 0.0) -> None:
        self.top = 255 if depth == 8 else 65535
        # A hair above the product, so that what is right at the limit is not over it.
        self._most = int(limit_percent / 100 * self.top + 1e-6)
        self.inks = inks
        self._sums = np.zeros(inks, np.int64)
        self._bin = -(-inks * self.top // HISTOGRAM_BINS)
        self._histogram = np.zeros(HISTOGRAM_BINS, np.int64)
        self._largest = np.zeros(inks, np.int64)
        self._seen = 0
        #: Largest sum of codes over a pixel, and which pixel, counted from the first one shown, has it.
        self.largest_code_sum, self.largest_at = 0, 0
        #: How many pixels have more ink than the limit.
        self.over = 0

    def add(self, codes: Codes) -> None:
        """Take ink codes (..., inks) into account."""
        flat = np.ascontiguousarray(codes).reshape(-1, self.inks)
        blocks = -(-len(flat) // ROWS)
        sums, largest = np.zeros((2, blocks, self.inks), np.int64)
        histogram, state = np.zeros((blocks, HISTOGRAM_BINS), np.int64), np.zeros((blocks, 3), np.int64)
        _measure_coverage(
            len(flat), flat, self.inks, self._most, sums, largest, histogram, HISTOGRAM_BINS, self._bin, state, ROWS
        )
        self._sums += sums.sum(axis=0)
        self._largest = np.maximum(self._largest, largest.max(axis=0, initial=0))
        self._histogram += histogram.sum(axis=0)
        self.over += int(state[:, 2].sum())
        # The first pixel of those that have the most.
        top = int(state[:, 0].argmax()) if blocks else 0
        if blocks and state[top, 0] > self.largest_code_sum:
            self.largest_code_sum, self.largest_at = int(state[top, 0]), self._seen + int(state[top, 1])
        self._seen += len(flat)

    @property
    def largest_codes(self) -> list[int]:
        """Largest code of each ink."""
        return [int(v) for v in self._largest]

    @property
    def largest_percent(self) -> float:
        """Largest total ink of a pixel in percent."""
        return self.largest_code_sum / self.top * 100

    @property
    def mean_percent(self) -> list[float]:
        """Mean coverage of each ink in percent."""
        return [float(v) for v in self._sums / max(self._seen, 1) / self.top * 100]

    @property
    def histogram(self) -> list[float]:
        """Share of pixels (0…1) in each of 60 equal steps of total ink, from 0 to all inks full."""
        return [float(v) for v in self._histogram / max(self._seen, 1)]
