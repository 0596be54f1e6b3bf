"""The queue of renders in the window."""

import pytest
from helpers import ready
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog

from nafas.script import save_session
from nafas.script.edits.session_edits import change
from nafas.script.model.assets import Asset
from nafas.script.model.beds import FileBed
from nafas.tasks.queue import State


@pytest.fixture
def renders(qtbot, window):
    ready(qtbot, window)
    return window.outputs.renders


def until_done(qtbot, renders):
    qtbot.waitUntil(lambda: not renders.running and not renders._timer.isActive(), timeout=300_000)


def test_a_render_is_queued_from_its_dialog_and_the_window_goes_on(qtbot, window, renders, folder):
    window.outputs.render()
    dialog = window.outputs.render_dialog
    dialog.target.setText(str(folder / "a.flac"))
    dialog.also[".mp3"].setChecked(True)
    qtbot.mouseClick(dialog.queue_button, Qt.MouseButton.LeftButton)
    assert not dialog.isVisible() and renders.running and window.outputs.rendering
    dialog.show()
    dialog._queue()  # the same file once more
    assert "already" in dialog.outcome.text()
    dialog.reject()
    window.close()
    assert window.isVisible() and "render is running" in window.statusBar().currentMessage()
    until_done(qtbot, renders)
    assert (folder / "a.flac").exists() and (folder / "a.mp3").exists()
    assert "1 rendered" in window.statusBar().currentMessage()


def test_several_sessions_are_added_one_fails_one_is_cancelled(qtbot, window, renders, folder, monkeypatch):
    session = window.document.session
    lost = change(session, bed=FileBed(file=Asset(path="gone.wav")))
    for name, each in (("one", session), ("two", lost), ("three", session)):
        save_session(each, folder / f"{name}.nafas")
    (folder / "broken.nafas").write_text("{")
    names = [str(folder / f"{name}.nafas") for name in ("one", "two", "three", "broken")]
    monkeypatch.setattr(QFileDialog, "getOpenFileNames", lambda *a, **k: (names, ""))
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *a, **k: str(folder))
    qtbot.keyClick(window, Qt.Key.Key_R, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    dialog = window.outputs.renders_dialog
    assert dialog.empty.isVisibleTo(dialog)
    dialog.add_button.click()
    assert "broken.nafas" in dialog.outcome.text() and len(dialog.rows) == 3
    dialog.rows[2].stop.click()
    until_done(qtbot, renders)
    assert [row.entry.state for row in dialog.rows] == [State.DONE, State.FAILED, State.CANCELLED]
    assert dialog.rows[0].bar.value() == 1000 and "gone.wav" in dialog.rows[1].told.toolTip()
    assert dialog.outcome.text().startswith("1 rendered, 1 failed, 1 cancelled")
    dialog.forget.click()
    assert dialog.rows == [] and dialog.empty.isVisibleTo(dialog) and renders.line == ""
