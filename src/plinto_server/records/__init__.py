"""What people agree on has a history: who changed what, when, how it was before, and the way back."""
