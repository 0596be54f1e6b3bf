"""The one QApplication, dressed."""

import sys

from PySide6.QtCore import QSettings, Qt
from PySide6.QtWidgets import QApplication

from nafas.desk import theme


def application() -> QApplication:
    """The one QApplication, dressed."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        app = QApplication(sys.argv[:1])
        app.setApplicationName("nafas")
        app.setApplicationDisplayName("Nafas")
        app.setDesktopFileName("nafas")
        app.aboutToQuit.connect(_leave_clipboard)
    dark = app.styleHints().colorScheme() == Qt.ColorScheme.Dark
    chosen = QSettings("nafas", "nafas").value("night", dark, type=bool)
    theme.apply(app, bool(chosen))
    return app


def _leave_clipboard() -> None:
    """Leave what was copied as plain text: blocks held by Python would outlive it, and end the process badly."""
    from nafas.script.edits.clipboard import MIME

    clipboard = QApplication.clipboard()
    if clipboard.mimeData().hasFormat(MIME):
        clipboard.setText(clipboard.text())
