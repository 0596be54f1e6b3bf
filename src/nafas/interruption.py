"""Ctrl-C at any moment. An interrupt in the middle of an import may come out as that module's own error, so whoever
meets an error can ask whether there was one."""

import signal
import sys

_happened = _watching = False


def watch() -> None:
    """From now on the first Ctrl-C raises KeyboardInterrupt; a second must not break into the ending."""

    def interrupt(number: int, frame: object) -> None:
        global _happened
        _happened = True
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        raise KeyboardInterrupt

    usual = sys.unraisablehook

    def again(lost: "sys.UnraisableHookArgs") -> None:
        """An interrupt that fell into a callback, where nobody can catch it, comes once more in a moment."""
        if not isinstance(lost.exc_value, KeyboardInterrupt):
            usual(lost)
            return
        signal.signal(signal.SIGALRM, interrupt)
        signal.setitimer(signal.ITIMER_REAL, 0.01)

    signal.signal(signal.SIGINT, interrupt)
    sys.unraisablehook = again
    global _watching
    _watching = True


def watching() -> bool:
    """Whether this process is the program's own, and not one that has only imported it."""
    return _watching


def happened() -> bool:
    """Whether the person has stopped this process."""
    return _happened


def ignore() -> None:
    """The work is done: the interpreter's own ending is not interrupted any more."""
    signal.setitimer(signal.ITIMER_REAL, 0)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
