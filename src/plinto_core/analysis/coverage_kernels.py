"""How much ink pixels have, compiled."""

import numpy as np
from numba import carray, njit

#: Sums of codes stay below 2**20 and steps of a histogram below 2**14, so that this many bits tell every quotient.
_BITS = np.uint64(40)


@njit(nogil=True, inline="always")
def _count(counted, at, total, times, steps):
    """Count a pixel's sum of codes in the step that it falls into; `times` divides by the width of one."""
    step = min((np.uint64(total) * times) >> _BITS, np.uint64(steps - 1))
    counted[at, step] += 1


def measure_coverage(first, last, codes, inks, most, sums, largest, histogram, steps, bin_width, state, block_rows):
    """Measure ink codes (n, inks), each block of `block_rows` rows into rows of its own.

    sums and largest (blocks, inks) int64: of each ink; histogram (blocks, steps) int64: of totals, `bin_width` codes a
    step; state (blocks, 3) int64: largest total, its pixel, how many are above `most`. All are zero before.
    """
    blocks = (last + block_rows - 1) // block_rows
    pixels = carray(codes, (last, inks))
    summed, tops = carray(sums, (blocks, inks)), carray(largest, (blocks, inks))
    counted, told = carray(histogram, (blocks, steps)), carray(state, (blocks, 3))
    at = np.uint64(first // block_rows)
    times = ((np.uint64(1) << _BITS) + np.uint64(bin_width) - np.uint64(1)) // np.uint64(bin_width)
    highest, place, over = np.int64(-1), np.int64(0), np.int64(0)
    if inks == 4:
        # The usual number: what is summed stays in registers.
        s0 = s1 = s2 = s3 = np.uint64(0)
        t0 = t1 = t2 = t3 = np.uint64(0)
        for row in range(first, last):
            i = np.uint64(row)
            c0, c1, c2, c3 = pixels[i, 0], pixels[i, 1], pixels[i, 2], pixels[i, 3]
            s0, s1, s2, s3 = s0 + c0, s1 + c1, s2 + c2, s3 + c3
            t0, t1, t2, t3 = max(t0, c0), max(t1, c1), max(t2, c2), max(t3, c3)
            total = np.int64(c0) + np.int64(c1) + np.int64(c2) + np.int64(c3)
            _count(counted, at, total, times, steps)
            if total > highest:
                highest, place = total, np.int64(row)
            over += total > most
        for k, (ink_sum, ink_top) in enumerate(((s0, t0), (s1, t1), (s2, t2), (s3, t3))):
            summed[at, k], tops[at, k] = ink_sum, ink_top
    else:
        for row in range(first, last):
            i = np.uint64(row)
            total = np.int64(0)
            for k in range(inks):
                code = np.int64(pixels[i, np.uint64(k)])
                summed[at, np.uint64(k)] += code
                tops[at, np.uint64(k)] = max(tops[at, np.uint64(k)], code)
                total += code
            _count(counted, at, total, times, steps)
            if total > highest:
                highest, place = total, np.int64(row)
            over += total > most
    told[at, 0], told[at, 1], told[at, 2] = highest, place, over
