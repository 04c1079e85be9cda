"""Plinto's computation: RGB artwork to inks, and back to what will be seen on the substrate."""

__version__ = "0.1.0"
