"""The library: patterns and whole sessions to start from, shipped and one's own."""
