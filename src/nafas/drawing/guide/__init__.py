"""The breathing guide as a picture, and as a video."""
