"""A finished or performed recording put to the test: what is heard in it, how evenly, and what went wrong."""
