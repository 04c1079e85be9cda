"""Work on single plates after the inks are found: curves, smallest dot, bump, gain, shadows."""
