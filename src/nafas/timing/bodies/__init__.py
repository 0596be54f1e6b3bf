"""The bodies of blocks: what happens inside each kind, in whole ticks from its start."""
