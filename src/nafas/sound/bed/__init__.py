"""Beds: made and recorded, where they loop, and which sounds when."""
