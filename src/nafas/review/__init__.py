"""Judgement of what was made: checks of a session, the audit of a recording, the proof of a file.

Knows every room below; changes nothing it looks at.
"""
