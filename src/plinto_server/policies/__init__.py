"""Outputs with their policies and delivery rules; documents sent through them."""
