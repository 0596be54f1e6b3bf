"""Recording line by line, from a microphone or the practice microphone."""
