"""Plinto over HTTP: people, files, recipes, runs. It computes no color."""
