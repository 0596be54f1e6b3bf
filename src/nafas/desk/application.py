"""The one QApplication, dressed."""

import sys

from PySide6.QtCore import QSettings, QSize, Qt
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from nafas.desk import style
from nafas.integration.desktop_files import DATA, SIZES

_DRESSED = "nafas-dressed"


def application() -> QApplication:
    """The one QApplication. It is dressed once: the colours that a person chose later stay."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        app = QApplication(sys.argv[:1])
        app.setApplicationName("nafas")
        app.setApplicationDisplayName("Nafas")
        app.setDesktopFileName("nafas")
        app.setWindowIcon(_icon())
        app.aboutToQuit.connect(_leave_clipboard)
    if not app.property(_DRESSED):
        app.setProperty(_DRESSED, True)
        style.apply(app, is_night(app))
    return app


def is_night(app: QApplication) -> bool:
    """Whether it is to be dark: as a person chose, else as the desktop is."""
    dark = app.styleHints().colorScheme() == Qt.ColorScheme.Dark
    return bool(QSettings("nafas", "nafas").value("night", dark, type=bool))


def remember_night(night: bool) -> None:
    """Keep what a person chose."""
    QSettings("nafas", "nafas").setValue("night", night)


def _icon() -> QIcon:
    """Read only where a window shows it."""
    icon = QIcon()
    for size in SIZES:
        icon.addFile(str(DATA / f"nafas-{size}.png"), QSize(size, size))
    return icon


def _leave_clipboard() -> None:
    """Leave what was copied as plain text: blocks held by Python would outlive it, and end the process badly."""
    from nafas.script.edits.clipboard import MIME

    clipboard = QApplication.clipboard()
    held = clipboard.mimeData()
    if held is not None and held.hasFormat(MIME):
        clipboard.setText(clipboard.text())
