"""PostgreSQL with one writer at a time: a database backend that Django loads by this package's name."""
