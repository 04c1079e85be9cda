"""PDF documents: opened, walked color by color, inspected (ISO 32000-2)."""
