"""Color lists and routes: kept, looked at a page at a time, written as profiles."""
