"""The File menu, recovery offers, the running order's keys, and the silent card."""

import json
import os
import subprocess
import sys
import time

import pytest
from helpers import ready
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QMessageBox

from nafas.desk.audio.outputs import BUFFER_SECONDS, SilentCard
from nafas.score.selection import Chosen
from nafas.script import Session, load_session, save_session
from nafas.state.folder import state_folder
from nafas.state.recent_files import recent_files
from nafas.state.recovery import keep_for_recovery


def answer_file(monkeypatch, name, path):
    monkeypatch.setattr(QFileDialog, name, lambda *a, **k: (str(path) if path else "", ""))


def test_save_as_adds_the_ending_and_goes_on_under_the_new_name(window, folder, monkeypatch):
    answer_file(monkeypatch, "getSaveFileName", None)
    assert not window.save_as() and window.document.path == folder / "short.nafas"
    answer_file(monkeypatch, "getSaveFileName", folder / "other")
    assert window.save_as() and window.document.path == folder / "other.nafas"
    assert load_session(folder / "other.nafas") == load_session(folder / "short.nafas")
    assert recent_files()[:2] == [folder / "other.nafas", folder / "short.nafas"]
    window.menus._fill_recent()
    assert [action.text() for action in window.menus.recent.actions()] == [str(path) for path in recent_files()]


def test_open_by_dialog_and_a_new_session_asks_for_a_name(window, folder, monkeypatch):
    save_session(Session(title="Night: watch/2"), folder / "b.nafas")
    answer_file(monkeypatch, "getOpenFileName", folder / "b.nafas")
    assert window.files.open() and window.document.session.title == "Night: watch/2"
    assert window.files.new() and window.document.path is None
    asked = []
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: asked.append(a[2]) or ("", ""))
    assert not window.save() and asked[0].endswith("untitled-session.nafas")


def test_the_demo_opened_as_a_copy_is_never_written(qtbot, window, folder, monkeypatch):
    from nafas.demo import SESSION

    before = SESSION.read_bytes()
    assert window.files.open(SESSION, as_copy=True)
    window.editing.add("rest")
    answer_file(monkeypatch, "getSaveFileName", folder / "mine.nafas")
    assert window.save() and SESSION.read_bytes() == before
    ready(qtbot, window)
    book = load_session(folder / "mine.nafas").voice.take_book
    assert (folder / book.path / "takes.json").is_file() and window.preparation.problems == []


class Answers:
    """A message box that a person answers with the button of this name."""

    def __init__(self, monkeypatch, name):
        self.asked = []

        def run(box):
            self.asked.append(box.text())
            box._answer = next(b for b in box.buttons() if b.text() == name)

        monkeypatch.setattr(QMessageBox, "exec", run)
        monkeypatch.setattr(QMessageBox, "clickedButton", lambda box: box._answer)


@pytest.fixture
def crashed(folder):
    keep_for_recovery(Session(title="half done"), None, folder, "w")
    kept = state_folder() / "recovery" / "w.json"
    kept.write_text(json.dumps(json.loads(kept.read_text()) | {"process": f"{os.getpid()}-1-00000000"}))
    return kept


@pytest.mark.parametrize(
    ("button", "taken", "left"), [("Open it", True, 0), ("Discard it", False, 0), ("Later", False, 1)]
)
def test_work_of_a_crashed_run_is_offered(window, monkeypatch, crashed, button, taken, left):
    answers = Answers(monkeypatch, button)
    assert window.files.offer_recovery() is taken and "half done" in answers.asked[0]
    assert (window.document.session.title == "half done") is taken
    window.document.kept().result()
    assert crashed.exists() is bool(left)


def test_the_running_order_is_worked_by_keys(qtbot, window):
    keys, order = Qt.Key, window.order.list
    first, second = window.document.session.blocks
    window.choose(Chosen(0))
    qtbot.keyClick(order, keys.Key_Down)
    assert window.score.chosen.block == 1 and window.details.form is window.details.breath
    window.order.list.moved.emit(-1)
    assert window.document.session.blocks == (second, first) and window.score.chosen.block == 0
    qtbot.keyClick(order, keys.Key_Delete)
    assert window.document.session.blocks == (first,) and "Ctrl+Z" in window.statusBar().currentMessage()
    qtbot.keyClick(order, keys.Key_Delete)
    assert window.document.session.blocks == () and window.score.chosen == Chosen()
    qtbot.keyClick(order, keys.Key_Delete)  # nothing left to remove
    assert window.document.session.blocks == ()


def test_too_much_is_refused_and_said(window):
    window.choose(Chosen(1))
    for fields in ({"rounds": 500}, {"count_length": 6}):
        name, value = next(iter(fields.items()))
        window.details.breath.set(name, value, name)
    before = window.document.session
    window.score.counts_typed.emit(1, 1, 1, 99)
    assert window.document.session is before and "60" in window.statusBar().currentMessage()
    window.score.counts_typed.emit(1, 1, 1, 60)
    assert window.document.session is before and "4 h" in window.statusBar().currentMessage()


def test_no_recovery_copy_possible_is_said_but_stops_nothing(qtbot, window, monkeypatch):
    state_folder().rmdir() if not any(state_folder().iterdir()) else None
    monkeypatch.setenv("NAFAS_STATE", "/proc/none")
    window.editing.add("rest")
    window.document.keep()
    qtbot.waitUntil(window.notice.isVisible, timeout=10_000)
    assert "recovery copy" in window.notice.words.text() and len(window.document.session.blocks) == 3


def test_the_silent_card_keeps_time_and_never_runs_ahead():
    card = SilentCard(48_000)
    assert card.free() == int(BUFFER_SECONDS * 48_000) and card.sounded() == 0
    card.write(bytes(8 * card.free()))
    assert card.free() <= 100
    time.sleep(0.05)
    assert 0.04 * 48_000 <= card.sounded() <= 0.12 * 48_000
    time.sleep(0.12)
    assert card.sounded() == int(BUFFER_SECONDS * 48_000)  # dry: time without sound does not count
    assert not card.failed()


def test_leaving_with_blocks_on_the_clipboard_ends_well(folder):
    """Blocks on the clipboard must not outlive Python: the process would end in a crash."""
    code = (
        "import sys; from PySide6.QtCore import QTimer; from PySide6.QtWidgets import QApplication\n"
        "from nafas.desk import app; from nafas.score.selection import Chosen; from nafas.demo import SESSION\n"
        "from nafas.desk.window import MainWindow\n"
        "def go():\n"
        "    window = next(w for w in QApplication.topLevelWidgets() if isinstance(w, MainWindow))\n"
        "    window.choose(Chosen(0)); assert window.editing.copy(); window.close()\n"
        "app.application(); QTimer.singleShot(1500, go)\n"
        "sys.exit(app.open_window(SESSION, as_copy=True))"
    )
    ended = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=60, check=False)
    assert ended.returncode == 0, ended.stderr
