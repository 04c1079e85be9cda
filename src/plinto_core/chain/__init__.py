"""A color goes down a line of stations, and a line can be baked into a link."""
