"""Printing conditions of the house."""
