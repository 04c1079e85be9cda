"""The made-up shop: Quillmere Print Works, its inks, presses, instruments and artwork, all simulated."""
