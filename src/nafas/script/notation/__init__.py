"""Breath notation: read, written, and one typed line read as a block."""
