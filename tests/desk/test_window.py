"""What a producer does in the window: write, see the times move, undo, listen, save."""

import time
from fractions import Fraction

import numpy as np
import pytest
from helpers import breath, ready
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QMessageBox

from nafas.score.selection import Chosen
from nafas.script import BreathSet, PhaseKind, load_session
from nafas.script.edits.session_edits import change, insert_block
from nafas.state.folder import state_folder
from nafas.state.recovery import find_recoverable

LEFT = Qt.MouseButton.LeftButton


def type_into(qtbot, line, text):
    line.setFocus()
    line.selectAll()
    qtbot.keyClicks(line, text)


def test_typing_a_breath_adds_a_set_and_moves_every_time(qtbot, window):
    before = window.preparation.timeline.length
    entry = window.masthead.entry.line
    type_into(qtbot, entry, "4-2-8 x6")
    qtbot.keyClick(entry, Qt.Key.Key_Return)
    block = window.document.session.blocks[-1]
    assert isinstance(block, BreathSet) and (block.rounds, block.pattern.counts) == (6, 14)
    ready(qtbot, window)
    assert window.preparation.timeline.length == before + 84
    assert window.details.form is window.details.breath and entry.text() == ""


def test_a_chosen_set_is_changed_in_words_as_one_step(qtbot, window):
    place = [block.kind for block in window.document.session.blocks].index("breath")
    before = window.document.session
    window.editing.choose(Chosen(place))
    entry = window.masthead.entry
    type_into(qtbot, entry.line, "two more rounds")
    assert entry.list.rows[0].offered.words.startswith("instead of ")
    qtbot.keyClick(entry.line, Qt.Key.Key_Return)
    after = window.document.session
    assert after.blocks[place].rounds == before.blocks[place].rounds + 2 and len(after.blocks) == len(before.blocks)
    window.undo()
    assert window.document.session == before


def test_the_line_is_shown_as_it_is_read_with_what_is_not_used_struck_out(qtbot, window):
    entry = window.masthead.entry
    type_into(qtbot, entry.line, "maybe in 4, out 6, softly")
    line = entry.list.echo.offered
    words = {line.typed[span.begin : span.end]: span for span in line.spans}
    assert not words["maybe"].used and not words["softly"].used
    assert words["in"].kind is words["4"].kind is PhaseKind.INHALE and words["6"].kind is PhaseKind.EXHALE
    assert entry.list.echo.isVisible() and entry.list.echo.height() > 0


def test_a_mistake_in_the_quick_entry_is_named_and_changes_nothing(qtbot, window):
    before = window.document.session
    entry = window.masthead.entry
    type_into(qtbot, entry.line, "4-2-99")
    qtbot.keyClick(entry.line, Qt.Key.Key_Return)
    assert window.document.session is before and entry.fault.isVisible() and "0 to 60" in entry.fault.text()
    assert entry.line.selectedText() == "9" and entry.line.selectionStart() == 4


def test_the_quick_entry_shows_how_a_line_is_read_and_the_keys_choose(qtbot, window):
    entry, keys = window.masthead.entry, Qt.Key
    type_into(qtbot, entry.line, "4-4-6 for 2 minutes")
    rows = [row.offered for row in entry.list.rows]
    assert entry.list.isVisible() and [row.title for row in rows] == ["4-4-6 x9", "4-4-6 x8"]
    assert rows[0].about == "9 rounds of 14 s, 2:06" and "Says inhale, two, three, four" in rows[0].words
    qtbot.keyClick(entry.line, keys.Key_Down)
    qtbot.keyClick(entry.line, keys.Key_Return)
    assert window.document.session.blocks[-1].rounds == 8 and not entry.list.isVisible() and entry.line.text() == ""
    before = window.document.session
    type_into(qtbot, entry.line, "478 x3")
    qtbot.keyClick(entry.line, keys.Key_Return)
    assert (
        window.document.session is before
        and entry.line.text() == "478 x3"
        and "Tab writes 4-7-8 x3" in entry.fault.text()
    )
    qtbot.keyClick(entry.line, keys.Key_Tab)
    assert entry.line.text() == "4-7-8 x3" and not entry.fault.isVisible()
    qtbot.keyClick(entry.line, keys.Key_Escape)
    assert not entry.list.isVisible()
    type_into(qtbot, entry.line, "4-6 x5, rest 30s, 4-7-8 x4")
    qtbot.keyClick(entry.line, keys.Key_Return)
    assert [block.kind for block in window.document.session.blocks[-3:]] == ["breath", "rest", "breath"]
    type_into(qtbot, entry.line, "square, gr")
    row = entry.list.rows[0]
    assert (row.offered.title, row.offered.about) == ("Square, growing", "library")
    qtbot.mouseClick(row, LEFT)
    assert window.document.session.blocks[-1].title == "Square, growing"


