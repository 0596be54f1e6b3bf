"""The folder of state, and small JSON files in it that may be missing, broken or unwritable."""

import contextlib
import json
import os
from pathlib import Path
from typing import Any

from nafas.errors import InputError
from nafas.files import read_whole, reason, write_whole

_MOST_BYTES = 1_000_000


def state_folder() -> Path:
    """Where state is kept."""
    chosen = os.environ.get("NAFAS_STATE")
    if chosen:
        return Path(chosen)
    import platformdirs

    return platformdirs.user_state_path("nafas")


def cache_folder() -> Path:
    """Where is kept what can be made again, as read lines; `NAFAS_CACHE` overrides the platform's place."""
    chosen = os.environ.get("NAFAS_CACHE")
    if chosen:
        return Path(chosen)
    import platformdirs

    return platformdirs.user_cache_path("nafas")


def made(folder: Path) -> Path:
    """The folder, made where it is missing. Raises InputError."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise InputError(str(folder), f"cannot be made ({reason(error)})", "allow writing there") from None
    return folder


def read_names(name: str) -> list[str]:
    """The texts of a list kept under a name; what is no such list is []."""
    with contextlib.suppress(InputError, ValueError, RecursionError):
        names: Any = json.loads(read_whole(state_folder() / name, _MOST_BYTES))
        if isinstance(names, list):
            return [each for each in names if isinstance(each, str) and "\0" not in each]
    return []


def write_names(name: str, texts: list[str]) -> None:
    """Keep a list of texts under a name; a full disk is no reason to complain: it is a convenience."""
    with contextlib.suppress(InputError):
        write_whole(made(state_folder()) / name, json.dumps(texts).encode())
