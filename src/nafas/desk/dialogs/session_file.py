"""Ask for a file that a session is to use."""

import os
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QWidget

from nafas.files import real_path
from nafas.script.model.assets import Asset
from nafas.state.permissions import permit

AUDIO = "Audio (*.wav *.flac *.aif *.aiff *.mp3 *.ogg *.opus)"
PICTURE = "Pictures (*.jpg *.jpeg *.png)"


def asset_from(path: Path, folder: Path) -> Asset:
    """A file that a person chose, which may be read from now on; its path is kept relative to the session's folder."""
    permit([path])
    return Asset(path=Path(os.path.relpath(real_path(path), real_path(folder))).as_posix())


def chosen_file(parent: QWidget, folder: Path, title: str, kinds: str = AUDIO) -> Asset | None:
    """Ask for a file; None where none is chosen."""
    name, _ = QFileDialog.getOpenFileName(parent, title, str(folder), kinds)
    return asset_from(Path(name), folder) if name else None
