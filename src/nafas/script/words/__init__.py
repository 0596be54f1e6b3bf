"""Words: languages, what a session says of its own accord, and the usual cautions."""
