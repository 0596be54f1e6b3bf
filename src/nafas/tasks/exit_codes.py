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
    ExitCode.REFUSED: "The input is wrong; one line says where and how to fix it.",
    ExitCode.USAGE: "Usage: an unknown command, option or value.",
    ExitCode.OUT_OF_REACH: "The target loudness cannot be reached; nothing was written.",
    ExitCode.FAULT: "An error in Nafas; the log has the details.",
    ExitCode.NOT_PROVEN: "A file was written or read, and its proof does not hold.",
    ExitCode.FOUND: "The review found something that must or should be changed.",
    ExitCode.STOPPED: "It was stopped (Ctrl-C); no unfinished file is left.",
}
"""What each says, for the README, the manual page and the handbook."""
