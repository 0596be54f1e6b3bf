"""The page that stands before any session is open: three ways in, and what was open lately."""
