"""The command line, one file a family of commands."""
