"""The Rehearse view on the real window, by its keys: the running ink, marks, breathing along, full screen, record."""

import numpy as np
import pytest
from helpers import ready
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QInputDialog

from nafas.desk.audio import microphones as mics
from nafas.desk.audio.microphones import Practice
from nafas.drawing.theme import theme
from nafas.ledger.entries import Kind, find, session_of
from nafas.rehearsal.guide import set_span
from nafas.rehearsal.record import rehearsals
from nafas.rehearsal.steady_clock import SteadyClock
from nafas.script import Session, load_session, read_block
from nafas.script.edits.session_edits import change, change_block, remove_blocks
from nafas.script.model.blocks import Rest, Talk
from nafas.script.model.marks import Felt

KEYS, LEFT = Qt.Key, Qt.MouseButton.LeftButton
BLOCKS = (
    Talk(id="hello", title="Hello", paragraphs=("Sit where the deck is quiet.",)),
    read_block("4-2-6 x3", "waves"),
    Rest(id="ease", title="Ease", seconds=5),
    read_block("4-4 x2", "even"),
)


@pytest.fixture
def rehearse(qtbot, window, monkeypatch, folder):
    monkeypatch.setenv("NAFAS_RECORDS", str(folder / "records"))
    window.document.edit(change(window.document.session, blocks=BLOCKS, target_length=None, title="Waves"), "blocks")
    ready(qtbot, window)
    qtbot.keyClick(window, KEYS.Key_5, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: window.preparation.fresh and window.views.rehearse.canvas.guide is not None)
    view = window.views.rehearse
    view.side.lead.setCurrentIndex(view.side.lead.findData(0.0))
    return view


def start_of(window, name):
    return next(float(timed.start) for timed in window.preparation.timeline.blocks if timed.block.id == name)


def begin(qtbot, window, view, seconds):
    view.side.start.setCurrentIndex(view.side.start.findData("playhead"))
    window.player.seek(seconds)
    qtbot.keyClick(view.canvas, KEYS.Key_Space)
    qtbot.waitUntil(lambda: window.player.playing)


def ink(image, y):
    """The columns of a row of pixels that hold the accent's colour."""
    accent = theme().accent
    return [x for x in range(image.width()) if image.pixelColor(x, y) == accent]


