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


@njit(cache=True, nogil=True, inline="always")
def _square(v00, v01, v10, v11, f, g):
    """Bilinear value and its slopes along the first and second side of a cell."""
    low = v00 + g * (v01 - v00)
    high = v10 + g * (v11 - v10)
    along = v01 - v00
    return low + f * (high - low), high - low, along + f * ((v11 - v10) - along)


@njit(cache=True, nogil=True, inline="always")
def _mean(v00, v01, v10, v11, f, g):
    low = v00 + g * (v01 - v00)
    return low + f * (v10 + g * (v11 - v10) - low)


@njit(cache=True, nogil=True, inline="always")
def _four(nodes, c, a, s0, s1, s2, f0, f1, f2, f3):
    """Value of component c in the cell at node a, and its slope along each of four inks, as nested squares."""
    q00, y00, k00 = _square(nodes[a, c], nodes[a + 1, c], nodes[a + s2, c], nodes[a + s2 + 1, c], f2, f3)
    a += s1
    q01, y01, k01 = _square(nodes[a, c], nodes[a + 1, c], nodes[a + s2, c], nodes[a + s2 + 1, c], f2, f3)
    a += s0
    q11, y11, k11 = _square(nodes[a, c], nodes[a + 1, c], nodes[a + s2, c], nodes[a + s2 + 1, c], f2, f3)
    a -= s1
    q10, y10, k10 = _square(nodes[a, c], nodes[a + 1, c], nodes[a + s2, c], nodes[a + s2 + 1, c], f2, f3)
    value, first, second = _square(q00, q01, q10, q11, f0, f1)
    return value, first, second, _mean(y00, y01, y10, y11, f0, f1), _mean(k00, k01, k10, k11, f0, f1)


@njit(cache=True, nogil=True, inline="always")
def _many_with_slopes(nodes, points, inks, base, out, slopes, fractions, strides):
    """Four inks or more: the last four as nested squares, at every corner that the others span."""
    outer = inks - 4
    s0, s1, s2 = strides[outer], strides[outer + 1], strides[outer + 2]
    f0, f1, f2, f3 = fractions[outer], fractions[outer + 1], fractions[outer + 2], fractions[outer + 3]
    top = points - 1
    for c in range(3):
        out[c] = 0.0
        for k in range(inks):
            slopes[c, k] = 0.0
    for corner in range(1 << outer):
        weight = 1.0
        index = base
        for k in range(outer):
            if (corner >> k) & 1:
                weight *= fractions[k]
                index += strides[k]
            else:
                weight *= 1.0 - fractions[k]
        for c in range(3):
            value, a, b, d, e = _four(nodes, c, index, s0, s1, s2, f0, f1, f2, f3)
            out[c] += weight * value
            slopes[c, outer] += weight * a * top
            slopes[c, outer + 1] += weight * b * top
            slopes[c, outer + 2] += weight * d * top
            slopes[c, outer + 3] += weight * e * top
            for k in range(outer):
                # The weight without ink k, taken with its sign: the derivative of this corner's weight.
                part = 1.0
                for j in range(outer):
                    if j != k:
                        part *= fractions[j] if (corner >> j) & 1 else 1.0 - fractions[j]
                slopes[c, k] += (part if (corner >> k) & 1 else -part) * value * top


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
    if inks >= 4:
        _many_with_slopes(nodes, points, inks, base, out, slopes, fractions, strides)
        return
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
