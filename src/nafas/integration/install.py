"""Nafas put into a person's menu: what a desktop wants is written into the folder of their data, or taken out again."""

import argparse
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
from nafas.files import reason, write_whole
from nafas.integration.completion import SHELLS, completion
from nafas.integration.desktop_files import DATA, ICONS, SIZES, desktop_entry, mime_package, software_data
from nafas.integration.man_page import man_page

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
    made = []
    for path, data in _files(parser, exit_codes, command).items():
        whole = folder / path
        try:
            whole.parent.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise InputError(str(whole.parent), f"cannot be made ({reason(error)})", "allow writing there") from None
        write_whole(whole, data())
        made.append(whole)
    _look_anew(folder)
    return made


def uninstall(folder: Path) -> list[Path]:
    """Take out what `install` wrote. Raises InputError where something cannot be removed."""
    gone = []
    for path in _places():
        whole = folder / path
        try:
            if whole.is_file():
                whole.unlink()
                gone.append(whole)
        except OSError as error:
            raise InputError(str(whole), f"cannot be removed ({reason(error)})", "allow writing there") from None
    _look_anew(folder)
    return gone


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
