"""What is drawn of a line on a screen."""
