"""Pictures in: opened, decoded in bands, flattened, kept in levels, written as new versions."""
