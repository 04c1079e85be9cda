"""Bounded least squares from colors to inks, node by node, compiled.

For an aim, minimize  |W (S(F(x)) - aim)|² + Σ wₖ (xₖ - tₖ)²  subject to 0 ≤ x ≤ cap and Σ x ≤ total, where F is the
forward model and S its Lab in the coordinates of `colorimetry.straight`, in which aims are given as well:
Gauss-Newton steps, each an exact active-set solution of the small quadratic program. The second sum is what
picks one combination out of the family that reaches the aim (the black target); its weights are so small
that the color decides wherever the two disagree.
"""

import math

import numpy as np
from numba import njit, prange
from numba.cpython.unsafe.tuple import tuple_setitem

from plinto_core.colorimetry.straight_kernels import straighten
from plinto_core.press.grid_kernels import evaluate, evaluate_with_slopes

FREE, LOW, HIGH = 0, 1, 2
#: Inks for which there is a way without loops.
FOUR = 4
#: Rows of ten numbers that a solution works with: those of `_polish`, the inks, and an aim on the way to another.
_WORK, _INKS, _AIM = 48, 46, 47
#: How much less chroma pulls in the middle of the lightnesses, where that is, and how wide. There a blue would be taken to
#: where its hue is strongest, however light that is: on its way from white it turned around by up to 2.5 L*. Yellows and
#: near-blacks have little but their chroma to be told by, and keep all of the pull.
_LESS_PULL, _MIDDLE_L, _MIDDLE_WIDE = 0.6, 48.0, 20.0


@njit(cache=True, nogil=True)
def _eliminate(a, b, n):
    """Solve a x = b in place (partial pivoting); a is (n, n), the result stands in b."""
    for col in range(n):
        pivot = col
        for row in range(col + 1, n):
            if abs(a[row, col]) > abs(a[pivot, col]):
                pivot = row
        if abs(a[pivot, col]) < 1e-14:
            return False
        if pivot != col:
            for k in range(n):
                a[col, k], a[pivot, k] = a[pivot, k], a[col, k]
            b[col], b[pivot] = b[pivot], b[col]
        for row in range(col + 1, n):
            factor = a[row, col] / a[col, col]
            if factor != 0.0:
                for k in range(col, n):
                    a[row, k] -= factor * a[col, k]
                b[row] -= factor * b[col]
    for row in range(n - 1, -1, -1):
        for k in range(row + 1, n):
            b[row] -= a[row, k] * b[k]
        b[row] /= a[row, row]
    return True


