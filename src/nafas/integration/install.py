"""Nafas put into a person's menu: what a desktop wants is written into the folder of their data, or taken out again."""

import argparse
import json
import os
import shutil
import subprocess
import sys
from collections.abc import Callable, Mapping
from contextlib import suppress
from datetime import UTC, date, datetime
from functools import partial
from pathlib import Path

from nafas.errors import InputError
from nafas.files import digest_of, file_digest, read_whole, reason, write_whole
from nafas.integration.completion import SHELLS, completion
from nafas.integration.desktop_files import DATA, ICONS, SIZES, desktop_entry, mime_package, software_data
from nafas.integration.man_page import man_page
from nafas.state.folder import made, state_folder

_TOOLS = (
    ("update-mime-database", "mime"),
    ("update-desktop-database", "applications"),
    ("gtk-update-icon-cache", "icons/hicolor"),
)
"""What desktops look files up in is made again by these, where they are there; else at the next login."""


def data_folder() -> Path:
    """Of a person's own data: `XDG_DATA_HOME`, or ~/.local/share (XDG Base Directory 0.8)."""
    chosen = os.environ.get("XDG_DATA_HOME", "")
    return Path(chosen) if chosen.startswith("/") else Path.home() / ".local" / "share"


def command_path() -> str:
    """The absolute path of the `nafas` command of this installation. Raises InputError where there is none."""
    next_to_python = Path(sys.executable).parent / "nafas"
    command = str(next_to_python) if next_to_python.is_file() else shutil.which("nafas")
    if command is None:
        raise InputError("nafas", "has no command here", "install Nafas, or run ./demo once, which does")
    return command


def install(parser: argparse.ArgumentParser, exit_codes: Mapping[int, str], folder: Path, command: str) -> list[Path]:
    """Write everything; what is there from before is replaced.

    Args:
        parser: of the whole command, for the manual page and completion.
        exit_codes: what each means.
        folder: of data.
        command: the absolute path of `nafas`.

    Raises:
        InputError: something cannot be written; what was written before it stays and is replaced the next time.
    """
    made, known = [], _known(folder)
    for path, data in _files(parser, exit_codes, command).items():
        whole = folder / path
        if whole.is_symlink() or (whole.exists() and file_digest(whole) != known.get(path)):
            raise InputError(str(whole), "is there already, and not from here", "move it away, then install again")
        try:
            whole.parent.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise InputError(str(whole.parent), f"cannot be made ({reason(error)})", "allow writing there") from None
        written = data()
        write_whole(whole, written)
        made.append(whole)
        known[path] = digest_of(written)
        _note(folder, known)
    _look_anew(folder)
    return made


def uninstall(folder: Path) -> list[Path]:
    """Take out what `install` wrote and nobody has changed since, and the folders that are empty then.

    Raises:
        InputError: something cannot be removed.
    """
    gone = []
    for path, digest in _known(folder).items():
        whole = folder / path
        try:
            if not whole.is_symlink() and whole.is_file() and file_digest(whole) == digest:
                whole.unlink()
                gone.append(whole)
        except OSError as error:
            raise InputError(str(whole), f"cannot be removed ({reason(error)})", "allow writing there") from None
    _look_anew(folder)
    for parent in sorted(
        {parent for whole in gone for parent in whole.parents if folder in parent.parents}, reverse=True
    ):
        with suppress(OSError):  # what others put there stays, and so does the folder
            parent.rmdir()
    _note(folder, {})
    return gone


def _list(folder: Path) -> Path:
    """Where is noted what stands in a folder of data from here."""
    return state_folder() / f"installed-{digest_of(str(folder.absolute()).encode())[:16]}.json"


def _known(folder: Path) -> dict[str, str]:
    """SHA-256 of each file that was installed, by its place in the folder."""
    with suppress(InputError, ValueError, RecursionError):
        raw = json.loads(read_whole(_list(folder), 1_000_000))
        return {path: digest for path, digest in raw.items() if path in _places() and isinstance(digest, str)}
    return {}


def _note(folder: Path, known: Mapping[str, str]) -> None:
    if known:
        write_whole(made(state_folder()) / _list(folder).name, json.dumps(known, indent=1).encode())
    else:
        _list(folder).unlink(missing_ok=True)


def _files(
    parser: argparse.ArgumentParser, exit_codes: Mapping[int, str], command: str
) -> dict[str, Callable[[], bytes]]:
    """What is in each place, from the folder of data."""
    today = _day()
    texts: dict[str, Callable[[], str]] = {
        "applications/nafas.desktop": lambda: desktop_entry(command),
        "mime/packages/nafas.xml": mime_package,
        "metainfo/nafas.metainfo.xml": lambda: software_data(today),
        "man/man1/nafas.1": lambda: man_page(parser, today, exit_codes),
    }
    texts |= {path: partial(completion, parser, shell) for shell, path in SHELLS.items()}
    files: dict[str, Callable[[], bytes]] = {path: partial(_encoded, make) for path, make in texts.items()}
    files |= {path: source.read_bytes for path, source in _icons().items()}
    return files


def _encoded(make: Callable[[], str]) -> bytes:
    return make().encode()


def _icons() -> dict[str, Path]:
    """Where each icon goes: programs and file types have folders of their own."""
    icons = {}
    for name in ICONS:
        kind = "apps" if name == "nafas" else "mimetypes"
        icons[f"icons/hicolor/scalable/{kind}/{name}.svg"] = DATA / f"{name}.svg"
        for size in SIZES:
            icons[f"icons/hicolor/{size}x{size}/{kind}/{name}.png"] = DATA / f"{name}-{size}.png"
    return icons


def _places() -> list[str]:
    fixed = ["applications/nafas.desktop", "mime/packages/nafas.xml", "metainfo/nafas.metainfo.xml", "man/man1/nafas.1"]
    return [*fixed, *SHELLS.values(), *_icons()]


def _day() -> date:
    """Of this version: when its files were written."""
    return datetime.fromtimestamp(Path(__file__).stat().st_mtime, UTC).date()


def _look_anew(folder: Path) -> None:
    for tool, path in _TOOLS:
        command = shutil.which(tool)
        if command is not None and (folder / path).is_dir():
            more = ["-f", "-t"] if tool == "gtk-update-icon-cache" else []
            with suppress(OSError, subprocess.SubprocessError):
                subprocess.run([command, *more, str(folder / path)], capture_output=True, timeout=60, check=False)
