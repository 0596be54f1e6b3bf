"""The ledger in the window."""
