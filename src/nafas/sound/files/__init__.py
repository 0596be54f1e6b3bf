"""Files of sound written whole: formats, dither, tags."""