@njit(cache=True, nogil=True, inline="always")
def _stay_four(h, g, d, state, capped, room, wanted):
    """As `_stay` for four inks, without a loop, for by far the most solutions are of four. By Cholesky's way (Golub and Van
    Loan 2013, 4.1), for what is free is positive definite; what is not stands in the system as itself."""
    f0, f1 = 1.0 if state[0] == FREE else 0.0, 1.0 if state[1] == FREE else 0.0
    f2, f3 = 1.0 if state[2] == FREE else 0.0, 1.0 if state[3] == FREE else 0.0
    # What is held takes its part to the right side.
    b0, b1, b2, b3 = (1.0 - f0) * d[0], (1.0 - f1) * d[1], (1.0 - f2) * d[2], (1.0 - f3) * d[3]
    r0 = f0 * (g[0] - h[0, 1] * b1 - h[0, 2] * b2 - h[0, 3] * b3)
    r1 = f1 * (g[1] - h[1, 0] * b0 - h[1, 2] * b2 - h[1, 3] * b3)
    r2 = f2 * (g[2] - h[2, 0] * b0 - h[2, 1] * b1 - h[2, 3] * b3)
    r3 = f3 * (g[3] - h[3, 0] * b0 - h[3, 1] * b1 - h[3, 2] * b2)
    q0 = 1.0 / (f0 * h[0, 0] + 1.0 - f0)
    a1, a2, a3 = f0 * f1 * h[1, 0], f0 * f2 * h[2, 0], f0 * f3 * h[3, 0]
    l10, l20, l30 = a1 * q0, a2 * q0, a3 * q0
    q1 = 1.0 / (f1 * h[1, 1] + 1.0 - f1 - l10 * a1)
    c2, c3 = f1 * f2 * h[2, 1] - l10 * a2, f1 * f3 * h[3, 1] - l10 * a3
    l21, l31 = c2 * q1, c3 * q1
    q2 = 1.0 / (f2 * h[2, 2] + 1.0 - f2 - l20 * a2 - l21 * c2)
    e3 = f2 * f3 * h[3, 2] - l20 * a3 - l21 * c3
    l32 = e3 * q2
    q3 = 1.0 / (f3 * h[3, 3] + 1.0 - f3 - l30 * a3 - l31 * c3 - l32 * e3)
    r1 -= l10 * r0
    r2 -= l20 * r0 + l21 * r1
    r3 -= l30 * r0 + l31 * r1 + l32 * r2
    x3 = r3 * q3
    x2 = r2 * q2 - l32 * x3
    x1 = r1 * q1 - l21 * x2 - l31 * x3
    x0 = r0 * q0 - l10 * x1 - l20 * x2 - l30 * x3
    price = 0.0
    if capped and f0 + f1 + f2 + f3 > 0.0:
        # What one more of all ink would change, and how much of that meets the total.
        o1 = f1 - l10 * f0
        o2 = f2 - l20 * f0 - l21 * o1
        o3 = f3 - l30 * f0 - l31 * o1 - l32 * o2
        y3 = o3 * q3
        y2 = o2 * q2 - l32 * y3
        y1 = o1 * q1 - l21 * y2 - l31 * y3
        y0 = f0 * q0 - l10 * y1 - l20 * y2 - l30 * y3
        price = (x0 + x1 + x2 + x3 + b0 + b1 + b2 + b3 - room) / (y0 + y1 + y2 + y3)
        x0, x1, x2, x3 = x0 - price * y0, x1 - price * y1, x2 - price * y2, x3 - price * y3
    wanted[0], wanted[1], wanted[2], wanted[3] = x0 + b0, x1 + b1, x2 + b2, x3 + b3
    return price


@njit(cache=True, nogil=True)
def _stay(h, g, d, state, capped, room, n, wanted, system, right, place):
    """The least of the quadratic where what is not free stays as it is, and where `capped` all comes to `room`: into
    `wanted`. Returns what more room would be worth; NaN where nothing tells."""
    free = 0
    for k in range(n):
        wanted[k] = d[k]
        if state[k] == FREE:
            place[free] = k
            free += 1
    size = free + 1 if capped and free > 0 else free
    for i in range(free):
        k = place[i]
        right[i] = g[k]
        for j in range(n):
            if state[j] != FREE:
                right[i] -= h[k, j] * d[j]
        for j in range(free):
            system[i, j] = h[k, place[j]]
    if size > free:
        right[free] = room
        for j in range(n):
            if state[j] != FREE:
                right[free] -= d[j]
        for i in range(free):
            system[i, free] = 1.0
            system[free, i] = 1.0
        system[free, free] = 0.0
    if size > 0 and not _eliminate(system, right, size):
        return math.nan
    for i in range(free):
        wanted[place[i]] = right[i]
    return right[free] if size > free else 0.0


