"""Forward models: what ink values will look like on the substrate."""
