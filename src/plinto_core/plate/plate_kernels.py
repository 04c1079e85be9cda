"""Ink codes through one table a plate, with the total held afterwards, compiled."""

from numba import njit, prange


@njit(cache=True, nogil=True, parallel=True)
def through_plates(codes, tables, floors, cuts, total, out):
    """Codes (n, inks) of 16 bit through tables (inks, 65536) to out (n, inks).

    Where the sum exceeds `total`, what stands above the smallest dots `floors` (inks,) is scaled down, and what
    then falls under `cuts` (inks,) is taken away.
    """
    inks = codes.shape[1]
    blocks = 256
    count = codes.shape[0]
    for block in prange(blocks):
        for i in range(block * count // blocks, (block + 1) * count // blocks):
            used = 0
            room = 0
            for k in range(inks):
                code = tables[k, codes[i, k]]
                out[i, k] = code
                used += code
                room += max(code - floors[k], 0)
            if used > total:
                excess = used - total
                for k in range(inks):
                    code = tables[k, codes[i, k]]
                    if excess <= room:
                        above = max(code - floors[k], 0)
                        code = code - above + above * (room - excess) // max(room, 1)
                    else:
                        code = code * total // used
                    out[i, k] = code if code >= cuts[k] else 0