def test_the_running_ink_is_where_the_timeline_says(qtbot, window, rehearse):
    canvas, at = rehearse.canvas, start_of(window, "waves")
    for after in (0.4, 3.99, 5.0, 11.5, 12.5, 30.0):
        seconds = at + after
        canvas.show_time(seconds)
        now, painter = canvas.guide.at(seconds), canvas.painter_now()
        drawn = ink(canvas.grab().toImage(), round(canvas.height() * 0.37))
        assert now.row.round == 1 + int(after // 12)
        assert drawn and np.mean(drawn) == pytest.approx(painter.x_at(now.row, seconds), abs=1.5)
        side, width = painter.width * 0.06, painter.x_at(now.row, now.row.begin + 12) - painter.width * 0.06
        assert np.mean(drawn) - side == pytest.approx(width * (after % 12) / 12, abs=1.5)  # even time, even line


def test_the_next_row_is_in_its_place_when_its_first_cue_sounds(window, rehearse):
    canvas, at = rehearse.canvas, start_of(window, "waves") + 12

    def seen(seconds):
        canvas.show_time(seconds)
        image = canvas.grab().toImage().convertToFormat(QImage.Format.Format_Grayscale8)
        rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
        return rows[: round(image.height() * 0.8)].astype(float)

    early, before, begun = seen(at - 0.4), seen(at - 0.005), seen(at + 0.005)
    assert np.abs(before - begun).mean() < 0.1 * np.abs(early - begun).mean()


def test_what_is_breathed_said_and_left_is_told_at_every_moment(window, rehearse):
    guide, at = rehearse.canvas.guide, start_of(window, "waves")
    first, held, last = (guide.at(at + after) for after in (1.2, 4.5, 24 + 6.1))
    assert (first.phase_words, first.count.text, first.rounds_left) == ("inhale", "two", 2)
    assert held.phase_words == "hold" and held.count.text == "hold"
    assert (last.phase_words, last.count.text, last.rounds_left) == ("exhale", "exhale", 0)
    assert last.after.kind == "rest" and guide.at(start_of(window, "ease") + 1).row.kind == "rest"
    assert guide.at(0.0).row is None and guide.at(0.0).after.kind == "talk"
    assert guide.at(1e6).seconds_left == 0
    assert set_span(guide.timeline, at + 13) == pytest.approx((at, at + 36))


def test_marks_are_set_by_one_key_each_and_follow_their_place(qtbot, window, rehearse, folder, monkeypatch):
    at = start_of(window, "waves")
    begin(qtbot, window, rehearse, at + 16.2)
    for key in (KEYS.Key_R, KEYS.Key_B, KEYS.Key_Plus, KEYS.Key_V):
        qtbot.keyClick(rehearse.canvas, key)
    qtbot.keyClick(rehearse.canvas, KEYS.Key_Backspace)
    qtbot.keyClick(rehearse.canvas, KEYS.Key_Escape)
    marks = window.document.session.marks
    assert [mark.felt for mark in marks] == [Felt.RUSHED, Felt.BREATH, Felt.LOUD] and not window.player.playing
    assert {(mark.block, mark.round, mark.phase) for mark in marks} == {("waves", 2, 2)}
    window.document.edit(change_block(window.document.session, 1, rounds=5), "rounds")
    window.undo()
    assert window.document.session.blocks[1].rounds == 3 and window.document.session.marks == marks
    window.document.save(folder / "s.nafas")
    assert load_session(folder / "s.nafas").marks == marks
    ready(qtbot, window)
    rehearse.side.marks.setCurrentRow(1)
    qtbot.mouseClick(rehearse.side.open_button, LEFT)  # short of breath: that set's counts
    assert window.centre.currentWidget() is window.page and window.editing.chosen.block == 1
    row = next(row for row in window.score.layout_.rows_of(1) if row.round == 2)
    assert len(window.score._marks_of(row)) == 3 and len(window.ribbon._marks) == 3
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("the fourth  count", True))
    qtbot.mouseClick(rehearse.side.write, LEFT)
    assert window.document.session.marks[1].note == "the fourth count"
    window.show_view("rehearse")
    rehearse.side.marks.setCurrentRow(0)
    rehearse.side.marks.setFocus()
    qtbot.keyClick(rehearse.side.marks, KEYS.Key_Space)  # its box, and not the window's key to play
    assert window.document.session.marks[0].settled and not window.player.playing
    rehearse.side.marks.setCurrentRow(1)
    assert len(window.ribbon._marks) == 2
    window.document.edit(remove_blocks(window.document.session, [1]), "remove")
    ready(qtbot, window)
    rehearse.show_session(window.preparation.timeline, window.score.layout_)
    assert "gone" in rehearse.side.marks.item(1).text() and not window.ribbon._marks
    window.show_view("rehearse")
    rehearse.side.marks.setFocus()
    qtbot.keyClick(rehearse.side.marks, KEYS.Key_Delete)
    assert [mark.felt for mark in window.document.session.marks] == [Felt.RUSHED, Felt.LOUD]


def test_the_breath_is_taken_from_keys_and_kept_in_the_record(qtbot, window, rehearse, monkeypatch):
    """Keys at exact times of a clock that the test turns: 80 ms late throughout, one hold let go early."""
    rehearsing, at = rehearse.rehearsing, start_of(window, "even")
    rehearse.side.along.setCurrentIndex(rehearse.side.along.findData("two"))
    begin(qtbot, window, rehearse, at)
    monkeypatch.setattr(type(rehearsing), "seconds", property(lambda self: clock))
    for due, key in ((0, KEYS.Key_Up), (4, KEYS.Key_Down), (8, KEYS.Key_Up), (12, KEYS.Key_Down)):
        clock = at + due + 0.08
        QTest.keyPress(rehearse.canvas, key)
        clock = at + due + 4.08
        QTest.keyRelease(rehearse.canvas, key)
    clock = at + 16.0
    qtbot.keyClick(rehearse.canvas, KEYS.Key_Escape)
    assert "4 breaths, begun 80 ms after the guide" in rehearse.side.breathed.text()
    rehearse.side.before.setCurrentText("agitated")
    rehearse.side.after.setCurrentText("calmer than before")
    qtbot.mouseClick(rehearse.side.keep_button, LEFT)
    (kept,) = rehearsals("Waves")
    assert (kept.before, kept.after) == ("agitated", "calmer than before") and kept.lag == pytest.approx(
        0.08, abs=0.001
    )
    assert "1 rehearsal kept" in rehearse.side.record.text()
    (entry,) = find(kind=Kind.REHEARSAL)
    assert session_of(entry).blocks == BLOCKS


