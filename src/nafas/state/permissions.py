"""Which files outside their session's own folder a session may read.

A session file may come from anybody, and its beds, samples and take books are paths. Inside the session's own folder
they are read; what lies outside it is read once a person has chosen it, or has been asked.
"""

import contextlib
import os
from collections.abc import Iterable
from pathlib import Path

import nafas
from nafas.errors import InputError
from nafas.script.model.assets import Asset, assets_of
from nafas.script.model.session import Session
from nafas.state.folder import read_names, state_folder, write_names

_NAME = "outside.json"
_MOST = 2_000
_SHIPPED = os.path.realpath(Path(nafas.__file__).parent)
_permitted: dict[Path, set[str]] = {}
"""What has been permitted in this process, by its state folder."""


class NotPermitted(InputError):  # noqa: N818 - the file is not at fault
    """A session asks for a file outside its own folder that nobody has permitted."""


def asset_path(asset: Asset, folder: Path) -> Path:
    """Where an asset of a session in `folder` is.

    Raises:
        NotPermitted: it is outside that folder, and nobody has been asked yet.
    """
    path = whole_path(asset, folder)
    if not _inside(path, folder) and str(path) not in _known():
        raise NotPermitted(
            str(path),
            "is outside the session's own folder and was not chosen here",
            "permit it if you know the session",
        )
    return path


def whole_path(asset: Asset, folder: Path) -> Path:
    """Where an asset is, links followed, without asking whether it may be read. Raises InputError."""
    try:
        return Path(os.path.realpath(folder / asset.path))
    except (OSError, ValueError) as error:
        raise InputError(asset.path, f"is no path ({error})", "choose the file again") from None


def _inside(path: Path, folder: Path) -> bool:
    return path.is_relative_to(os.path.realpath(folder)) or path.is_relative_to(_SHIPPED)


def outside(session: Session, folder: Path) -> list[Path]:
    """The files and folders outside its own that a session asks for and nobody has permitted yet, each once."""
    paths = (whole_path(asset, folder) for asset in assets_of(session))
    return list(dict.fromkeys(path for path in paths if not _inside(path, folder) and str(path) not in _known()))


def outside_folder(wanted: Path, folder: Path) -> Path | None:
    """A folder that is to be written into, links followed, where it is outside `folder` and nobody has permitted it
    yet; else None. Raises InputError."""
    try:
        path = Path(os.path.realpath(wanted))
    except (OSError, ValueError) as error:
        raise InputError(str(wanted), f"is no path ({error})", "choose another folder") from None
    return None if path.is_relative_to(os.path.realpath(folder)) or str(path) in _known() else path


def permit_readable(session: Session, folder: Path) -> None:
    """Let a session that moves to another folder go on reading what it may read in this one."""
    paths = []
    for asset in assets_of(session):
        with contextlib.suppress(InputError):
            paths.append(asset_path(asset, folder))
    permit(paths)


def permit(paths: Iterable[Path]) -> None:
    """Let sessions read these from now on, in later runs too. Called when a person chooses a file, or says yes."""
    known = _known()
    new = [str(path) for path in (Path(os.path.realpath(path)) for path in paths) if str(path) not in known]
    if new:
        _permitted[state_folder()] = known | set(new)
        write_names(_NAME, [*read_names(_NAME), *new][-_MOST:])


def _known() -> set[str]:
    folder = state_folder()
    if folder not in _permitted:
        _permitted[folder] = set(read_names(_NAME))
    return _permitted[folder]
