"""Planning in the window: start from a purpose, see the arc, lock, fit, undo; and the library of one's own."""

from fractions import Fraction

import numpy as np
import pytest
import soundfile
from helpers import ready
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QLabel, QMessageBox

from nafas.desk.dialogs.keep_dialog import KeepDialog
from nafas.library.own import own
from nafas.score.selection import Chosen
from nafas.script.edits.session_edits import change, change_block
from nafas.script.model.assets import Asset
from nafas.script.model.beds import FileBed
from nafas.timing.clock import parse_length

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def plan(qtbot, window, folder, monkeypatch):
    monkeypatch.setenv("NAFAS_LIBRARY", str(folder / "library"))
    qtbot.mouseClick(window.masthead.views["plan"], LEFT)
    assert window.views.plan.isVisible() and window.views.fit_panel.isVisible() and not window.score.isVisible()
    return window


def type_into(qtbot, line, text):
    line.setFocus()
    line.selectAll()
    qtbot.keyClicks(line, text)


def test_start_from_a_purpose_and_a_length(qtbot, plan):
    panel = plan.views.plan.repertoire
    panel.purpose.setCurrentIndex(4)
    panel.purpose.activated.emit(4)
    names = [panel.list.item(n).text() for n in range(panel.list.count())]
    assert len(names) == 2 and names[0].startswith("Toward sleep")
    assert "Cautions" in panel.words.text() and "safely fall asleep" in panel.words.text()
    type_into(qtbot, panel.length.line, "10:00")
    qtbot.mouseClick(panel.use, LEFT)
    ready(qtbot, plan)
    session = plan.document.session
    assert session.title == "Toward sleep" and session.target_length == 600
    assert plan.preparation.timeline.length == 600  # with the talk as it is really read
    assert plan.document.dirty and not plan.views.plan.repertoire.length.fault.isVisible()
    assert "breaths led" in plan.views.plan.figures.text()


def test_fit_applies_in_one_click_and_one_undo_takes_it_back(qtbot, plan):
    before = plan.document.session
    panel = plan.views.fit_panel
    type_into(qtbot, panel.target.line, "0:40")
    qtbot.keyClick(panel.target.line, Qt.Key.Key_Return)
    assert panel.options.count() > 1 and panel.chosen().exact and "must become" in panel.summary.text()
    qtbot.mouseClick(panel.apply_button, LEFT)
    ready(qtbot, plan)
    assert plan.preparation.timeline.length == 40 and "Already 0:40 exactly" in panel.summary.text()
    assert panel.options.count() == 0 and not panel.apply_button.isEnabled()
    plan.menus.undo.trigger()
    assert plan.document.session.blocks == before.blocks and plan.document.session.target_length == 40


def test_a_length_is_taken_when_it_is_whole_and_shown_as_understood(qtbot, plan):
    field = plan.views.fit_panel.target
    type_into(qtbot, field.line, "12 min")
    assert plan.document.session.target_length is None  # not 1 s, not 12 s on the way
    shown = [label.text() for label in field.line.findChildren(QLabel) if label.isVisible()]
    assert shown == ["= 12:00"]
    qtbot.keyClick(field.line, Qt.Key.Key_Return)
    assert plan.document.session.target_length == 720 and field.line.text() == "12:00"
    for typed, words in (("0", "up to 4 hours"), ("5:00:00", "up to 4 hours"), ("soon", "no length")):
        type_into(qtbot, field.line, typed)
        qtbot.keyClick(field.line, Qt.Key.Key_Return)
        assert words in field.fault.text() and plan.document.session.target_length == 720


@pytest.mark.parametrize(
    ("typed", "seconds"),
    [("12", 720), ("12:00", 720), ("1,5 min", 90), ("1h", 3600), ("1 h 30 min", 5400), ("90", 90), ("90 s", 90)],
)
def test_lengths_as_people_write_them(typed, seconds):
    assert parse_length(typed) == seconds


def test_locked_blocks_are_named_and_left_alone(qtbot, plan):
    plan.choose(Chosen(1))
    plan.editing.lock()
    assert plan.document.session.blocks[1].locked and "2-3" in plan.views.fit_panel.locks.text()
    type_into(qtbot, plan.views.fit_panel.target.line, "1 min")
    qtbot.keyClick(plan.views.fit_panel.target.line, Qt.Key.Key_Return)
    for n in range(plan.views.fit_panel.options.count()):
        option = plan.views.fit_panel.options.item(n).data(Qt.ItemDataRole.UserRole)
        assert option.session.blocks[1] == plan.document.session.blocks[1]
    plan.editing.choose_all()
    plan.editing.lock()
    assert all(block.locked for block in plan.document.session.blocks)
    plan.editing.lock()
    assert not any(block.locked for block in plan.document.session.blocks)


