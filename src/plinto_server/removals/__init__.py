"""What was removed a moment ago: kept whole for a while, so that it can be brought back."""
