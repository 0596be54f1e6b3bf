"""Start the application and open the window."""

import os
import sys
from pathlib import Path

from PySide6.QtCore import QSettings, Qt, QTimer
from PySide6.QtWidgets import QApplication

from nafas.desk import theme
from nafas.desk.window import MainWindow


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


def open_window(session: Path | None = None, as_copy: bool = False) -> int:
    """Show the window and stay until it is closed. Returns the exit code."""
    if not (sys.platform != "linux" or os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")):
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    app = application()
    # The window and its workers take turns at Python; the usual 5 ms a turn would be felt at every stroke of a painter.
    sys.setswitchinterval(0.0005)
    window = MainWindow()
    window.menus.night.setChecked(theme.theme() is theme.NIGHT)
    window.show()

    def begin() -> None:
        if not window.files.offer_recovery() and session is not None:
            window.files.open(session, as_copy)

    QTimer.singleShot(0, begin)
    return app.exec()
