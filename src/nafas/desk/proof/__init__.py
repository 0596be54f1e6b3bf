"""The proof of a finished file as a picture, and as a page."""
