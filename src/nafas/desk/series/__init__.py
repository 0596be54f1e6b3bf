"""A series in the window: its table of variants, and what is done with them."""