@njit(cache=True, nogil=True)
def _quadratic_program(h, g, low, high, room, n, d, state, wanted, system, right, place):
    """Minimize ½ dᵀh d - gᵀd with low ≤ d ≤ high and Σ d ≤ room, from the feasible d = 0, into d."""
    # Bounds that hold already and are pushed against stay held: most solutions lie on the same ones.
    for k in range(n):
        d[k] = 0.0
        state[k] = FREE
        if low[k] > -1e-12 and g[k] < 0:
            state[k] = LOW
        elif high[k] < 1e-12 and g[k] > 0:
            state[k] = HIGH
    capped = room < 1e-12
    for _ in range(6 * n + 8):
        if n == FOUR:
            price = _stay_four(h, g, d, state, capped, room, wanted)
        else:
            price = _stay(h, g, d, state, capped, room, n, wanted, system, right, place)
        if math.isnan(price):
            return
        # How far along towards that solution before a bound or the total stops it.
        alpha = 1.0
        blocking = -1
        total_now = 0.0
        total_move = 0.0
        for k in range(n):
            move = wanted[k] - d[k]
            total_now += d[k]
            total_move += move
            if move < -1e-15 and d[k] + alpha * move < low[k]:
                alpha = max(0.0, (low[k] - d[k]) / move)
                blocking = k
            elif move > 1e-15 and d[k] + alpha * move > high[k]:
                alpha = max(0.0, (high[k] - d[k]) / move)
                blocking = k
        if not capped and total_move > 1e-15 and total_now + alpha * total_move > room:
            alpha = max(0.0, (room - total_now) / total_move)
            blocking = n
        for k in range(n):
            d[k] += alpha * (wanted[k] - d[k])
        if blocking == n:
            capped = True
            continue
        if blocking >= 0:
            below = abs(d[blocking] - low[blocking]) <= abs(d[blocking] - high[blocking])
            state[blocking] = LOW if below else HIGH
            d[blocking] = low[blocking] if below else high[blocking]
            continue
        # At the solution for this set: is there a constraint that would rather let go?
        worst = 1e-9
        release = -1
        if capped and price < -worst:
            worst = -price
            release = n
        for k in range(n):
            if state[k] != FREE:
                slope = g[k] - price
                for j in range(n):
                    slope -= h[k, j] * d[j]
                gain = slope if state[k] == LOW else -slope
                if gain > worst:
                    worst = gain
                    release = k
        if release == -1:
            return
        if release == n:
            capped = False
        else:
            state[release] = FREE


@njit(cache=True, nogil=True, inline="always")
def _look(nodes, points, n, x, seen, slopes, raw, raw_slopes, turn, cells, fractions, strides):
    """Straight coordinates of inks x in seen (3,), and slopes (3, n) along each ink."""
    evaluate_with_slopes(nodes, points, n, x, raw, raw_slopes, cells, fractions, strides)
    straighten(raw, seen, turn)
    for k in range(n):
        for c in range(3):
            slopes[c, k] = (
                turn[c, 0] * raw_slopes[0, k] + turn[c, 1] * raw_slopes[1, k] + turn[c, 2] * raw_slopes[2, k]
            )


@njit(cache=True, nogil=True, inline="always")
def _frame(aim, focus, frame):
    """Rows that turn a straight difference into weighted lightness, chroma and hue parts at the aim."""
    chroma = math.hypot(aim[1], aim[2])
    cos = aim[1] / chroma if chroma > 1e-9 else 1.0
    sin = aim[2] / chroma if chroma > 1e-9 else 0.0
    # Chroma may give way first, hue last; near the neutral axis the two are one.
    pull = 1.0 - _LESS_PULL * math.exp(-(((aim[0] - _MIDDLE_L) / _MIDDLE_WIDE) ** 2))
    w_chroma = focus[1] * pull / (1 + 0.02 * chroma)
    w_hue = focus[2] * (1 + 0.025 * min(chroma, 80.0))
    frame[0] = focus[0]
    frame[1] = w_chroma * cos
    frame[2] = w_chroma * sin
    frame[3] = -w_hue * sin
    frame[4] = w_hue * cos


@njit(cache=True, nogil=True, inline="always")
def _cost(lab, aim, frame, x, target, weights, n):
    d0 = lab[0] - aim[0]
    d1 = lab[1] - aim[1]
    d2 = lab[2] - aim[2]
    r0 = frame[0] * d0
    r1 = frame[1] * d1 + frame[2] * d2
    r2 = frame[3] * d1 + frame[4] * d2
    total = r0 * r0 + r1 * r1 + r2 * r2
    for k in range(n):
        total += weights[k] * (x[k] - target[k]) ** 2
    return total


