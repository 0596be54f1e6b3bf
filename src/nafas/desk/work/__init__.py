"""Background work of the window."""
