"""The felt beat of a spoken clip."""
