"""Multilinear interpolation on a regular grid over 1 to 8 inks, and its slopes, compiled."""

import numpy as np
from numba import njit, prange


@njit(cache=True, nogil=True)
def evaluate(nodes, points, inks, values, out):
    """One point: nodes (points**inks, m) flat, first ink slowest; values (inks,) 0…1; out (m,)."""
    m = out.shape[0]
    for c in range(m):
        out[c] = 0.0
    # Corner by corner; a bit of `corner` says which side of the cell along that ink.
    for corner in range(1 << inks):
        weight = 1.0
        index = 0
        for k in range(inks):
            x = values[k] * (points - 1)
            x = min(max(x, 0.0), float(points - 1))
            cell = min(int(x), points - 2)
            f = x - cell
            if (corner >> k) & 1:
                weight *= f
                cell += 1
            else:
                weight *= 1.0 - f
            index = index * points + cell
        if weight != 0.0:
            for c in range(m):
                out[c] += weight * nodes[index, c]


@njit(cache=True, nogil=True)
def evaluate_with_slopes(nodes, points, inks, values, out, slopes, cells, fractions, strides):
    """As `evaluate` for three outputs, and slopes (3, inks): the change of each output along each ink."""
    base = 0
    stride = 1
    for k in range(inks - 1, -1, -1):
        x = values[k] * (points - 1)
        x = min(max(x, 0.0), float(points - 1))
        # At a node the lower cell's slope counts: where dots plug, the upper cell's says nothing more happens.
        cell = min(max(int(x - 1e-6), 0), points - 2)
        cells[k] = cell
        fractions[k] = x - cell
        strides[k] = stride
        base += cell * stride
        stride *= points
    for c in range(3):
        out[c] = 0.0
        for k in range(inks):
            slopes[c, k] = 0.0
    for corner in range(1 << inks):
        weight = 1.0
        index = base
        for k in range(inks):
            if (corner >> k) & 1:
                weight *= fractions[k]
                index += strides[k]
            else:
                weight *= 1.0 - fractions[k]
        v0 = nodes[index, 0]
        v1 = nodes[index, 1]
        v2 = nodes[index, 2]
        out[0] += weight * v0
        out[1] += weight * v1
        out[2] += weight * v2
        for k in range(inks):
            # The weight without ink k, taken with its sign: the derivative of this corner's weight.
            part = 1.0
            for j in range(inks):
                if j != k:
                    part *= fractions[j] if (corner >> j) & 1 else 1.0 - fractions[j]
            part = part * (points - 1) if (corner >> k) & 1 else -part * (points - 1)
            slopes[0, k] += part * v0
            slopes[1, k] += part * v1
            slopes[2, k] += part * v2


@njit(cache=True, nogil=True, parallel=True)
def evaluate_rows(nodes, points, inks, values, out):
    """Rows of values (n, inks) to rows of out (n, m), one after the other on every core."""
    for i in prange(values.shape[0]):
        evaluate(nodes, points, inks, values[i], out[i])


@njit(cache=True, nogil=True, parallel=True)
def evaluate_codes(nodes, points, inks, codes, top, out):
    """Ink codes (n, inks), integers 0…top, to out (n, m): pictures, so the cell is found once a pixel."""
    blocks = 64
    n = codes.shape[0]
    m = out.shape[1]
    for block in prange(blocks):
        fractions = np.empty(inks, np.float32)
        strides = np.empty(inks, np.int64)
        scale = np.float32((points - 1) / top)
        for i in range(block * n // blocks, (block + 1) * n // blocks):
            base = 0
            stride = 1
            for k in range(inks - 1, -1, -1):
                x = np.float32(codes[i, k]) * scale
                cell = min(int(x), points - 2)
                fractions[k] = x - np.float32(cell)
                strides[k] = stride
                base += cell * stride
                stride *= points
            for c in range(m):
                out[i, c] = 0
            for corner in range(1 << inks):
                weight = np.float32(1)
                index = base
                for k in range(inks):
                    if (corner >> k) & 1:
                        weight *= fractions[k]
                        index += strides[k]
                    else:
                        weight *= np.float32(1) - fractions[k]
                if weight != 0:
                    for c in range(m):
                        out[i, c] += weight * nodes[index, c]
