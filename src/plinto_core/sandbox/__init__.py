"""Whatever comes from outside is decoded in a process of its own, with limits on memory, time and output."""