def click_row(qtbot, window, row, x):
    y = row.y + row.height // 2 - window.score.verticalScrollBar().value()
    qtbot.mouseClick(window.score.viewport(), LEFT, pos=QPoint(int(x), y))


def test_click_a_phase_and_type_its_counts(qtbot, window):
    layout = window.score.layout_
    row = next(row for row in layout.rows if row.round == 2)
    window.score._reveal(row)
    click_row(qtbot, window, row, layout.x_of(row, float(row.start) + 3.0))  # 2-3: the exhale
    assert window.score.chosen == Chosen(1, 2, 2)
    qtbot.keyClicks(window.score, "12")
    phases = window.document.session.blocks[1].pattern.phases
    assert [phase.counts for phase in phases] == [2, 12]
    assert window.details.breath.pattern.line.text() == "2-12"
    qtbot.keyClick(window.score, Qt.Key.Key_Left)
    qtbot.keyClick(window.score, Qt.Key.Key_Down)
    assert window.score.chosen == Chosen(1, 2, 1)
    qtbot.keyClick(window.score, Qt.Key.Key_Up)
    assert window.score.chosen.round == 1


def test_details_change_the_session_and_bad_values_do_not(qtbot, window):
    window.choose(Chosen(1))
    form = window.details.breath
    form.rounds.setValue(5)
    type_into(qtbot, form.count.line, "20/21")
    assert (window.document.session.blocks[1].rounds, window.document.session.blocks[1].count_length) == (
        5,
        Fraction(20, 21),
    )
    type_into(qtbot, form.count.line, "9")
    assert window.document.session.blocks[1].count_length == Fraction(20, 21) and form.count.fault.isVisible()
    type_into(qtbot, form.pattern.line, "4-")
    assert form.pattern.fault.isVisible() and window.document.session.blocks[1].pattern.counts == 5
    type_into(qtbot, form.pattern.line, "in 4, hold 7 silent, out 8")
    assert window.document.session.blocks[1].pattern.counts == 19
    window.choose(Chosen())
    target = window.details.session_form.target
    type_into(qtbot, target.line, "1:30")
    qtbot.keyClick(target.line, Qt.Key.Key_Return)
    assert window.document.session.target_length == 90
    qtbot.waitUntil(lambda: "target of 1:30" in window.masthead.about.text())


def test_words_typed_are_spoken_and_timed(qtbot, window):
    window.choose(Chosen(0))
    before = window.preparation.timeline.length
    words = window.details.talk.words
    words.setFocus()
    words.selectAll()
    qtbot.keyClicks(words, "One. Two three four five six seven eight nine ten. Again, all of it, slowly.")
    words.flush()
    ready(qtbot, window)
    assert window.preparation.timeline.length > before
    assert len([m for m in window.preparation.timeline.moments if m.block == "hello" and m.text]) == 3


def test_undo_and_redo_of_everything(qtbot, window):
    start = window.document.session
    window.editing.add("talk")
    window.editing.add("rest")
    window.editing.add("breath")
    window.editing.choose(Chosen(2))
    window.editing.move(-1)
    window.editing.remove()
    end = window.document.session
    for _ in range(5):
        window.menus.undo.trigger()
    assert window.document.session == start and not window.document.dirty and not window.menus.undo.isEnabled()
    for _ in range(5):
        window.menus.redo.trigger()
    assert window.document.session == end and window.document.dirty


