"""What a person typed, recorded or saved stays, whatever other programs, crashes and strangers' files do."""

import json
import re
import time
from pathlib import Path

import pytest
from helpers import breath, ready
from PySide6.QtCore import QMimeData, Qt
from PySide6.QtWidgets import QApplication, QFileDialog, QLabel, QMessageBox, QWidget

import nafas.desk
from nafas.desk.dialogs.conflict_dialog import Answer, ConflictDialog
from nafas.desk.document import AUTOSAVE_MS
from nafas.desk.widgets.fields import LONGEST_WAIT
from nafas.score.selection import Chosen
from nafas.script import Session, Talk, load_session, save_session
from nafas.script.edits.session_edits import change
from nafas.script.model.assets import Asset
from nafas.script.model.beds import FileBed
from nafas.state.folder import state_folder
from nafas.state.permissions import permit
from nafas.state.recovery import find_recoverable

BUTTONS = QMessageBox.StandardButton


def answered(monkeypatch, answer):
    """The conflict dialog is answered; what it listed."""
    listed = []

    def run(dialog):
        listed.append([dialog.list.item(row).text() for row in range(dialog.list.count())])
        dialog.answer = answer

    monkeypatch.setattr(ConflictDialog, "exec", run)
    return listed


def of_a_dead_process(copy: Path) -> str:
    """A recovery copy as one that a process left which is no more."""
    return json.dumps(json.loads(copy.read_text()) | {"process": "4194300-1-00000000"})


def theirs(window):
    """Another program changes the open file while it is changed here too."""
    path = window.document.path
    save_session(change(load_session(path), title="Theirs", closing=9), path)
    window.editing.add("rest")
    return path


@pytest.mark.parametrize("answer", list(Answer))
def test_a_file_another_program_changed_is_never_overwritten_unasked(window, monkeypatch, answer):
    path = theirs(window)
    listed = answered(monkeypatch, answer)
    mine = window.document.session
    saved = window.save()
    assert "title “Short” → “Theirs”" in listed[0] and "closing 4 s → 9 s" in listed[0]
    assert any(line.startswith("removed: Natural breath") for line in listed[0])
    kept, copy = load_session(path), path.with_name("short 2.nafas")
    if answer is Answer.NEITHER:
        assert not saved and kept.title == "Theirs" and window.document.dirty and window.document.session == mine
    elif answer is Answer.MINE:
        assert saved and kept == mine and not window.document.dirty
    elif answer is Answer.BOTH:
        assert saved and kept.title == "Theirs" and load_session(copy) == mine and window.document.path == copy
    else:
        assert saved and window.document.session == kept and not window.document.dirty
        window.undo()
        assert window.document.session == mine  # one step back
    window.document._history.mark_saved()


def test_a_change_by_another_program_is_noticed_before_anything_is_saved(qtbot, window, monkeypatch):
    path = window.document.path
    save_session(change(load_session(path), title="Theirs"), path)
    qtbot.waitUntil(window.notice.isVisible, timeout=10_000)
    assert "short.nafas" in window.notice.words.text()
    listed = answered(monkeypatch, Answer.NEITHER)
    window.notice.button.click()
    assert listed == [["title “Short” → “Theirs”"]] and window.notice.isVisible()
    path.unlink()
    window.document.look_at_file()
    assert "moved or removed" in window.notice.words.text()
    window.editing.add("rest")
    assert window.save() and len(load_session(path).blocks) == 3  # nothing is in the way of writing it again
    assert not window.notice.isVisible()


def test_two_windows_on_one_file_do_not_overwrite_each_other(qtbot, window, monkeypatch):
    from nafas.desk.document import Document

    other = Document()
    other.open(window.document.path)
    other.edit(change(other.session, title="The other window's"), "title")
    other.save(other.path)
    listed = answered(monkeypatch, Answer.NEITHER)
    window.editing.add("rest")
    assert not window.save() and listed and load_session(window.document.path).title == "The other window's"
    other.close()
    window.document._history.mark_saved()


@pytest.mark.parametrize("replace", [True, False])
def test_a_name_that_gets_its_ending_later_is_asked_about_before_it_is_replaced(window, folder, monkeypatch, replace):
    save_session(Session(title="the old night"), folder / "night.nafas")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(folder / "night"), ""))
    asked = []
    answer = BUTTONS.Save if replace else BUTTONS.Cancel
    monkeypatch.setattr(QMessageBox, "exec", lambda box: asked.append(box.text()) or answer)
    assert window.save_as() is replace and "night.nafas exists already" in asked[0]
    assert (load_session(folder / "night.nafas").title == "Short") is replace
    (folder / "night.pdf").write_text("a page")
    monkeypatch.setattr(QMessageBox, "exec", lambda box: BUTTONS.Cancel)
    window.outputs.print_sheet()
    assert (folder / "night.pdf").read_text() == "a page"


