"""Render from the window: progress, cancel, result, and errors that reach the person."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication

from nafas.demo import SESSION
from nafas.desk.dialogs import render_dialog
from nafas.desk.dialogs.render_dialog import RenderDialog
from nafas.desk.dialogs.renders_dialog import Renders
from nafas.script import BreathSet, Session
from nafas.script.edits.session_edits import change


def end(qtbot, dialog):
    qtbot.waitUntil(lambda: not dialog.running, timeout=300_000)


@pytest.fixture
def dialog(qtbot, short, folder):
    found = RenderDialog(short, folder, folder / "m.wav", Renders())
    qtbot.addWidget(found)
    found.show()
    return found


def test_a_render_says_what_it_made_and_proved(qtbot, dialog, folder, monkeypatch):
    alerted, said = [], []
    monkeypatch.setattr(QApplication, "alert", lambda window: alerted.append(window))
    monkeypatch.setattr("nafas.desk.work.working.announce", lambda _, text: said.append(text()))
    dialog.stems.setChecked(True)
    dialog.start.click()
    assert dialog.running and not dialog.start.isEnabled() and dialog.bar.isVisible()
    end(qtbot, dialog)
    assert "-16.0 LUFS" in dialog.outcome.text() and "proof of m.wav holds" in dialog.outcome.text()
    assert alerted == [dialog] and said[-1] == dialog.outcome.text()
    assert sorted(p.name for p in folder.iterdir()) == ["m stems", "m.wav", "m.wav.proof.json"]


def test_the_proof_is_a_picture_whose_sounds_lead_to_their_place(qtbot, window, folder, monkeypatch):
    window.document.open(SESSION)
    session = window.document.session
    window.document.edit(change(session, blocks=session.blocks[:4]), "shorten")
    window.outputs.render()
    dialog = window.outputs.render_dialog
    dialog.target.setText(str(folder / "m.flac"))
    dialog.start.click()
    end(qtbot, dialog)
    view = dialog.proof_view
    assert view.isVisible() and view.picture.marks and not any(mark.fault for mark in view.picture.marks)
    mark = next(mark for mark in view.picture.marks if mark.match.moment.round == 2)
    qtbot.mouseMove(view.picture, QPoint(round(mark.x) + 8, round(mark.y)))
    qtbot.mouseClick(view.picture, Qt.MouseButton.LeftButton, pos=QPoint(round(mark.x) + 8, round(mark.y)))
    moment = window.document.session.blocks[window.editing.chosen.block].id
    near = [m.match.moment for m in view.picture.marks if abs(m.x - mark.x) < 14]
    assert moment in {m.block for m in near} and window.editing.chosen.round in {m.round for m in near}
    assert "round" in view.line.text() and "samples" in view.line.text()
    for name in ("p.pdf", "p.html"):
        monkeypatch.setattr(render_dialog, "ask_save_name", lambda *_, name=name: folder / name)
        dialog.page_button.click()
    assert (folder / "p.pdf").read_bytes()[:4] == b"%PDF" and (folder / "p.pdf").stat().st_size > 20_000
    assert "<svg" in (folder / "p.html").read_text() and "The proof holds" in (folder / "p.html").read_text()


def test_cancel_leaves_no_file(qtbot, folder):
    long = Session(blocks=(BreathSet.model_validate({"id": "a", "pattern": "4-4", "rounds": 400}),))
    dialog = RenderDialog(long, folder, folder / "m.wav", Renders())
    qtbot.addWidget(dialog)
    dialog.show()
    dialog.start.click()
    qtbot.waitUntil(lambda: dialog.bar.value() > 5, timeout=120_000)
    dialog.close_button.click()
    end(qtbot, dialog)
    assert dialog.isVisible() and "Cancelled" in dialog.outcome.text() and list(folder.iterdir()) == []


def test_a_place_that_cannot_be_written_is_said(qtbot, dialog, folder):
    dialog.target.setText(str(folder / "gone" / "m.wav"))
    dialog.start.click()
    end(qtbot, dialog)
    assert "no such folder" in dialog.outcome.text() and dialog.start.isEnabled()
