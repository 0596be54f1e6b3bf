"""The application that Qt needs before it draws: the window's where there is one, else one without a screen."""

import os
from typing import Any

_kept: Any = None  # an application that nothing holds ends at once


def ensure_application() -> None:
    """See that an application is there. Where there is no window, the first call comes from the main thread."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")  # Qt asks for its platform when it is loaded
    from PySide6.QtWidgets import QApplication

    from nafas.drawing.theme import use

    global _kept
    if QApplication.instance() is None:
        _kept = QApplication(["nafas"])
        use(night=False)