# -- typing


def test_steady_typing_is_kept_for_recovery(qtbot, window):
    """Edits without a pause: of sixteen crashes none left a copy once."""
    window.editing.add("talk")
    field = window.details.talk.words
    began, copies = time.monotonic(), Path(state_folder() / "recovery")
    while time.monotonic() - began < LONGEST_WAIT + AUTOSAVE_MS / 1000 + 0.9:
        qtbot.keyClicks(field, "a b ")
        qtbot.wait(60)
    assert time.monotonic() - began < 6
    (kept,) = copies.glob("*.json")
    kept.write_text(of_a_dead_process(kept))  # a process that is no more
    ((found,), _) = find_recoverable()
    talk = next(
        block for block in found.session.blocks if isinstance(block, Talk) and "a b a b" in str(block.paragraphs)
    )
    assert len(talk.paragraphs[0]) > 60


def test_everything_that_is_pasted_is_in_the_file_or_refused_whole(qtbot, window, folder):
    window.editing.add("talk")
    field = window.details.talk.words
    text = "A calm line for the watch. " * 2000  # 54,000 characters in one paragraph
    data = QMimeData()
    data.setText(text)
    field.insertFromMimeData(data)
    window.save()
    place = window.editing.chosen.block
    kept = load_session(window.document.path).blocks[place]
    assert " ".join(kept.paragraphs).split() == text.split()
    before = field.toPlainText()
    data.setText("one\n" * 2_000_001)
    field.insertFromMimeData(data)
    assert field.toPlainText() == before and "Nothing was pasted" in window.statusBar().currentMessage()
    field.clear()
    data.setText("\n".join(f"Line {n}." for n in range(2500)))
    field.insertFromMimeData(data)
    window.choose(Chosen(0))
    assert "next block" in window.statusBar().currentMessage() and window.save()
    first, second = load_session(window.document.path).blocks[place : place + 2]
    assert [*first.paragraphs, *second.paragraphs] == [f"Line {n}." for n in range(2500)]
    window.document.undo()
    QApplication.clipboard().setText("\n".join(f"2-{n % 4 + 2} x2" for n in range(600)))
    window.scripts.paste()
    assert len(window.document.session.blocks) == 603 and window.save()
    assert len(load_session(window.document.path).blocks) == 603  # what can be saved can be opened


def test_saving_says_what_is_typed_and_cannot_be_taken(window):
    window.choose(Chosen(1))
    line = window.details.breath.pattern.line
    line.setFocus()
    line.setText("4-")
    line.textEdited.emit("4-")
    assert window.save() and "cannot take yet" in window.statusBar().currentMessage()


def test_words_that_cannot_be_taken_stay_where_they_are_typed(qtbot, window):
    window.choose(Chosen(1, 1, 1))
    qtbot.keyClick(window.score, Qt.Key.Key_F2)
    assert window.score.editor.isVisible()
    window.score.editor.setText('say "in"')
    qtbot.keyClick(window.score.editor, Qt.Key.Key_Return)
    assert window.score.editor.text() == 'say "in"' and window.score.editor.isVisible()
    assert "no quotes" in window.statusBar().currentMessage()
    window.score.editor.setText("breathe in")
    qtbot.keyClick(window.score.editor, Qt.Key.Key_Return)
    assert not window.score.editor.isVisible()
    assert any("breathe in" in event.text for event in window.preparation.timeline.blocks[1].body.events)


# -- recovery


def test_what_undo_brings_back_is_kept_too(qtbot, window):
    window.editing.add("rest")
    window.document.keep()
    window.undo()
    window.redo()
    qtbot.wait(AUTOSAVE_MS + 600)
    window.document.kept().result()
    (kept,) = (state_folder() / "recovery").glob("*.json")
    kept.write_text(of_a_dead_process(kept))
    assert find_recoverable()[0][0].session == window.document.session
    window.undo()
    qtbot.waitUntil(lambda: not kept.exists(), timeout=10_000)  # as in the file: there is nothing to recover


