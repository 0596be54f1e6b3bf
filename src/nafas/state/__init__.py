"""What Nafas keeps between runs, apart from sessions: unsaved work, recent files, which outside files may be read.

All of it lives in one folder; `NAFAS_STATE` overrides the platform's place. Losing it loses no session file.
"""
