"""One script, many recordings: a table of variants, planned, put into other words, and rendered where they changed."""
