"""Color lists, and what becomes of them step by step along a route of profiles."""