@njit(cache=True, nogil=True)
def _wide_slopes(nodes, points, n, x, trial, raw, turn, below, above, slopes):
    """Slopes by differences over 0.6 of a cell to both sides, as far as 0…1 reaches."""
    reach = 0.6 / (points - 1)
    for k in range(n):
        trial[k] = x[k]
    for k in range(n):
        left = max(x[k] - reach, 0.0)
        right = min(x[k] + reach, 1.0)
        trial[k] = left
        evaluate(nodes, points, n, trial, raw)
        straighten(raw, below, turn)
        trial[k] = right
        evaluate(nodes, points, n, trial, raw)
        straighten(raw, above, turn)
        trial[k] = x[k]
        for c in range(3):
            slopes[c, k] = (above[c] - below[c]) / (right - left)


@njit(cache=True, nogil=True)
def _polish(nodes, points, n, aim, target, weights, caps, total, focus, rounds, x, work, ints):
    """Gauss-Newton from x, in place."""
    lab, trial_lab, frame, g, low, high, d, right, trial, wanted = (
        work[0, :3], work[1, :3], work[2, :5], work[3], work[4], work[5], work[6], work[7], work[8], work[45],
    )  # fmt: skip
    slopes, trial_slopes = work[9:12, :n], work[12:15, :n]
    weighted, h, system = work[15:18, :n], work[18 : 18 + n, :n], work[27:37]
    fractions = work[37]
    raw, raw_slopes, turn = work[38, :3], work[39:42, :n], work[42:45, :3]
    state, place, cells, strides = ints[0], ints[1], ints[2], ints[3]
    _frame(aim, focus, frame)
    _look(nodes, points, n, x, lab, slopes, raw, raw_slopes, turn, cells, fractions, strides)
    cost = _cost(lab, aim, frame, x, target, weights, n)
    wide = False
    looked = 0
    for _ in range(rounds):
        r0 = frame[0] * (aim[0] - lab[0])
        r1 = frame[1] * (aim[1] - lab[1]) + frame[2] * (aim[2] - lab[2])
        r2 = frame[3] * (aim[1] - lab[1]) + frame[4] * (aim[2] - lab[2])
        used = 0.0
        for k in range(n):
            weighted[0, k] = frame[0] * slopes[0, k]
            weighted[1, k] = frame[1] * slopes[1, k] + frame[2] * slopes[2, k]
            weighted[2, k] = frame[3] * slopes[1, k] + frame[4] * slopes[2, k]
            used += x[k]
        for k in range(n):
            g[k] = (
                weighted[0, k] * r0 + weighted[1, k] * r1 + weighted[2, k] * r2
                + weights[k] * (target[k] - x[k])
            )  # fmt: skip
            low[k] = -x[k]
            high[k] = caps[k] - x[k]
            for j in range(n):
                h[k, j] = (
                    weighted[0, k] * weighted[0, j]
                    + weighted[1, k] * weighted[1, j]
                    + weighted[2, k] * weighted[2, j]
                )
            h[k, k] += weights[k] + 1e-7
        _quadratic_program(h, g, low, high, total - used, n, d, state, wanted, system, right, place)
        step = 1.0
        better = False
        for _half in range(6):
            for k in range(n):
                trial[k] = min(max(x[k] + step * d[k], 0.0), caps[k])
            _look(nodes, points, n, trial, trial_lab, trial_slopes, raw, raw_slopes, turn, cells, fractions, strides)
            trial_cost = _cost(trial_lab, aim, frame, trial, target, weights, n)
            if trial_cost < cost:
                better = True
                break
            step *= 0.4
        if not better:
            # A crease between two cells of the model stopped the descent: look once across it.
            looked += 1
            if wide or looked > 2:
                return
            wide = True
            _wide_slopes(nodes, points, n, x, trial, raw, turn, lab, trial_lab, slopes)
            evaluate(nodes, points, n, x, raw)
            straighten(raw, lab, turn)
            continue
        wide = False
        gained = cost - trial_cost
        cost = trial_cost
        for k in range(n):
            x[k] = trial[k]
        for c in range(3):
            lab[c] = trial_lab[c]
            for k in range(n):
                slopes[c, k] = trial_slopes[c, k]
        if gained < 1e-5 + 5e-6 * cost:
            return


