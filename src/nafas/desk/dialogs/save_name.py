"""Ask under which name to save, and never replace a file that the person was not asked about."""

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from nafas.desk.widgets.labels import message_box

_BUTTONS = QMessageBox.StandardButton


def ask_save_name(parent: QWidget, title: str, start: Path, kinds: str, endings: tuple[str, ...]) -> Path | None:
    """The file to write, or None.

    A name without one of the `endings` gets the first. What then exists under it has not been asked about by the file
    dialog, so it is asked about here.
    """
    name, _ = QFileDialog.getSaveFileName(parent, title, str(start), kinds)
    if not name:
        return None
    path = Path(name)
    if path.suffix.lower() in endings:
        return path
    path = path.with_name(path.name + endings[0])
    if not path.exists():
        return path
    box = message_box(
        QMessageBox.Icon.Question, title, f"{path.name} exists already. Replace it?", f"It is in {path.parent}.", parent
    )
    box.setStandardButtons(_BUTTONS.Save | _BUTTONS.Cancel)
    box.button(_BUTTONS.Save).setText("Replace")
    box.setDefaultButton(_BUTTONS.Cancel)
    return path if box.exec() == _BUTTONS.Save else None
