"""Completion of the shell, by shtab from the parser."""

import argparse
from pathlib import Path
from typing import Any

from nafas.errors import InputError

SHELLS = {
    "bash": "bash-completion/completions/nafas",
    "zsh": "zsh/site-functions/_nafas",
    "fish": "fish/vendor_completions.d/nafas.fish",
}
"""Where each shell looks for it in a folder of shared data."""


def completion(parser: argparse.ArgumentParser, shell: str) -> str:
    """The script for a shell, one of `SHELLS`. Raises InputError for another."""
    if shell not in SHELLS:
        raise InputError(shell, "has no completion here", f"use {' or '.join(SHELLS)}")
    import shtab

    _name_files(parser)
    script: str = shtab.complete(parser, shell)
    return script


def _name_files(parser: argparse.ArgumentParser) -> None:
    """What is a path is completed by the names of files."""
    import shtab

    for action in parser._actions:
        if isinstance(action, argparse._SubParsersAction):
            for command in action.choices.values():
                _name_files(command)
        elif action.type is Path:
            taken: Any = action
            taken.complete = shtab.FILE
