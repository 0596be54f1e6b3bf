"""Narrators: engines that read a line aloud, and which clip a line gets."""
