"""Plinto's computation: RGB artwork to inks, and back to what will be seen on the substrate."""

import os

# Kernels run from several threads of a server at once, which numba's own default layer does not survive.
os.environ.setdefault("NUMBA_THREADING_LAYER", "threadsafe")
# Threads that wait for each other sleep. By default they spin, and two processes on the same cores (web and worker, or two
# workers) then keep each other from working: the same work at once in two processes took 376 s, and takes 156.
os.environ.setdefault("OMP_WAIT_POLICY", "passive")
# Kernels share out their rows themselves, and matrices are small but for a chart's: two threads of OpenBLAS beside another
# process took 12.9 s of the clock and 7.4 s of a core for the decomposition that one thread alone does in 1.1.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.4.7"
