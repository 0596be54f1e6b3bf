"""The master: gain, limiter, loudness, true peak, and the render."""
