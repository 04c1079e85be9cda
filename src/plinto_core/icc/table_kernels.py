"""Device RGB through a matrix profile to connection-space Lab and down an output profile's grid, in LittleCMS' integers."""

import numpy as np
from numba import carray, njit

_ONE = np.uint64(1)
_FOUR = 4
_EPSILON, _SLOPE, _OFFSET = (24 / 116) ** 3, 841 / 108, 16 / 116
#: More light than any profile speaks of.
_MOST = 1e6


# Every index is unsigned: a signed one is looked at for being negative at each access.


@njit(nogil=True)
def _root(t, roots, scale):
    """CIE 1976: the cube root, or the line below it; from a table of roots where it reaches, and a step of Halley's."""
    if t <= _EPSILON:
        return _SLOPE * t + _OFFSET
    if not t < _MOST:
        # Infinite, or no number at all, where a profile divides by nothing.
        t = _MOST
    times = 1.0
    # An eighth has half of the root. The C library's own function would not be found without numba.
    while t * scale >= len(roots) - 1:
        t *= 0.125
        times *= 2.0
    place = t * scale
    at = np.uint64(place)
    root = roots[at] + (place - np.float64(at)) * (roots[at + _ONE] - roots[at])
    cube = root * root * root
    return times * (root * (cube + 2 * t) / (2 * cube + t))


@njit(nogil=True)
def _single(value):
    """As LittleCMS hands it from step to step."""
    return np.float64(np.float32(value))


@njit(nogil=True)
def _relative(light, axis, matching, matched):
    """X, Y or Z, halved as it is encoded, to what it is of white, matched to the other black before if `matched`."""
    value = _single(light)
    if matched:
        value = _single(value * matching[0, axis] + matching[1, axis])
    return value * matching[2, axis]


@njit(nogil=True)
def _place(value, lab_scale):
    """Lab encoded 0…1 as a place among codes of 16 bit."""
    return _single(_single(value) * lab_scale) * 65535.0 + 0.5


@njit(nogil=True)
def _code(place):
    """The code of 16 bit at such a place."""
    return np.uint64(min(max(int(place), 0), 65535))


@njit(nogil=True)
def _near(place, margin):
    """Whether a last digit could make it another code."""
    return abs(place - np.floor(place + 0.5)) < margin


@njit(nogil=True)
def _between(low, high, rest):
    """From one 16-bit code to another, `rest` of 65536, rounded."""
    return low + (((high - low) * rest + 32768) >> 16)


@njit(nogil=True)
def _cell(code, points, stride):
    """Where the lower node of a code's cell and the upper one lie along an axis, and the rest of 65536 (15.16 fixed)."""
    place = np.uint64(code) * np.uint64(points - 1)
    place += (place + np.uint64(0x7FFF)) // np.uint64(0xFFFF)
    low = (place >> np.uint64(16)) * np.uint64(stride)
    high = low if code == 0xFFFF else low + np.uint64(stride)
    return low, high, np.int64(place & np.uint64(0xFFFF))


@njit(nogil=True, inline="always")
def _interpolated(flat, along_l, along_a, along_b, inks, outputs, eight, out, row):
    """Inks out (row, inks) of a color's cell, each axis as `_cell` tells it."""
    l0, l1, rl = along_l
    a0, a1, ra = along_a
    b0, b1, rb = along_b
    for ink in range(np.uint64(inks)):
        c00 = _between(np.int64(flat[l0 + a0 + b0 + ink]), np.int64(flat[l1 + a0 + b0 + ink]), rl)
        c01 = _between(np.int64(flat[l0 + a0 + b1 + ink]), np.int64(flat[l1 + a0 + b1 + ink]), rl)
        c10 = _between(np.int64(flat[l0 + a1 + b0 + ink]), np.int64(flat[l1 + a1 + b0 + ink]), rl)
        c11 = _between(np.int64(flat[l0 + a1 + b1 + ink]), np.int64(flat[l1 + a1 + b1 + ink]), rl)
        found = _between(_between(c00, c10, ra), _between(c01, c11, ra), rb)
        code = np.int64(outputs[ink, np.uint64(found)])
        out[row, ink] = (code * 65281 + 8388608) >> 24 if eight else code


def inks_by_tables(
    first,
    last,
    rgb,
    light,
    light_codes,
    colorants,
    matching,
    matched,
    roots,
    root_count,
    scale,
    lab_scale,
    inputs,
    grid,
    nl,
    na,
    nb,
    inks,
    outputs,
    margin,
    written,
    doubtful,
):
    """Codes rgb (n, 3) to inks written (n, inks) of 8 or 16 bit.

    `light` (3, light_codes) float32: how much light each code of a channel is, and `colorants` (channels, X Y Z) what all
    of it is, encoded; `matching` (3, 3): factors and summands for that where it is `matched`, and what it is of white
    then; `roots` (root_count,) at steps of 1/`scale`; `lab_scale`: what the encoding of Lab is multiplied by; `inputs`
    (3, 65536), `grid` (nl, na, nb, inks) and `outputs` (inks, 65536): codes of 16 bit. Between the nodes of a grid over
    Lab, LittleCMS interpolates along the three axes. `doubtful` (n,) uint8: whether Lab comes within `margin` of where
    another code of it begins.
    """
    pixels, out, doubts = carray(rgb, (last, 3)), carray(written, (last, inks)), carray(doubtful, (last,))
    lights, parts, matches = carray(light, (3, light_codes)), carray(colorants, (3, 3)), carray(matching, (3, 3))
    cubes, before, after = carray(roots, (root_count,)), carray(inputs, (3, 65536)), carray(outputs, (inks, 65536))
    flat = carray(grid, (nl * na * nb * inks,))
    eight = out.itemsize == 1
    for at in range(first, last):
        row = np.uint64(at)
        red = np.float64(lights[0, pixels[row, 0]])
        green = np.float64(lights[1, pixels[row, 1]])
        blue = np.float64(lights[2, pixels[row, 2]])
        x = red * parts[0, 0] + green * parts[1, 0] + blue * parts[2, 0]
        y = red * parts[0, 1] + green * parts[1, 1] + blue * parts[2, 1]
        z = red * parts[0, 2] + green * parts[1, 2] + blue * parts[2, 2]
        fx = _root(_relative(x, 0, matches, matched), cubes, scale)
        fy = _root(_relative(y, 1, matches, matched), cubes, scale)
        fz = _root(_relative(z, 2, matches, matched), cubes, scale)
        at_l = _place(1.16 * fy - 0.16, lab_scale)
        at_a = _place((500.0 * (fx - fy) + 128.0) * (1 / 255), lab_scale)
        at_b = _place((200.0 * (fy - fz) + 128.0) * (1 / 255), lab_scale)
        doubts[row] = _near(at_l, margin) or _near(at_a, margin) or _near(at_b, margin)
        along_l = _cell(before[0, _code(at_l)], nl, na * nb * inks)
        along_a = _cell(before[1, _code(at_a)], na, nb * inks)
        along_b = _cell(before[2, _code(at_b)], nb, inks)
        # Where the number is known beforehand, the compiler takes all four at once.
        if inks == _FOUR:
            _interpolated(flat, along_l, along_a, along_b, 4, after, eight, out, row)
        else:
            _interpolated(flat, along_l, along_a, along_b, inks, after, eight, out, row)
