"""The Bench: recipes with undo, pictures, figures, pins."""
