"""Before any session is open, and what is dropped on the window: each kind of file goes where it belongs."""

import json
import shutil

import numpy as np
import pytest
import soundfile
from helpers import ready
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QImage
from PySide6.QtWidgets import QApplication, QMessageBox

from nafas.desk import app
from nafas.exchange.packed import pack
from nafas.files import digest_of
from nafas.library.demo import DEMO
from nafas.score.selection import Chosen
from nafas.script import load_session
from nafas.state import news
from nafas.timing import compile_session, paced

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def drop(window, *paths):
    """Drag files over the window and let them go, as a file manager does."""
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    place, copy = QPointF(500, 400), Qt.DropAction.CopyAction
    over = QDragEnterEvent(place.toPoint(), copy, data, LEFT, NONE)
    QApplication.sendEvent(window, over)
    assert over.isAccepted()
    QApplication.sendEvent(window, QDropEvent(place, copy, data, LEFT, NONE))
    QApplication.processEvents()


def answer(monkeypatch, text):
    """Press a button of the next question by its words."""

    def press(box):
        button = next(each for each in box.buttons() if each.text().replace("&", "") == text)
        button.click()
        return box.standardButton(button)

    monkeypatch.setattr(QMessageBox, "exec", press)


def sound(path, seconds=1.0):
    soundfile.write(path, np.zeros(int(48_000 * seconds), np.float32), 48_000)
    return path


def test_three_ways_in_and_recent_sessions(qtbot, window, folder, monkeypatch):
    window.show_view("welcome")
    page = window.views.welcome
    assert page.isVisible() and not window.masthead.isVisible() and not window.left.isVisible()
    qtbot.mouseClick(page.demo_button, LEFT)
    assert window.document.session == load_session(DEMO) and window.document.path is None
    assert window.masthead.isVisible() and window.centre.currentWidget() is window.page
    window.show_view("welcome")
    page.purposes.setCurrentIndex(page.purposes.findText("sleep", Qt.MatchFlag.MatchContains))
    qtbot.mouseClick(page.purpose_button, LEFT)
    library = window.views.plan.repertoire
    assert window.centre.currentWidget() is window.views.plan and library.list.count() > 0
    assert library.purpose.value() == page.purposes.value() is not None
    window.show_view("welcome")
    asked = []
    monkeypatch.setattr("nafas.desk.review.audit_dialog.AuditDialog.begin", lambda dialog: asked.append(dialog))
    qtbot.mouseClick(page.recording_button, LEFT)
    assert asked == [window.outputs.audit_dialog]
    asked[0].reject()
    recent = next(page.lately.itemAtPosition(1, 0).widget() for _ in range(1))
    assert recent.text() == "short"
    qtbot.mouseClick(recent, LEFT)
    assert window.document.path == folder / "short.nafas" and window.centre.currentWidget() is window.page
    window.show_view("welcome")
    qtbot.mouseClick(page.blank_button, LEFT)
    assert window.centre.currentWidget() is window.page and window.left.isVisible()


def test_a_start_without_a_file_shows_them_and_one_with_a_file_opens_it(qtbot, window, folder, monkeypatch):
    monkeypatch.setattr(app, "MainWindow", lambda: window)
    monkeypatch.setattr(QApplication, "exec", lambda *_: 0)
    assert app.open_window() == 0
    qtbot.waitUntil(lambda: window.views.welcome is not None and window.views.welcome.isVisible())
    assert app.open_window(folder / "short.nafas") == 0
    qtbot.waitUntil(lambda: window.centre.currentWidget() is window.page)


def test_what_is_new_is_told_once(qtbot, window, monkeypatch):
    window.show_view("welcome")
    page = window.views.welcome
    assert page.news_button.text() == "What is new"  # on a first start nothing is news
    assert news.newest().startswith("## ") and len(news.newest()) > 200
    monkeypatch.setattr(news, "newest", lambda: "## 9.9\n\nAll of it.\n")
    window.show_view("score")
    window.show_view("welcome")
    assert page.news_button.text().endswith("•")
    qtbot.mouseClick(page.news_button, LEFT)
    assert "Deliver" in window.views.news.text.toPlainText() and page.news_button.text() == "What is new"
    window.views.news.reject()
    assert news.read_names("news.json") == [digest_of(b"## 9.9\n\nAll of it.\n")] and not news.is_news()


