"""Nafas: script, time, mix and prove guided breathing recordings."""

__version__ = "0.1.0"