@njit(cache=True, nogil=True, parallel=True)
def solve_rows(nodes, points, aims, targets, weights, caps, total, focus, starts, rounds, out):
    """Inks (n, inks) for straight aims (n, 3), from starts (n, inks), which need not be feasible.

    `weights` (n, inks), or (1, inks) for all rows alike.
    """
    inks = starts.shape[1]
    count = aims.shape[0]
    # What is made inside is counted by each function that it is handed to, with a lock each time.
    blocks = 64
    works, whole = np.zeros((blocks, _WORK, 10)), np.zeros((blocks, 4, 10), np.int64)
    for block in prange(blocks):
        work, ints = works[block], whole[block]
        x = work[_INKS, :inks]
        for i in range(block * count // blocks, (block + 1) * count // blocks):
            used = 0.0
            for k in range(inks):
                x[k] = min(max(starts[i, k], 0.0), caps[k])
                used += x[k]
            if used > total:
                for k in range(inks):
                    x[k] *= total / used
            heavy = weights[i % weights.shape[0]]
            _polish(nodes, points, inks, aims[i], targets[i], heavy, caps, total, focus, rounds, x, work, ints)
            for k in range(inks):
                out[i, k] = x[k]


@njit(cache=True, nogil=True, parallel=True)
def follow_rows(nodes, points, aims, targets, weights, caps, total, focus, origin, begin, steps, rounds, out):
    """As `solve_rows` with no start known: walk from `origin` (straight (3,), reached by inks `begin`) to each aim.

    Walking a straight line in small steps keeps to the boundary that is met first, so that neighboring aims
    outside the gamut end in neighboring places.
    """
    inks = begin.shape[0]
    count = aims.shape[0]
    # What is made inside is counted by each function that it is handed to, with a lock each time.
    blocks = 64
    works, whole = np.zeros((blocks, _WORK, 10)), np.zeros((blocks, 4, 10), np.int64)
    for block in prange(blocks):
        work, ints = works[block], whole[block]
        x = work[_INKS, :inks]
        aim = work[_AIM, :3]
        for i in range(block * count // blocks, (block + 1) * count // blocks):
            for k in range(inks):
                x[k] = begin[k]
            for s in range(1, steps + 1):
                for c in range(3):
                    aim[c] = origin[c] + (aims[i, c] - origin[c]) * s / steps
                _polish(
                    nodes, points, inks, aim, targets[i], weights, caps, total, focus,
                    rounds if s == steps else 4, x, work, ints,
                )  # fmt: skip
            for k in range(inks):
                out[i, k] = x[k]


@njit(cache=True, nogil=True, parallel=True)
def start_rows(levels, where, out):
    """Linear interpolation of levels (black, L, a, b, inks) at grid coordinates where (n, 4), into (n, inks)."""
    for i in prange(where.shape[0]):
        for k in range(out.shape[1]):
            out[i, k] = 0.0
        for corner in range(16):
            weight = 1.0
            at = (0, 0, 0, 0)
            for axis in range(4):
                size = levels.shape[axis]
                x = min(max(where[i, axis], 0.0), size - 1.0)
                cell = max(min(int(x), size - 2), 0)
                f = x - cell
                up = (corner >> axis) & 1
                weight *= f if up else 1.0 - f
                at = tuple_setitem(at, axis, min(cell + up, size - 1))
            if weight != 0.0:
                for k in range(out.shape[1]):
                    out[i, k] += weight * levels[at[0], at[1], at[2], at[3], k]