def test_sessions_packed_ones_and_series_are_opened_where_they_are_dropped(qtbot, window, folder, monkeypatch):
    timeline = compile_session(window.document.session, paced())
    pack(timeline, window.document.folder, folder / "boat.nafas-packed")

    def opened(name):
        drop(window, folder / name)
        dialog = window.dropped.packed_dialog
        qtbot.mouseClick(dialog.start, LEFT)
        qtbot.waitUntil(lambda: not dialog.running)
        return dialog

    opened("boat.nafas-packed")
    assert window.document.path == folder / "boat" / "session.nafas"
    opened("boat.nafas-packed")
    assert window.document.path == folder / "boat 2" / "session.nafas"  # nothing is written over
    (folder / "broken.nafas-packed").write_bytes(b"PK")
    broken = opened("broken.nafas-packed")
    assert "Not opened." in broken.outcome.text() and not broken.folder.exists()
    assert window.document.path == folder / "boat 2" / "session.nafas"
    broken.reject()
    drop(window, folder / "short.nafas")
    assert window.document.path == folder / "short.nafas"
    rows = {"format": 1, "session": "short.nafas", "variants": [{"name": "one"}]}
    (folder / "all.nafas-series").write_text(json.dumps(rows))
    drop(window, folder / "all.nafas-series")
    assert window.outputs.series_dialog.file.path == folder / "all.nafas-series"
    window.outputs.series_dialog.reject()


def test_sounds_labels_clips_and_covers_go_where_they_belong(qtbot, window, folder, monkeypatch):
    ready(qtbot, window)
    wave, labels = sound(folder / "watch.wav"), folder / "watch.txt"
    labels.write_text("0.1\t0.4\tinhale\n")
    room = window.views.takes_room()
    book = folder / "takes"
    book.mkdir()
    (book / "takes.json").write_text('{"format": 2, "takes": []}')
    drop(window, book)
    assert window.document.session.voice.take_book.path == "takes" and window.centre.currentWidget() is room.view
    drop(window, wave, labels)
    assert (room.dialog.recording.text(), room.dialog.labels.text()) == (str(wave), str(labels))
    room.dialog.reject()
    clips = folder / "clips"
    clips.mkdir()
    shutil.copy(wave, clips / "inhale.wav")
    drop(window, clips)
    assert room.dialog.recording.text() == str(clips)
    room.dialog.reject()
    answer(monkeypatch, "A bed")
    drop(window, wave)
    assert window.document.session.bed.file.path == "watch.wav" and window.centre.currentWidget() is window.views.sound
    window.show_view("score")
    window.choose(Chosen(0))
    answer(monkeypatch, "Play it here")
    drop(window, wave)
    block = window.document.session.blocks[1]
    assert block.locked and block.recordings[0].name == "watch.wav" and block.seconds >= 1
    rows = window.details.form.voice.recordings
    (row,) = rows.list.rows
    window.activateWindow()
    row.how.line.setFocus()
    qtbot.waitUntil(row.how.line.hasFocus)
    qtbot.keyClicks(row.how.line, "after 0.5s, level -6")
    qtbot.keyClick(row.how.line, Qt.Key.Key_Return)
    assert window.document.session.blocks[1].recordings[0].text == "after 0.5s level -6"
    row.how.line.selectAll()
    qtbot.keyClicks(row.how.line, "tomorrow")
    qtbot.keyClick(row.how.line, Qt.Key.Key_Return)
    assert window.document.session.blocks[1].recordings[0].text == "after 0.5s level -6"
    qtbot.mouseClick(row.remove, Qt.MouseButton.LeftButton)
    assert not window.document.session.blocks[1].recordings
    answer(monkeypatch, "A whole session")
    heard = []
    monkeypatch.setattr("nafas.desk.review.audit_dialog.AuditDialog.review", lambda _, path: heard.append(path))
    drop(window, wave)
    assert heard == [wave]
    window.outputs.audit_dialog.reject()
    QImage(900, 900, QImage.Format.Format_RGB32).save(str(folder / "deck.png"))
    drop(window, folder / "deck.png")
    assert window.document.session.tags.cover.path == "deck.png"


def test_a_script_that_is_dropped_is_shown_next_to_its_page(qtbot, window, folder):
    (folder / "watch.txt").write_text("Sit down.\n\n4-6 x8\n")
    drop(window, folder / "watch.txt")
    assert [block.kind for block in window.scripts.dialog.read.session.blocks] == ["talk", "breath"]
    window.scripts.dialog.reject()


@pytest.mark.parametrize(
    ("names", "told"),
    [
        (("a.tsv",), "together with the recording"),
        (("a.wav", "b.wav"), "the folder that the clips are in"),
        (("a.doc",), "a.doc: drop a session"),
        (("a.nafas", "b.nafas"), "drop a session"),
    ],
)
def test_what_nothing_can_be_done_with_is_told(qtbot, window, folder, names, told):
    before = window.document.session
    for name in names:
        (folder / name).write_bytes(b"x")
    drop(window, *(folder / name for name in names))
    assert told in window.statusBar().currentMessage() and window.document.session == before
