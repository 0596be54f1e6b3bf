"""Work on many cores: shares of one programme, things each in a process of its own, and blocks made ahead of their use.

`shares` works in threads, or in forked processes where the program allows it; the first fault stops all of it.
`processes` gives each thing a new process; one that fails stops no other. `ahead` keeps what it makes in order.
"""