def test_recovered_work_that_cannot_be_kept_again_keeps_its_only_copy(qtbot, window, monkeypatch):
    window.editing.add("rest")
    window.document.keep()
    window.document.kept().result()
    (kept,) = (state_folder() / "recovery").glob("*.json")
    crashed = kept.with_name("crashed.json")
    crashed.write_text(of_a_dead_process(kept))
    ((found,), _) = find_recoverable()
    with monkeypatch.context() as patch:
        patch.setattr(
            "nafas.files.os.fsync", lambda handle: (_ for _ in ()).throw(OSError(28, "No space left on device"))
        )
        window.document.restore(found)
        window.document.kept().result()
        assert crashed.exists()
    window.document.keep()
    window.document.kept().result()
    assert not crashed.exists()  # there is another copy by now
    save_session(change(load_session(found.path), title="Newer"), found.path)
    listed = answered(monkeypatch, Answer.NEITHER)
    assert not window.save() and listed and load_session(found.path).title == "Newer"
    window.document._history.mark_saved()


def test_a_copy_that_cannot_be_read_is_told_at_the_start_and_the_program_goes_on(window, monkeypatch):
    (state_folder() / "recovery").mkdir(parents=True)
    (state_folder() / "recovery" / "x.json").write_text("{")
    told = []
    monkeypatch.setattr(QMessageBox, "exec", lambda box: told.append(box.informativeText()))
    assert not window.files.offer_recovery() and "set aside" in told[0]
    assert not window.files.offer_recovery() and len(told) == 1


# -- a stranger's file

EVIL = "<img src='/dev/zero'><b>bold</b>"


def test_titles_and_texts_are_plain_text_everywhere(qtbot, window, folder, monkeypatch):
    """Opening a title like this one ended the window."""
    session = Session(title=EVIL, blocks=(Talk(id="t", title=EVIL, paragraphs=(EVIL,)), breath("2-3", 2, title=EVIL)))
    save_session(session, folder / "evil.nafas")
    boxes = []
    monkeypatch.setattr(QMessageBox, "exec", lambda box: boxes.append(box) or BUTTONS.Discard)
    assert window.files.open(folder / "evil.nafas")
    for view in ("plan", "score", "takes", "sound"):
        window.show_view(view)
        ready(qtbot, window)
    window.editing.add("rest")
    assert window.files.may_leave()
    labels = [label for part in (window, *boxes) for label in part.findChildren(QLabel)]
    for label in labels:
        if EVIL in label.text():
            assert label.textFormat() is Qt.TextFormat.PlainText
        assert "<img" not in label.text() or label.textFormat() is Qt.TextFormat.PlainText
    for widget in window.findChildren(QWidget):
        assert "<img" not in widget.toolTip()
    assert any(EVIL in label.text() for label in labels)
    window.document._history.mark_saved()


def test_no_label_tip_or_box_is_made_but_by_the_module_that_keeps_them_plain():
    folder = Path(nafas.desk.__file__).parent
    for path in folder.rglob("*.py"):
        text = path.read_text()
        if path.name != "labels.py":
            assert not re.search(r"(?<!\w)QLabel\(|\.setToolTip\(|showText\((?!.*tip_of)", text), path
            made = re.findall(r"QMessageBox\(|QMessageBox\.(?:question|warning|critical)\(", text)
            assert not made or path.name == "menus.py", path  # the keys and cautions: our own words


@pytest.mark.parametrize("yes", [True, False])
def test_files_outside_a_stranger_s_folder_are_named_and_read_only_if_allowed(qtbot, window, folder, monkeypatch, yes):
    import numpy as np
    import soundfile

    (folder / "theirs").mkdir()
    soundfile.write(folder / "sea.wav", np.random.default_rng(1).standard_normal((96_000, 2)) * 0.1, 48_000)
    session = Session(bed=FileBed(file=Asset(path="../sea.wav")), blocks=(breath("2-3", 2),))
    save_session(session, folder / "theirs" / "a.nafas")
    asked = []

    def run(box):
        asked.append(box.informativeText())
        box._answer = next(
            button for button in box.buttons() if button.text() == ("Read them" if yes else "Leave them out")
        )

    monkeypatch.setattr(QMessageBox, "exec", run)
    monkeypatch.setattr(QMessageBox, "clickedButton", lambda box: box._answer)
    assert window.files.open(folder / "theirs" / "a.nafas") and str(folder / "sea.wav") in asked[0]
    ready(qtbot, window)
    assert (window.preparation.mix.bed is not None) is yes
    assert yes or "outside the session's own folder" in window.preparation.mix.troubles[0]
    permit([folder / "sea.wav"])
    assert window.files.open(folder / "theirs" / "a.nafas") and len(asked) == 1


def test_a_pipe_under_a_session_s_name_is_refused_at_once(window, folder, monkeypatch):
    import os

    os.mkfifo(folder / "pipe.nafas")
    said = []
    monkeypatch.setattr(QMessageBox, "exec", lambda box: said.append(box.informativeText()))
    began = time.monotonic()
    assert not window.files.open(folder / "pipe.nafas") and "pipe or a device" in said[0]
    assert time.monotonic() - began < 2
