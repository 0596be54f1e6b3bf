"""Chimes: their sounds and their places."""
