"""A written script in and out: any text becomes a session, and a session a text that people like to read."""
