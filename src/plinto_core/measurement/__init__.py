"""Measurements and charts: CGATS and CxF in, CGATS out."""
