"""Characterizations: the path from a new medium to a judged profile, step by step."""
