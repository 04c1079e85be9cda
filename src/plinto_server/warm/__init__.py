"""What is kept in memory between requests, by how long it holds and by how many bytes it takes."""
