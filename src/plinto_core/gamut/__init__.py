"""How far colors reach, and how colors beyond are brought inside."""
