"""Pictures of the window as a list (F4), by keys alone: what is read, chosen and changed."""

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QLineEdit

from nafas.desk.application import application
from nafas.desk.dialogs.parts_dialog import PartsDialog
from nafas.desk.takes.strip import TakeStrip
from nafas.script import BreathSet
from nafas.voice.takebook.book import Take


@pytest.fixture
def parts(qtbot, window):
    """Opens the list of what has the focus, and gives it."""

    def opened(widget):
        window.activateWindow()
        widget.setFocus()
        window.menus._show_parts()
        found = window.findChildren(PartsDialog)[-1]
        qtbot.waitUntil(lambda: found.list.topLevelItemCount() > 0)
        return found

    return opened


def rows(dialog):
    return [
        (dialog.list.topLevelItem(n).text(0), dialog.list.topLevelItem(n).text(1))
        for n in range(dialog.list.topLevelItemCount())
    ]


def test_the_page_is_read_and_a_count_is_changed_by_keys(qtbot, window, parts):
    window.show_view("score")
    place, block = next((n, b) for n, b in enumerate(window.document.session.blocks) if isinstance(b, BreathSet))
    dialog = parts(window.score)
    names = [name for name, _ in rows(dialog)]
    assert any(", round 1: " in name and "inhale" in name and "exhale" in name for name in names)
    counts = block.pattern.phases[0].counts
    at = next(n for n, (_, value) in enumerate(rows(dialog)) if value)
    assert rows(dialog)[at][1] == str(counts) and names[at].endswith("round 1")
    for text, expected in (("no number", counts), (str(counts + 1), counts + 1)):
        dialog.list.setCurrentItem(dialog.list.topLevelItem(at))
        qtbot.keyClick(dialog, Qt.Key.Key_F2)
        editor = dialog.list.findChildren(QLineEdit)[-1]
        editor.setText(text)
        qtbot.keyClick(editor, Qt.Key.Key_Return)
        qtbot.waitUntil(lambda: not dialog.list.findChildren(QLineEdit))
        qtbot.waitUntil(lambda: rows(dialog)[at][1] == str(expected))  # noqa: B023
        assert window.document.session.blocks[place].pattern.phases[0].counts == expected
    assert (window.score.chosen.block, window.score.chosen.phase) == (place, 1)
    window.undo()
    assert window.document.session.blocks[place] == block


def test_enter_selects_a_part_in_the_window(qtbot, window, parts):
    window.show_view("score")
    dialog = parts(window.score)
    assert parts(window.score) is dialog  # asked for again, it is the same list
    last = dialog.list.topLevelItemCount() - 1
    dialog.list.setCurrentItem(dialog.list.topLevelItem(last))
    qtbot.keyClick(dialog.list, Qt.Key.Key_Return)
    assert window.score.chosen.block == len(window.document.session.blocks) - 1


def test_blocks_are_read_along_ribbon_and_arc(qtbot, window, parts):
    blocks = len(window.document.session.blocks)
    assert len(rows(parts(window.ribbon))) == blocks
    window.show_view("plan")
    qtbot.waitUntil(lambda: len(window.views.plan.arc.spoken_parts()) == blocks)
    dialog = parts(window.views.plan.arc)
    assert dialog.widget is window.views.plan.arc and all(" long" in name for name, _ in rows(dialog))


def test_the_guide_says_what_is_breathed_now_and_next(qtbot, window):
    window.show_view("rehearse")
    canvas = window.views.rehearse.canvas
    qtbot.waitUntil(lambda: canvas.guide is not None)
    place, block = next((n, b) for n, b in enumerate(window.document.session.blocks) if isinstance(b, BreathSet))
    begin = float(window.preparation.timeline.blocks[place].start)
    canvas.show_time(begin + 2.5)
    now, after, left = (part.name for part in canvas.spoken_parts())
    assert f"round 1 of {block.rounds}" in now and "exhale" in now and "more after it" in now
    assert "round 2" in after and left.endswith(" left")
    canvas.show_time(window.preparation.timeline.length)
    assert canvas.spoken_parts()[-1].name == "0:00 left"


def test_what_is_chosen_by_keys_is_announced(qtbot, window, monkeypatch):
    said = []
    monkeypatch.setattr("nafas.desk.score.view.announce", lambda _, text: said.append(text()))
    window.show_view("score")
    window.activateWindow()
    window.score.setFocus()
    qtbot.waitUntil(window.score.hasFocus)
    qtbot.keyClick(window.score, Qt.Key.Key_Home)
    qtbot.keyClick(window.score, Qt.Key.Key_Down)
    assert said and said[-1] in [part.name for part in window.score.spoken_parts()]


def test_a_list_without_parts_is_empty_and_closes(qtbot, window):
    window.document.new()
    QApplication.processEvents()
    dialog = PartsDialog(window.score, window)
    dialog.show()
    qtbot.keyClick(dialog.list, Qt.Key.Key_Return)
    qtbot.keyClick(dialog, Qt.Key.Key_F2)
    qtbot.keyClick(dialog, Qt.Key.Key_Escape)
    assert not dialog.isVisible()


def test_the_list_of_a_take_goes_with_its_strip(qtbot, window):
    take = Take(file="one.wav", text="one", trim=(0.1, 0.5), beat=0.05)
    strip = TakeStrip(take, (np.zeros(8000, np.float32), 8000), None, 1.0)
    dialog = PartsDialog(strip, window)
    dialog.show()
    strip.deleteLater()
    qtbot.waitUntil(lambda: not any(each.isVisible() for each in window.findChildren(PartsDialog)))


@pytest.mark.parametrize("name, place", [("beginning", 0), ("felt beat", 1), ("end", 2)])
def test_a_takes_beat_and_ends_are_read_and_moved(qtbot, name, place):
    application()
    take = Take(file="one.wav", text="one", trim=(0.1, 0.5), beat=0.05)
    strip = TakeStrip(take, (np.zeros(8000, np.float32), 8000), None, 1.0)
    qtbot.addWidget(strip)
    changed = []
    strip.changed.connect(lambda new, label: changed.append(new))
    part = strip.spoken_parts()[place]
    assert part.name.startswith(name)
    part.change("nonsense")
    assert changed == []
    part.change(f"{float(part.value) + 0.02:.3f}".replace(".", ","))
    (new,) = changed
    moved = [new.trim[0] - 0.1, new.trim[0] + new.beat - 0.15, new.trim[1] - 0.5][place]
    assert moved == pytest.approx(0.02, abs=1e-6)


@pytest.mark.parametrize("room, marked", [(0.4, True), (None, False)])
def test_an_uncertain_beat_is_marked_where_it_must_be_on_a_count(qtbot, room, marked):
    """Talk has no room to keep to, and is on no beat."""
    application()
    take = Take(file="one.wav", text="one", trim=(0.1, 0.5), beat=0.05, beat_confidence=0.4)
    strip = TakeStrip(take, (np.zeros(8000, np.float32), 8000), room, 1.0)
    qtbot.addWidget(strip)
    assert ("listen to it" in strip.facts()) is marked and strip.doubtful_beat is marked
