"""What is kept on disk: found again, made again when damaged, and never half there."""

import os
import subprocess
import sys
from dataclasses import replace

import numpy as np
import pytest

from plinto_core.adjust.regions import PixelGrid
from plinto_core.chain.compiled import compile_recipe
from plinto_core.chain.library import Library
from plinto_core.chain.node_store import NodeStore, forget_nodes
from plinto_core.errors import IccError
from plinto_core.files import write_whole
from plinto_core.icc.standard import rgb_profile
from plinto_core.recipe import AdjustStation, AimStation, InkStation, Recipe
from plinto_core.recipe.adjustment import Adjustment
from plinto_core.recipe.limits import InkLimits
from plinto_core.recipe.region import Region
from tests.conftest import profile_of


def test_tables_are_kept_found_again_and_made_again_when_damaged(tmp_path):
    profile = profile_of("cotton-54t")
    first = Library(tmp_path).condition(profile)
    (kept,) = tmp_path.iterdir()
    stamp = kept.stat().st_mtime_ns
    again = Library(tmp_path).condition(profile)
    assert kept.stat().st_mtime_ns == stamp
    assert np.array_equal(first.tables.inks, again.tables.inks)
    kept.write_bytes(kept.read_bytes()[:1000])
    mended = Library(tmp_path).condition(profile)
    assert np.array_equal(first.tables.inks, mended.tables.inks)
    assert kept.stat().st_size > 1000


def test_one_library_computes_a_condition_once(tmp_path):
    library = Library(tmp_path)
    assert library.condition(profile_of("tern-news-45")) is library.condition(profile_of("tern-news-45"))
    with pytest.raises(IccError, match="no output profile"):
        library.condition(rgb_profile("P3"))


def test_files_appear_whole_or_not_at_all(tmp_path):
    target = tmp_path / "a.bin"

    def half(part):
        part.write_bytes(b"half")
        raise RuntimeError("killed here")

    with pytest.raises(RuntimeError):
        write_whole(target, half)
    assert list(tmp_path.iterdir()) == []
    write_whole(target, lambda part: part.write_bytes(b"whole"))
    assert target.read_bytes() == b"whole"
    with pytest.raises(RuntimeError):
        write_whole(target, half)
    assert target.read_bytes() == b"whole"
    write_whole(tmp_path / ("n" * 200), lambda part: part.write_bytes(b""))


def test_threads_that_wait_do_not_spin_by_the_time_that_kernels_run():
    """Two processes on the same cores kept each other from working: 376 s for what takes 156."""
    code = "import plinto_core.press.grid_kernels, os; print(os.environ['OMP_WAIT_POLICY'])"
    env = {key: value for key, value in os.environ.items() if key != "OMP_WAIT_POLICY"}
    said = subprocess.run([sys.executable, "-c", code], env=env, capture_output=True, text=True, check=True).stdout
    assert said.strip() == "passive"


PLACES = PixelGrid.rows(0, 60, 80, 60)
RECIPE = Recipe(aim=AimStation("perceptual"), ink=InkStation("rebuilt"))


def line_in(folder, recipe=RECIPE, source="sRGB"):
    """The line as a process that begins with this folder has it."""
    return compile_recipe(recipe, Library(folder).condition(profile_of("cotton-54t")), rgb_profile(source))


def test_what_one_process_solved_the_next_one_does_not_solve_again(tmp_path, photo):
    first = line_in(tmp_path)
    written = first.link_for(photo).inks_of(photo, 16)
    first.keep_nodes()
    again = line_in(tmp_path)
    assert np.array_equal(again.link_for(photo).inks_of(photo, 16), written)
    assert "inverse" not in again.__dict__
    # A picture of other colors: only what is missing is solved, and the whole link is none but that of a fresh start.
    other = np.roll(photo, 1, axis=-1)
    fresh = line_in(tmp_path / "empty")
    assert np.array_equal(again.link_for(other).inks_of(other, 16), fresh.link_for(other).inks_of(other, 16))
    again.keep_nodes()
    assert np.array_equal(line_in(tmp_path).baked.nodes, fresh.baked.nodes)
    assert line_in(tmp_path).baked.digest == fresh.baked.digest
    # Too little to write it all again for; and nodes of a condition that is gone go along.
    (kept,) = tmp_path.glob("nodes-*")
    stamp = kept.stat().st_mtime_ns
    again.keep_nodes()
    assert kept.stat().st_mtime_ns == stamp
    forget_nodes(tmp_path, profile_of("tern-news-45").digest)
    assert kept.exists()
    forget_nodes(tmp_path, profile_of("cotton-54t").digest)
    assert not kept.exists()


def test_kept_nodes_are_those_of_this_very_line(tmp_path, photo):
    """Anything that moves an ink asks for other nodes; a region has its own, and black kept to one takes it elsewhere."""
    corners = (0.1, 0.1), (0.6, 0.1), (0.6, 0.6)
    region = Region("sky", corners, adjustment=Adjustment(chroma_percent=30))
    recipes = [
        RECIPE,
        replace(RECIPE, aim=AimStation("relative")),
        replace(RECIPE, aim=AimStation("relative", False)),
        replace(RECIPE, ink=replace(RECIPE.ink, limits=InkLimits(210))),
        replace(RECIPE, ink=replace(RECIPE.ink, without=("Y",))),
        replace(RECIPE, adjust=AdjustStation(Adjustment(chroma_percent=10))),
        replace(RECIPE, adjust=AdjustStation(regions=(region,))),
        replace(RECIPE, adjust=AdjustStation(regions=(replace(region, black="only"),))),
    ]
    lines = [*((recipe, "sRGB") for recipe in recipes), (RECIPE, "opRGB")]
    written, small = {}, photo[::4, ::4]
    for at, (recipe, source) in enumerate(lines):
        line = line_in(tmp_path, recipe, source)
        written[at] = line.separated(small, PLACES, 16)
        line.keep_nodes()
    for at, (recipe, source) in enumerate(lines):
        without = replace(line_in(tmp_path).condition, nodes=None)
        alone = compile_recipe(recipe, without, rgb_profile(source)).separated(small, PLACES, 16)
        assert np.array_equal(line_in(tmp_path, recipe, source).separated(small, PLACES, 16), alone)
        assert np.array_equal(written[at], alone)


def test_damaged_nodes_are_solved_again_and_the_oldest_make_room(tmp_path, photo):
    line = line_in(tmp_path)
    written = line.link_for(photo).inks_of(photo)
    line.keep_nodes()
    (kept,) = tmp_path.glob("nodes-*")
    whole = kept.read_bytes()
    for damaged in (whole[:900], whole[:400_000] + bytes([whole[400_000] ^ 255]) + whole[400_001:], b""):
        kept.write_bytes(damaged)
        again = line_in(tmp_path)
        assert np.array_equal(again.link_for(photo).inks_of(photo), written)
        assert "inverse" in again.__dict__
    nodes, solved = np.zeros((1000, 4), np.uint16), np.ones(1000, np.bool_)
    store = NodeStore(tmp_path / "small", most_bytes=40_000)
    for at in range(8):
        store.keep("a", f"line {at}", nodes, solved)
        os.utime(store._path("a", f"line {at}"), (at, at))
    store.keep("a", "last", nodes, solved)
    left = [at for at in range(8) if store.load("a", f"line {at}", nodes.shape)]
    assert left == [5, 6, 7]
    assert store.load("a", "last", (10, 4)) is None