def test_play_moves_the_playhead_at_the_rate_of_the_clock_and_starts_at_once(qtbot, window):
    window.player.seek(3.0)
    first = []
    window.player.moved.connect(lambda seconds: first.append(time.monotonic()))
    began = time.monotonic()
    qtbot.mouseClick(window.masthead.play_button, LEFT)
    assert window.player.playing and first and window.masthead.play_button.text() == "Pause"
    qtbot.waitUntil(lambda: window.player.seconds > 3.4, timeout=30_000)
    passed = time.monotonic() - began
    assert window.player.seconds - 3.0 == pytest.approx(passed, abs=0.25)
    type_into(qtbot, window.masthead.entry.line, "2-2")
    qtbot.keyClick(window.masthead.entry.line, Qt.Key.Key_Return)
    ready(qtbot, window)
    assert window.player.playing  # an edit does not stop the sound
    qtbot.keyClick(window.score, Qt.Key.Key_Space)
    assert not window.player.playing
    stopped = window.player.seconds
    qtbot.wait(80)
    assert window.player.seconds == stopped


def test_a_sound_card_that_goes_away_does_not_stop_the_practice(qtbot, window, monkeypatch):
    window.player.play()
    qtbot.waitUntil(lambda: window.player.seconds > 0.2)
    monkeypatch.setattr(window.player._feeder.card, "failed", lambda: True)
    with qtbot.waitSignal(window.player.output_lost):
        pass
    place = window.player.seconds
    qtbot.waitUntil(lambda: window.player.seconds > place + 0.2)
    assert window.player.playing and "stopped answering" in window.statusBar().currentMessage()
    window.player.pause()


def test_space_on_a_button_is_the_buttons_own(qtbot, window):
    window.choose(Chosen(1))
    chimes = window.details.breath.chimes
    chimes.setFocus()
    qtbot.keyClick(chimes, Qt.Key.Key_Space)
    assert not window.document.session.blocks[1].chimes and not window.player.playing


def test_words_half_typed_never_land_in_another_session(qtbot, window, folder, monkeypatch):
    window.choose(Chosen(0))
    qtbot.keyClicks(window.details.talk.words, "Half a")
    monkeypatch.setattr(QMessageBox, "exec", lambda box: QMessageBox.StandardButton.Save)
    next(a for a in window.menuBar().actions()[0].menu().actions() if a.text() == "&New").trigger()
    assert "Half a" in load_session(folder / "short.nafas").blocks[0].paragraphs[0]
    assert not window.document.session.blocks