def test_full_screen_is_dark_takes_the_same_keys_and_goes_away(qtbot, window, rehearse):
    window.views.rehearse_full()
    full = rehearse.full
    assert full.isFullScreen() and full.canvas.painter_now().theme.page.lightness() < 80
    begin_at = start_of(window, "waves")
    rehearse.side.start.setCurrentIndex(rehearse.side.start.findData("playhead"))
    window.player.seek(begin_at)
    qtbot.keyClick(full.canvas, KEYS.Key_Space)
    qtbot.waitUntil(lambda: window.player.playing)
    qtbot.keyClick(full.canvas, KEYS.Key_L)
    qtbot.keyClick(full.canvas, KEYS.Key_Escape)
    assert not window.player.playing and rehearse.full is not None
    qtbot.keyClick(full.canvas, KEYS.Key_Escape)
    assert rehearse.full is None and [mark.felt for mark in window.document.session.marks] == [Felt.LOST]


def test_lead_in_loop_and_picture_without_a_sound(qtbot, window, rehearse):
    rehearse.side.lead.setCurrentIndex(rehearse.side.lead.findData(3.0))
    rehearse.side.senses.setCurrentIndex(rehearse.side.senses.findData("picture"))
    rehearse.side.loop.setChecked(True)
    now = [100.0]
    rehearse.rehearsing._clock = lambda: now[0]
    rehearse.side.start.setCurrentIndex(rehearse.side.start.findData("playhead"))
    window.player.seek(start_of(window, "waves") + 1)
    qtbot.mouseClick(rehearse.side.button, LEFT)
    assert rehearse.rehearsing.leading_in and not window.player.playing and rehearse.canvas._counting == 3
    qtbot.keyClick(rehearse.canvas, KEYS.Key_R)
    now[0] += 3.01
    qtbot.waitUntil(lambda: window.player.playing)
    assert window.player.loop == set_span(window.preparation.timeline, start_of(window, "waves"))
    assert not window.player._block(0, 480).any()  # picture only
    qtbot.mouseClick(rehearse.side.button, LEFT)
    assert window.player.loop is None and not window.player._quiet


def test_a_spoken_note_is_recorded_beside_the_session(qtbot, window, rehearse, folder, monkeypatch):
    monkeypatch.setattr(mics, "microphones", lambda: [("practice", lambda: Practice(seed=1, speed=20))])
    monkeypatch.setattr("nafas.desk.rehearse.spoken_note.microphones", mics.microphones)
    window.document.save(folder / "s.nafas")
    begin(qtbot, window, rehearse, start_of(window, "waves"))
    QTest.keyPress(rehearse.canvas, KEYS.Key_N)
    qtbot.wait(400)
    QTest.keyRelease(rehearse.canvas, KEYS.Key_N)
    qtbot.waitUntil(lambda: bool(window.document.session.marks))
    (mark,) = window.document.session.marks
    assert mark.felt is Felt.NOTE and (folder / "spoken-notes" / mark.sound).stat().st_size > 1000
    qtbot.keyClick(rehearse.canvas, KEYS.Key_Escape)
    rehearse.side.marks.setCurrentRow(0)
    qtbot.mouseClick(rehearse.side.hear, LEFT)
    assert rehearse.audition.playing
    rehearse.audition.stop()


def test_an_empty_session_says_what_to_do(qtbot, window, rehearse):
    window.document.edit(Session(), "empty")
    ready(qtbot, window)
    rehearse.toggle()
    assert "write a set" in window.statusBar().currentMessage()


def test_a_card_that_tells_its_place_in_steps_moves_evenly():
    clock, found = SteadyClock(), []
    for frame in range(300):
        now = frame / 60
        found.append(clock.at(now, 5.0 + int(now / 0.04) * 0.04))  # steps of 40 ms
    steps = np.diff(found[60:])
    assert np.std(steps) < 0.002 and found[-1] == pytest.approx(5.0 + 299 / 60, abs=0.05)
    assert clock.at(5.1, 90.0) == pytest.approx(90.0, abs=0.01)  # another place at once
