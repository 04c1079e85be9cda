"""Inks by their names and letters, and printers driven by RGB."""
