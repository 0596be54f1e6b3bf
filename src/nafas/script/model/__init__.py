"""The models: a session and everything in it, immutable; at once the file's schema and its validation."""
