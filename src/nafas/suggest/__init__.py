"""Everything that proposes a changed session: only the person takes it."""
