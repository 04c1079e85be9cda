"""Batches: artworks and documents by the hundred, each through its conditions or outputs."""
