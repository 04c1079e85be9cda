"""Artwork: taken in, kept as it came, shown."""
