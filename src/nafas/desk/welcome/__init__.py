"""The page that stands before any session is open: three ways in, and recent sessions."""
