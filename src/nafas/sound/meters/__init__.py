"""Measuring: loudness and true peak, of a whole programme in one pass."""
