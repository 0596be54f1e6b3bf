"""Start the application and open the window."""

import os
import sys
from pathlib import Path

from PySide6.QtCore import QTimer

from nafas.desk import preferences
from nafas.desk.application import application
from nafas.desk.commands.dropped_files import SESSION
from nafas.desk.window import MainWindow


def open_window(session: Path | None = None, as_copy: bool = False) -> int:
    """Show the window and stay until it is closed. Returns the exit code."""
    if not (sys.platform != "linux" or os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")):
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    app = application()
    # The window and its workers take turns at Python; the usual 5 ms a turn would be felt at every stroke of a painter.
    sys.setswitchinterval(0.0005)
    window = MainWindow()
    window.follow_colours()
    app.styleHints().colorSchemeChanged.connect(lambda _: window.follow_colours())
    window.restoreGeometry(preferences.layout("window"))
    window.splitter.restoreState(preferences.layout("columns"))
    window.show()

    def begin() -> None:
        if window.files.offer_recovery():
            return
        if session is None:
            window.show_view("welcome")
        elif as_copy or session.suffix.lower() in (SESSION, ""):
            window.files.open(session, as_copy)
        else:
            window.dropped.take([session])

    QTimer.singleShot(0, begin)
    code = app.exec()
    preferences.keep_layout("window", window.saveGeometry())
    preferences.keep_layout("columns", window.splitter.saveState())
    if window.to_open_again:
        path = window.document.path
        arguments = [str(path)] if path is not None else []
        os.execv(sys.executable, [sys.executable, "-m", "nafas", *arguments])
    return code
