"""A written script in the window: opened, settled, pasted, dropped, and the session written as text."""

from pathlib import Path

import pytest
from PySide6.QtWidgets import QApplication, QFileDialog, QPushButton

from nafas.script import BreathSet
from nafas.script.notation.block import block_notation

TEXT = """Night watch

Sit down and close your eyes.

Inhale, two, three, four. Exhale, two, three, four, five, six.
Repeat eight times.

[softly]
Good night.
"""


@pytest.fixture
def dialog(window, tmp_path):
    path = tmp_path / "night.txt"
    path.write_text(TEXT)
    window.scripts.open(path)
    return window.scripts.dialog


def sets(session):
    return [block_notation(block) for block in session.blocks if isinstance(block, BreathSet)]


def test_what_is_not_sure_is_settled_by_a_click_and_becomes_a_session(window, dialog):
    assert dialog.page.layout_ is not None
    assert sets(dialog.read.session) == ["4-6 x8"]
    buttons = {button.text(): button for button in dialog.findChildren(QPushButton)}
    buttons["8 rounds more"].click()
    assert sets(dialog.read.session) == ["4-6 x9"]
    next(b for b in dialog.findChildren(QPushButton) if b.text() == "Leave it out" and b.isVisibleTo(dialog)).click()
    assert not any(piece.unsure for piece in dialog.read.pieces)
    dialog.start_button.click()
    assert window.document.session.title == "Night watch"
    assert window.document.dirty
    assert "softly" not in str(window.document.session.blocks)


def test_the_two_sides_lead_to_each_other_and_the_text_is_read_as_it_is_edited(window, dialog):
    dialog.page.chose.emit(dialog.page.chosen.__class__(1))
    assert dialog.text.textCursor().blockNumber() == 4
    cursor = dialog.text.textCursor()
    cursor.movePosition(cursor.MoveOperation.End)
    dialog.text.setTextCursor(cursor)
    dialog.text.insertPlainText("\n4-4-4-4 x5\n")
    dialog.read_again()
    assert sets(dialog.read.session) == ["4-6 x8", "4-4-4-4 x5"]


def test_an_empty_text_says_so_and_makes_nothing(window, dialog):
    dialog.text.setPlainText("")
    dialog.read_again()
    assert not dialog.start_button.isEnabled()
    assert "holds no text" in dialog.summary.text()


def test_pasting_asks_only_where_it_is_not_sure_and_is_one_step(window):
    QApplication.clipboard().setText("Close your eyes.\n4-6 x8\n")
    before = window.document.session
    window.scripts.paste()
    assert [block.kind for block in window.document.session.blocks[-2:]] == ["talk", "breath"]
    window.undo()
    assert window.document.session == before
    QApplication.clipboard().setText("Close your eyes.\n[softly]\n4-6 x8\n")
    window.scripts.paste()
    assert window.document.session == before
    window.scripts.dialog.insert_button.click()
    assert len(window.document.session.blocks) == len(before.blocks) + 2
    window.undo()
    assert window.document.session == before


def test_a_session_goes_out_as_text_and_comes_back_changed(window, tmp_path, monkeypatch):
    path = tmp_path / "out.txt"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    window.scripts.save_as_text()
    before = window.document.session
    text = path.read_text()
    assert text.startswith(f"# {before.title}\nnafas script: 1\n")
    breath = next(line for line in text.splitlines() if line.startswith("Breath:"))
    rounds = before.blocks[[block.kind for block in before.blocks].index("breath")].rounds
    path.write_text(text.replace(breath, breath.replace(f"x{rounds}", "x12"), 1))
    window.scripts.open(path)
    dialog = window.scripts.dialog
    assert f"rounds {rounds} → 12" in dialog.summary.text()
    dialog.change_button.click()
    after = window.document.session
    assert sets(after)[0] == breath.removeprefix("Breath: ").replace(f"x{rounds}", "x12")
    assert [b.id for b in after.blocks] == [b.id for b in before.blocks]
    assert window.document.undo_label == "read the script again"


def test_a_file_that_is_no_text_is_refused(window, tmp_path, monkeypatch):
    said = []
    monkeypatch.setattr(window.files, "complain", lambda text, error: said.append(error.problem))
    path = Path(tmp_path / "a.docx")
    path.write_bytes(b"PK\x03\x04")
    window.scripts.open(path)
    assert said and "cannot be read" in said[0]
