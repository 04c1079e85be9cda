"""Kernels kept as machine code: exact, and called without their compiler."""

import math
import os
import subprocess
import sys

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numba import carray

from plinto_core.analysis.coverage_meter import CoverageMeter
from plinto_core.chain.link import Link, nodes_used
from plinto_core.chain.spread import EVEN, Spread, cells_by_code
from plinto_core.compiled_kernels import compiled
from plinto_core.cores import cores
from plinto_core.ready_kernels import ROWS, ReadyKernel

ONE = 1 << 15


def by_hand(link, pixels, depth):
    """Ink codes as whole-number arithmetic has them, one pixel after the other, without a limit of a word's size."""
    points, channels = link.points, link.channels
    places = cells_by_code(pixels.dtype, points, link.spread).astype(int)
    top, unit = (255, 257) if depth == 8 else (65535, 1)
    caps, total = np.floor(link.caps * top + 1e-6).astype(int), int(np.floor(link.total * top + 1e-6))
    out = []
    for pixel in pixels:
        place = places[pixel]
        cell = np.minimum(place >> 15, points - 2)
        rest = place - (cell << 15)
        corner, at, weights, nodes = cell.copy(), ONE, [], []
        for axis in sorted(range(channels), key=lambda k: -rest[k]):
            weights.append(at - rest[axis])
            nodes.append(corner.copy())
            at = rest[axis]
            corner[axis] += 1
        weights.append(at)
        nodes.append(corner)
        rows = [int(np.ravel_multi_index(node, (points,) * channels)) for node in nodes]
        sums = sum(weight * link.nodes[row].astype(int) for weight, row in zip(weights, rows, strict=True))
        codes = np.minimum((sums + unit * ONE // 2) // (unit * ONE), caps)
        out.append(codes if codes.sum() <= total else sums // (unit * ONE))
    return np.array(out)


@settings(max_examples=40)
@given(
    inks=st.integers(1, 8), channels=st.sampled_from([3, 4]), kind=st.sampled_from([np.uint8, np.uint16]),
    depth=st.sampled_from([8, 16]), spread=st.sampled_from([EVEN, Spread(0.6, 0.85)]), share=st.floats(0.2, 1),
    seed=st.integers(0, 2**32 - 1),
)  # fmt: skip
def test_pictures_through_a_grid_are_exact_sums(inks, channels, kind, depth, spread, share, seed):
    """Products of 16 bits, whose signs have to be turned, and sums of two words of inks: nothing may overflow."""
    random = np.random.default_rng(seed)
    points = 5
    caps, total = random.uniform(0.7, 1, inks).clip(0, 1), share * inks
    nodes = random.choice([0, 1, 32767, 32768, 65535], (points**channels, inks)) * np.minimum(1, total / inks)
    nodes = np.floor(np.minimum(nodes, caps * 65535)).astype(np.uint16)
    link = Link(tuple("CMYKOGVB"[:inks]), points, nodes, caps, total, "", channels, spread)
    top = np.iinfo(kind).max
    pixels = random.integers(0, top + 1, (60, channels)).astype(kind)
    pixels[:20] = random.choice([0, 1, top // 2, top - 1, top], (20, channels))
    assert np.array_equal(link.inks_of(pixels, depth), by_hand(link, pixels, depth))


def test_sums_become_codes_of_8_bits_exactly():
    """Every sum of one node: 16 bits divided by 257, rounded to the nearest code."""
    corners = np.array(list(np.ndindex(2, 2, 2)), np.uint16) * 65535
    for nodes in np.arange(65536, dtype=np.uint16).reshape(-1, 8, 4):
        link = Link(tuple("CMYK"), 2, nodes, np.ones(4), 4.0, "")
        assert np.array_equal(link.inks_of(corners, 8), (nodes.astype(int) + 128) // 257)


def test_shares_of_rows_are_put_together_as_one():
    """Rows are shared out by blocks; what is counted over all of them is the same on one core."""
    random = np.random.default_rng(3)
    codes = random.integers(0, 250, (3 * ROWS + 17, 5), dtype=np.uint8)
    codes[[ROWS + 5, 2 * ROWS + 1]] = 255
    told = []
    for most in (1, 2):
        meter = CoverageMeter(5, 8, 300)
        with cores(most):
            meter.add(codes[:100])
            meter.add(codes[100:])
        told.append((meter.largest_at, meter.largest_code_sum, meter.over, meter.mean_percent, meter.histogram))
    sums = codes.astype(int).sum(axis=1)
    assert told[0] == told[1]
    assert told[0][:3] == (ROWS + 5, 5 * 255, int((sums > 3 * 255).sum()))
    assert np.allclose(told[0][3], codes.mean(axis=0) / 255 * 100)


def test_nodes_of_a_picture_are_remembered_only_while_nobody_can_change_it():
    picture = np.zeros((4, 4, 3), np.uint8)
    dark = nodes_used(picture, 9)
    picture[:] = 255
    light = nodes_used(picture, 9)
    assert dark.sum() == light.sum() and not (dark & light).any()
    still = picture.copy()
    still.setflags(write=False)
    assert nodes_used(still, 9) is nodes_used(still, 9)
    assert np.array_equal(nodes_used(still, 9), light)
    assert len(nodes_used(still, 5)) == 125
    assert np.array_equal(nodes_used(still, 9, Spread(0.6, 0.85)), nodes_used(picture, 9, Spread(0.6, 0.85)))


def test_a_kernel_takes_no_array_that_it_would_misread():
    kernel = ReadyKernel("plinto_core.analysis.coverage_kernels", "measure_coverage")
    for wrong in (np.zeros((4, 4), np.uint8)[:, ::2], np.zeros((4, 4), ">u2")):
        with pytest.raises(ValueError, match="C order and in the machine's own byte order"):
            kernel(4, wrong)
    meter = CoverageMeter(4, 8)
    meter.add(np.zeros((0, 5, 4), np.uint8))
    assert (meter.largest_code_sum, meter.mean_percent, sum(meter.histogram)) == (0, [0] * 4, 0)


LOOK = """
import sys
import numpy as np
from plinto_core.chain.link import Link, nodes_used
link = Link(tuple("CMYK"), 2, np.full((8, 4), 40000, np.uint16), np.ones(4), 4.0, "")
print(link.inks_of(np.zeros((1, 3), np.uint8)).tolist(), "numba" in sys.modules)
"""


#: Five times as light as paper: beyond the table of cube roots, where the C library's own function was called.
LOOK_BEYOND = """
import sys
import numpy as np
from plinto_core.icc.standard import rgb_profile
from plinto_core.icc.table_steps import TableSteps
codes = np.tile(np.arange(65536, dtype=np.uint16), (4, 1))
grid = np.arange(32, dtype=np.uint16).reshape(2, 2, 2, 4) * 2000
matching = np.array([[1.0] * 3, [0.0] * 3, [5.0] * 3])
steps = TableSteps(rgb_profile("ROMM"), np.eye(3), matching, False, 1.0, codes[:3], grid, codes)
colors = np.array([[255, 200, 255], [0, 9, 0]], np.uint8)
found = [steps.inks(colors, np.dtype(np.uint16))[0].tolist()]
for nothing in (np.inf, np.nan):
    matching[2] = nothing
    found.append(steps.inks(colors, np.dtype(np.uint16))[0].tolist())
print(found, "numba" in sys.modules)
"""


def look_in_another_process(script, folder):
    """What a script prints in a process of its own, its kernels kept in a folder: figures, and whether numba was loaded."""
    env = {**os.environ, "NUMBA_CACHE_DIR": str(folder)}
    done = subprocess.run([sys.executable, "-c", script], env=env, capture_output=True, text=True, check=True)
    return done.stdout.split("] ")


def test_what_was_compiled_once_needs_no_compiler(tmp_path):
    """Numba's own start took two of the 2.6 seconds that a small picture took."""
    codes = "[[156, 156, 156, 156]"
    assert look_in_another_process(LOOK, tmp_path) == [codes, "True\n"]
    assert look_in_another_process(LOOK, tmp_path) == [codes, "False\n"]
    # A damaged file is no kernel: it is made anew.
    (kept,) = (tmp_path / "ready").glob("*.o")
    kept.write_bytes(kept.read_bytes()[:-40])
    assert look_in_another_process(LOOK, tmp_path) == [codes, "True\n"]
    assert look_in_another_process(LOOK, tmp_path) == [codes, "False\n"]


def test_what_a_kernel_calls_is_there_without_the_compiler(tmp_path):
    """Absolute, from a bright source onto newsprint, as profiled: the process was gone (SIGSEGV), for `pow` was nowhere."""
    first, again = (look_in_another_process(LOOK_BEYOND, tmp_path) for _ in range(2))
    assert first[0] == again[0] and (first[1], again[1]) == ("True\n", "False\n")


def beyond_the_library(first, last, out):
    """A kernel that calls what is in no library."""
    values = carray(out, (last,))
    values[first] = math.lgamma(values[first])


def test_a_kernel_that_calls_what_is_nowhere_is_not_made():
    with pytest.raises(NotImplementedError, match="calls lgamma"):
        compiled(__name__, "beyond_the_library", ("float64*",))