def test_a_recording_gives_its_exact_length(plan, folder):
    soundfile.write(folder / "bed.wav", np.zeros(2_000_003, np.float32), 44_100)
    plan.views.fit_panel.take_length_of(folder / "bed.wav")
    assert plan.document.session.target_length == Fraction(2_000_003, 44_100)
    plan.views.fit_panel._apply()
    assert plan.preparation.timeline.length == Fraction(2_000_003, 44_100)
    plan.views.fit_panel.take_length_of(folder / "nothing.wav")
    assert "cannot be read" in plan.statusBar().currentMessage()


def test_a_pattern_is_added_with_its_cautions_before_it(qtbot, plan):
    panel = plan.views.plan.repertoire
    panel.choose("pattern", "Bellows")
    plan.choose(Chosen(1))
    qtbot.mouseClick(panel.use, LEFT)
    kinds = [(block.kind, block.title) for block in plan.document.session.blocks]
    assert kinds[2:] == [("talk", "Cautions"), ("strokes", "Bellows")]
    assert "rapid breathing" in " ".join(plan.document.session.blocks[2].paragraphs)
    plan.menus.undo.trigger()
    panel.cautions.setChecked(False)
    qtbot.mouseClick(panel.use, LEFT)
    assert [block.kind for block in plan.document.session.blocks[2:]] == ["strokes"]


def test_ones_own_is_saved_shown_given_and_taken_out(qtbot, plan, folder, monkeypatch):
    monkeypatch.setattr(KeepDialog, "exec", lambda dialog: QDialog.DialogCode.Accepted)
    plan.choose(Chosen(1))
    plan.outputs.keep()
    plan.choose(Chosen(0))
    plan.outputs.keep()
    assert {kept.entry.name: kept.entry.is_outline for kept in own()[0]} == {"2-3": False, "Short": True}
    panel = plan.views.plan.repertoire
    panel.choose("own", "2-3")
    assert panel.chosen().entry.name == "2-3" and panel.remove_button.isEnabled()
    (folder / "gift.nafas-entry").write_bytes(panel.chosen().path.read_bytes())
    panel.take(folder / "gift.nafas-entry")
    assert panel.list.count() == 3
    panel.take(folder / "missing.nafas-entry")
    assert "cannot be read" in plan.statusBar().currentMessage()
    monkeypatch.setattr(QMessageBox, "exec", lambda box: QMessageBox.StandardButton.Discard)
    qtbot.mouseClick(panel.remove_button, LEFT)
    assert panel.list.count() == 2


def test_what_is_kept_finds_its_recordings_from_anywhere(plan, folder, monkeypatch):
    monkeypatch.setattr(KeepDialog, "exec", lambda dialog: QDialog.DialogCode.Accepted)
    rain = FileBed(file=Asset(path="sub/rain.wav"))
    session = change_block(plan.document.session, 1, bed={"change": rain})
    plan.document.edit(change(session, bed=rain), "rain")
    for chosen in (Chosen(1), Chosen(0)):
        plan.choose(chosen)
        plan.outputs.keep()
    kept = {entry.entry.is_outline: entry.entry for entry in own()[0]}
    whole = str((plan.document.folder / "sub" / "rain.wav").resolve())
    assert kept[True].session.bed.file.path == whole and kept[False].block.bed.change.file.path == whole


def test_the_arc_chooses_blocks_by_mouse_and_keys(qtbot, plan):
    arc = plan.views.plan.arc
    x = arc._x(float(plan.preparation.timeline.blocks[1].start) + 1)
    qtbot.mouseClick(arc, LEFT, pos=arc.rect().center().__class__(int(x), 60))
    assert plan.editing.chosen.block == 1
    arc.setFocus()
    qtbot.keyClick(arc, Qt.Key.Key_Left)
    assert plan.editing.chosen.block == 0 and "voice" in arc.accessibleDescription()


def test_an_empty_session_says_where_to_begin(plan):
    plan.document.new()
    assert plan.views.fit_panel.options.count() == 0 and plan.views.plan.figures.text() == ""
    assert plan.views.plan.grab().toImage().width() > 100


def test_what_the_chosen_set_asks_of_the_breath_is_said(plan):
    index = next(n for n, block in enumerate(plan.document.session.blocks) if block.kind == "breath")
    plan.choose(Chosen(-1))
    whole = plan.views.plan.load.text()
    assert whole.startswith("All sets: ") and "breaths a minute" in whole
    plan.choose(Chosen(index))
    own = plan.views.plan.load.text()
    assert own != whole and "times the inhale" in own + whole and not own.startswith("All sets")
