"""Rehearsing and performing a session: what is seen at a moment, marks, breathing along, and how a performance went."""
