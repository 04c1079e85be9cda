"""Plinto's computation: RGB artwork to inks, and back to what will be seen on the substrate."""

import os

# Kernels run from several threads of a server at once, which numba's own default layer does not survive.
os.environ.setdefault("NUMBA_THREADING_LAYER", "threadsafe")

__version__ = "0.3.0"
