"""A conversion of colors is a value: stages between spaces, applied, traced, joined."""
