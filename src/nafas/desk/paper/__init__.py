"""Pages on paper: the session sheet and the call sheet."""
