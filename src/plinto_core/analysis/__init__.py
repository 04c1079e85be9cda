"""Figures of pictures and lists through a line: coverage, differences, the biggest hits, histograms, clouds, palettes."""
