"""Nafas: script, time, mix and prove guided breathing recordings."""

__version__ = "0.2.0"
