"""What is kept on disk: found again, made again when damaged, and never half there."""

import os
import subprocess
import sys

import numpy as np
import pytest

from plinto_core.chain.library import Library
from plinto_core.errors import IccError
from plinto_core.files import write_whole
from plinto_core.icc.standard import rgb_profile
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
