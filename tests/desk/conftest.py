"""The real window on the small session, driven by clicks and keys."""

import pytest
from helpers import ready
from PySide6.QtWidgets import QMessageBox

from nafas.desk import style
from nafas.desk.application import application
from nafas.desk.window import MainWindow
from nafas.script import save_session


@pytest.fixture
def window(qtbot, folder, short, monkeypatch):
    style.apply(application(), False)  # whatever the test before has chosen
    save_session(short, folder / "short.nafas")
    found = MainWindow()
    found.show()
    found.document.open(folder / "short.nafas")
    ready(qtbot, found)
    yield found
    monkeypatch.setattr(QMessageBox, "exec", lambda box: QMessageBox.StandardButton.Discard)
    if found.outputs.render_dialog is not None and found.outputs.render_dialog.running:
        found.outputs.render_dialog.reject()
        qtbot.waitUntil(lambda: not found.outputs.render_dialog.running, timeout=120_000)
    assert found.close()
    found.deleteLater()
