"""The handbook's window."""
