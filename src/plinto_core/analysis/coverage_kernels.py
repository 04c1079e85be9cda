"""How much ink pixels have, compiled."""

import numpy as np
from numba import carray


def measure_coverage(first, last, codes, inks, most, sums, largest, histogram, steps, bin_width, state, block_rows):
    """Measure ink codes (n, inks), each block of `block_rows` rows into rows of its own.

    sums and largest (blocks, inks) int64: of each ink; histogram (blocks, steps) int64: of totals, `bin_width` codes a
    step; state (blocks, 3) int64: largest total, its pixel, how many are above `most`. All are zero before.
    """
    blocks = (last + block_rows - 1) // block_rows
    pixels = carray(codes, (last, inks))
    summed, tops = carray(sums, (blocks, inks)), carray(largest, (blocks, inks))
    counted, told = carray(histogram, (blocks, steps)), carray(state, (blocks, 3))
    at = first // block_rows
    for row in range(first, last):
        i = np.uint64(row)
        total = np.int64(0)
        for k in range(inks):
            code = np.int64(pixels[i, np.uint64(k)])
            summed[at, k] += code
            total += code
            tops[at, k] = max(tops[at, k], code)
        counted[at, min(np.int64(np.uint64(total) // np.uint64(bin_width)), steps - 1)] += 1
        if total > told[at, 0] or row == first:
            told[at, 0] = total
            told[at, 1] = row
        told[at, 2] += total > most
