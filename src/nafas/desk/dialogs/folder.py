"""Ask for a folder."""

from PySide6.QtWidgets import QFileDialog, QWidget


def ask_folder(parent: QWidget, title: str, start: str) -> str:
    """A folder the person chooses; "" for none."""
    return QFileDialog.getExistingDirectory(parent, title, start)
