"""Plinto's computation: RGB artwork to inks, and back to what will be seen on the substrate."""

import os

# Kernels run from several threads of a server at once, which numba's own default layer does not survive.
os.environ.setdefault("NUMBA_THREADING_LAYER", "threadsafe")
# Threads that wait for each other sleep. By default they spin, and two processes on the same cores (web and worker, or two
# workers) then keep each other from working: the same work at once in two processes took 376 s, and takes 156.
os.environ.setdefault("OMP_WAIT_POLICY", "passive")

__version__ = "0.4.4"
