"""Edits: each takes a session and gives a new one; undo, and the clipboard."""
