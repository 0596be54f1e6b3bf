"""Checks of a session: what its words promise, what is safe, what a listener would stumble on, how it sounds."""
