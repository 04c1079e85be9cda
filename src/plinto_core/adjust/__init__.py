"""Edits on the artwork's own numbers before it is separated, everywhere or in a region."""
