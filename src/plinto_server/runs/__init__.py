"""Runs: separations made in the background."""
