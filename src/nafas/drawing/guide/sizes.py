"""The sizes and frame rates of a guide video; without Qt, for what checks a request."""

SIZES = {"1080p": (1920, 1080), "720p": (1280, 720), "square": (1080, 1080)}
RATES = (25, 30, 60)
