"""What is decided about each kind of color of a job: rows, delivery rules, conversions. A decision is data."""
