"""The one QApplication, dressed."""

import os
import sys

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from nafas.desk import preferences, style
from nafas.desk.preferences import Colours
from nafas.integration.desktop_files import DATA, SIZES

_DRESSED = "nafas-dressed"
_SCALE = "QT_SCALE_FACTOR"


def application() -> QApplication:
    """The one QApplication. It is dressed once: the colours that a person chose later stay."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        app = _scaled(preferences.text_size())
        app.setApplicationName("nafas")
        app.setApplicationDisplayName("Nafas")
        app.setDesktopFileName("nafas")
        app.setWindowIcon(_icon())
        app.aboutToQuit.connect(_leave_clipboard)
    if not app.property(_DRESSED):
        app.setProperty(_DRESSED, True)
        style.apply(app, is_night(app))
    return app


def _scaled(per_cent: int) -> QApplication:
    """An application whose text and pictures are larger. Qt reads the factor once: what is started from here, such as
    Nafas opened again, does not inherit it."""
    given = os.environ.get(_SCALE)
    if per_cent != 100:
        os.environ[_SCALE] = str(per_cent / 100)
    app = QApplication(sys.argv[:1])
    os.environ.pop(_SCALE, None)
    if given is not None:
        os.environ[_SCALE] = given
    return app


def is_night(app: QApplication) -> bool:
    """Whether it is to be dark: as a person chose, else as the desktop is."""
    chosen = preferences.colours()
    if chosen is Colours.SYSTEM:
        return app.styleHints().colorScheme() == Qt.ColorScheme.Dark
    return chosen is Colours.NIGHT


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
