"""Handing a session over from the window, and what of a delivery needs a drawing."""