def test_the_ribbon_seeks_and_the_end_stops(qtbot, window):
    ribbon = window.ribbon
    qtbot.mouseClick(ribbon, LEFT, pos=QPoint(ribbon.width() // 2, 40))
    assert window.player.seconds == pytest.approx(float(window.preparation.timeline.length) / 2, rel=0.01)
    qtbot.keyClick(ribbon, Qt.Key.Key_End)
    window.player.seek(window.player.seconds - 0.2)
    window.player.play()
    qtbot.waitUntil(lambda: not window.player.playing, timeout=30_000)


def test_collisions_are_shown_and_said(qtbot, window):
    window.document.edit(insert_block(window.document.session, 1, breath("4-4", 2, count_length="0.2")), "squeeze")
    ready(qtbot, window)
    assert window.preparation.cast.misfits and "not fit" in window.statusBar().currentMessage()
    assert window.score.layout_.misfits
    window.grab()


def test_save_open_and_the_guard_for_unsaved_work(qtbot, window, folder, monkeypatch):
    window.editing.add("rest")
    assert window.document.dirty
    monkeypatch.setattr(QMessageBox, "exec", lambda box: QMessageBox.StandardButton.Cancel)
    assert not window.close() and not window.files.new() and window.isVisible()
    monkeypatch.setattr(QMessageBox, "exec", lambda box: QMessageBox.StandardButton.Save)
    assert window.files.new()
    assert len(load_session(folder / "short.nafas").blocks) == 3 and not window.document.session.blocks
    window.grab()  # the empty page
    (folder / "bad.nafas").write_text("{")
    said = []
    monkeypatch.setattr(QMessageBox, "exec", lambda box: said.append(box.informativeText()))
    assert not window.files.open(folder / "bad.nafas") and "line 1, column 2" in said[0]


def test_a_failed_save_keeps_everything(qtbot, window, folder, monkeypatch):
    window.editing.add("rest")
    said = []
    monkeypatch.setattr(QMessageBox, "exec", lambda box: said.append(box.text()))
    monkeypatch.setattr("nafas.files.os.fsync", lambda handle: (_ for _ in ()).throw(OSError(28, "full")))
    assert not window.save() and "still open" in said[0] and window.document.dirty
    assert len(load_session(folder / "short.nafas").blocks) == 2


def test_unsaved_work_is_kept_for_after_a_crash(qtbot, window, monkeypatch):
    window.editing.add("rest")
    window.document.keep()
    window.document.kept().result()
    (kept,) = (state_folder() / "recovery").glob("*.json")
    monkeypatch.setattr("nafas.state.recovery.process_lives", lambda name: False)
    ((found,), _) = find_recoverable()
    assert len(found.session.blocks) == 3 and found.path == window.document.path
    window.document.restore(found)
    assert window.document.dirty and window.document.session == found.session
    window.document.close()
    assert not kept.exists() and find_recoverable() == ([], [])


def test_everything_in_the_window_has_a_name_and_can_be_reached(window):
    for widget in (window.score, window.order.list, window.ribbon, window.details, window.masthead.entry.line):
        assert widget.accessibleName()
    shortcuts = [a.shortcut().toString() for m in window.menuBar().actions() for a in m.menu().actions()]
    used = [keys for keys in shortcuts if keys]
    assert len(used) == len(set(used)) and {"Space", "Ctrl+R", "Ctrl+Z", "Ctrl+S"} <= set(used)


def test_a_round_is_played_over_and_over(qtbot, window):
    window.choose(Chosen(1, 2))
    window.menus.loop.trigger()
    begin, end = window.preparation.timeline.round_span(1, 2)
    assert window.player.playing and window.player.loop == (begin, end) and end - begin == pytest.approx(5)
    window.player.seek(end - 0.2)
    qtbot.waitUntil(lambda: begin <= window.player.seconds < begin + 2, timeout=4000)
    assert window.player.playing
    window.menus.loop.trigger()
    assert window.player.loop is None and window.player.playing
    window.choose(Chosen())
    window.player.pause()
    window.menus.loop.trigger()
    assert not window.menus.loop.isChecked() and "Choose a block" in window.statusBar().currentMessage()


def test_parts_are_muted_and_soloed(qtbot, window):
    from nafas.sound.mix.monitor import Parts

    window.menus.parts["bed"].trigger()
    assert window.player.parts == Parts(bed=False) and window.menus.parts["bed"].isChecked()
    quiet = window.player._master.read(0, 24_000)
    assert not quiet.any()  # the bed alone sounds in the opening
    window.listening.hear(window.player.parts.alone("voice"))
    assert [a.isChecked() for a in window.menus.parts.values()] == [False, True, True, False]
    window.player.play()
    window.menus.parts["clicks"].trigger()
    assert window.player.playing and window.player.parts.clicks
    edited = change(window.document.session, title="Other")
    window.document.edit(edited, "title")
    ready(qtbot, window)
    assert window.player.parts.clicks  # an edit does not bring back what was muted


def test_an_edit_while_playing_goes_over_without_a_click(qtbot, window):
    window.player.seek(4.0)
    window.player.play()
    before = window.player._master
    window.player._feeder.stop()  # so that it is this test that takes the next block
    window.listening.hear(window.player.parts.alone("voice"))
    at, player = window.player._stream.begin + window.player._feeder.sent, window.player
    block = player._block(player._feeder.sent, 2000)
    old, new = before.read(at, 2000), player._master.read(at, 2000)
    assert np.abs(block[:, 0] - old[:, 0]).max() < 1e-4 and np.abs(block[:, 480:] - new[:, 480:]).max() < 1e-6
    assert np.abs(block[:, 240] - (old[:, 240] + new[:, 240]) / 2).max() < 0.01
