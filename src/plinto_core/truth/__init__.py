"""What a line of stations does to colors, in the figures that a color specialist judges it by.

Tests use these at small size, `make bench` at full size, beside the aims of `docs/measures.md`.
"""
