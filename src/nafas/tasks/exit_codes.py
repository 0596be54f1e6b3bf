"""The exit codes of every command, in one list."""

from enum import IntEnum


class ExitCode(IntEnum):
    """How a task or a command ended."""

    DONE = 0
    REFUSED = 1
    USAGE = 2
    OUT_OF_REACH = 3
    FAULT = 4
    NOT_PROVEN = 5
    FOUND = 6
    STOPPED = 130


MEANINGS = {
    ExitCode.DONE: "Done.",
    ExitCode.REFUSED: "The input is at fault; one line says where and what to do.",
    ExitCode.USAGE: "Usage: a command, an option or its value that there is not.",
    ExitCode.OUT_OF_REACH: "The loudness asked for is out of reach; nothing was written.",
    ExitCode.FAULT: "A fault of Nafas itself, which the log has.",
    ExitCode.NOT_PROVEN: "A file was written or read, and its proof does not hold.",
    ExitCode.FOUND: "The review found something that must or should be changed.",
    ExitCode.STOPPED: "It was stopped (Ctrl-C); nothing was left half done.",
}
"""What each says, for the README, the manual page and `docs/`."""
