"""The table of a series in the window: begun, filled cell by cell, undone, checked, rendered and delivered."""

import json

import pytest
from helpers import ready
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QComboBox, QFileDialog, QLineEdit

from nafas.desk.series import series_dialog
from nafas.script import load_session, read_block, save_session
from nafas.script.edits.session_edits import change
from nafas.series.plan import load_series

WAVES = read_block("3-4 x1", "waves").model_copy(update={"title": "Waves"})
KEYS, LEFT = Qt.Key, Qt.MouseButton.LeftButton


@pytest.fixture
def dialog(qtbot, window, folder, monkeypatch):
    session = change(
        window.document.session, blocks=(WAVES,), target_length=None, opening=1, closing=1,
        end_bell=False, title="Waves",
    )  # fmt: skip
    window.document.edit(session, "blocks")
    window.document.save(folder / "waves.nafas")
    ready(qtbot, window)
    qtbot.keyClick(window, KEYS.Key_E, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    found = window.outputs.series_dialog
    assert "Each row is a recording" in found.about.text() and not found.start.isVisible()
    monkeypatch.setattr(series_dialog, "ask_save_name", lambda *_: folder / "all.nafas-series")
    qtbot.mouseClick(found.new_button, LEFT)
    assert found.view.isVisible() and load_series(folder / "all.nafas-series").session == "waves.nafas"
    yield found
    found.reject()


def cell(dialog, row, heading):
    """The cell of a row under a heading."""
    table = dialog.table
    names = [table.headerData(n, Qt.Orientation.Horizontal) for n in range(table.columnCount())]
    return table.index(row, names.index(heading))


def editor_of(dialog, kind=QLineEdit):
    """What edits a cell just now; the one before it may not be gone yet."""
    return next(each for each in reversed(dialog.view.viewport().findChildren(kind)) if each.isVisible())


def write(qtbot, dialog, row, heading, text):
    """Type into a cell, as a person does."""
    dialog.view.setCurrentIndex(cell(dialog, row, heading))
    dialog.view.edit(dialog.view.currentIndex())
    editor = editor_of(dialog)
    editor.selectAll()
    qtbot.keyClicks(editor, text)
    qtbot.keyClick(editor, KEYS.Key_Return)
    qtbot.waitUntil(lambda: not dialog.view.viewport().findChildren(QLineEdit))  # Qt takes it when it comes to it


def shown(dialog, row, heading):
    return cell(dialog, row, heading).data()


def test_cells_are_what_differs_and_every_change_is_in_the_file(qtbot, dialog, folder):
    path = folder / "all.nafas-series"
    qtbot.mouseClick(dialog.add_button, LEFT)
    write(qtbot, dialog, 0, "Variant", "slow")
    qtbot.mouseClick(dialog.add_button, LEFT)
    qtbot.keyClick(editor_of(dialog), KEYS.Key_Escape)
    write(qtbot, dialog, 0, "Count, s", "1.5")
    write(qtbot, dialog, 1, "Rounds, Waves", "4")
    qtbot.waitUntil(lambda: shown(dialog, 0, "Rendered") == shown(dialog, 1, "Rendered") == "not rendered")
    assert (shown(dialog, 0, "Lasts"), shown(dialog, 1, "Lasts")) == ("0:13", "0:30")  # 2 + 7 x 1.5 is 12.5; 2 + 4 x 7
    write(qtbot, dialog, 0, "Rounds, Waves", "none")
    assert "whole number" in dialog.outcome.text() and shown(dialog, 0, "Rounds, Waves") == ""
    write(qtbot, dialog, 1, "Variant", "SLOW")
    assert "used twice" in dialog.outcome.text() and shown(dialog, 1, "Variant") == "variant"
    dialog.view.edit(cell(dialog, 1, "Guidance"))
    box = editor_of(dialog, QComboBox)
    box.setCurrentIndex(box.findText("chimes"))
    box.activated.emit(box.currentIndex())
    kept = load_series(path)
    assert [v.name for v in kept.variants] == ["slow", "variant"] and kept.variants[1].guidance == "chimes"
    qtbot.keyClick(dialog, KEYS.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert load_series(path).variants[1].guidance is None
    assert dialog.rows == [1]  # what was chosen stays so through all of it
    qtbot.mouseClick(dialog.copy_button, LEFT)
    qtbot.keyClick(editor_of(dialog), KEYS.Key_Escape)
    assert load_series(path).variants[2].rounds == {"waves": 4} and load_series(path).variants[2].name == "variant 2"
    session = change(load_session(folder / "waves.nafas"), opening=11)
    save_session(session, folder / "waves.nafas")
    dialog.look_at_session()
    qtbot.waitUntil(lambda: shown(dialog, 1, "Lasts") == "0:40")  # the page was saved with ten seconds more
    dialog.view.clearSelection()
    dialog.view.selectRow(0)
    qtbot.mouseClick(dialog.remove_button, LEFT)
    assert [v.name for v in load_series(path).variants] == ["variant", "variant 2"]
    path.write_text(path.read_text().replace("variant 2", "by another program"))
    qtbot.mouseClick(dialog.add_button, LEFT)
    assert "another program" in dialog.outcome.text() and "by another program" in path.read_text()


def test_rows_go_to_a_spreadsheet_and_come_back(qtbot, dialog, folder):
    path = folder / "all.nafas-series"
    qtbot.mouseClick(dialog.add_button, LEFT)
    write(qtbot, dialog, 0, "Title", "On watch")
    control = Qt.KeyboardModifier.ControlModifier
    qtbot.keyClick(dialog.view, KEYS.Key_C, control)
    head, row = QGuiApplication.clipboard().text().splitlines()
    assert head.startswith("Variant\tTitle\tLength") and row.startswith("variant\tOn watch\t\t")
    QGuiApplication.clipboard().setText(f"{head}\n{row}\nlong\tLong watch\t0:40\nshort\tShort watch\t0:20\n")
    qtbot.keyClick(dialog.view, KEYS.Key_V, control)
    assert [v.title for v in load_series(path).variants] == ["On watch", "Long watch", "Short watch"]
    QGuiApplication.clipboard().setText("Variant\tLength\nlong\t0:50\nshort\tsoon")
    qtbot.keyClick(dialog.view, KEYS.Key_V, control)
    assert "pasted row 3, Length" in dialog.outcome.text() and load_series(path).variants[1].length == 40
    qtbot.keyClick(dialog, KEYS.Key_Z, control)
    assert [v.title for v in load_series(path).variants] == ["On watch"]


def test_it_is_checked_rendered_where_it_changed_and_opened_as_a_session(qtbot, dialog, window, folder, monkeypatch):
    path = folder / "all.nafas-series"
    rows = [{"name": "one", "guidance": "chimes"}, {"name": "two", "rounds": {"waves": 2}, "guidance": "chimes"}]
    path.write_text(json.dumps({"format": 1, "session": "waves.nafas", "variants": rows}))
    dialog.load(path)
    qtbot.waitUntil(lambda: shown(dialog, 1, "Rendered") == "not rendered")

    def done(button):
        qtbot.mouseClick(button, LEFT)
        qtbot.waitUntil(lambda: dialog.running)
        assert not dialog.start.isEnabled() and not window.close()
        qtbot.waitUntil(lambda: not dialog.running, timeout=120_000)
        return dialog.outcome.text()

    assert done(dialog.check_button) == "2 variants checked."
    found = [dialog.list.item(row).text() for row in range(dialog.list.count())]
    assert "2 variants are called “Waves”" in found and any(line.startswith("one: must") for line in found)
    assert done(dialog.start) == "2 rendered, 0 unchanged."
    qtbot.waitUntil(lambda: shown(dialog, 0, "Rendered") == "as it is now")
    write(qtbot, dialog, 1, "Rounds, Waves", "3")
    qtbot.waitUntil(lambda: shown(dialog, 1, "Rendered") == "changed since")
    assert done(dialog.start) == "1 rendered, 1 unchanged." and "proof holds" in dialog.list.item(0).text()
    for name in ("words.csv", "words.po", "sheet.csv", "all.html"):
        monkeypatch.setattr(series_dialog, "ask_save_name", lambda *_, name=name: folder / name)
        {"words": dialog.save_words, "sheet": dialog.save_call_sheet, "all": dialog.save_page}[name.split(".")[0]]()
        assert (folder / name).stat().st_size > 50 and str(folder / name) in dialog.outcome.text()
    (folder / "words.csv").write_text("words,translation\nWaves,Olas\n")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(folder / "words.csv"), ""))
    dialog.view.selectRow(1)
    dialog.use_words()
    qtbot.waitUntil(lambda: (found := dialog.table.standing(1)) is not None and found.planned.session.title == "Olas")
    dialog.open_variant()
    assert window.document.session.title == "Olas" and window.document.session.blocks[0].rounds == 3


def test_rows_by_a_rule_are_seen_before_they_are_added_in_one_step(qtbot, dialog, folder):
    dialog.grow()
    rule = dialog.grow_dialog
    assert rule.column.currentText() == "Rounds, Waves" and rule.preview.count() == 21
    rule.first.setText("2")
    rule.most.setText("4")
    rule.rows.setValue(9)
    assert [rule.preview.item(n).text() for n in (0, 3, 8)] == ["Day 1: 2", "Day 4: 3", "Day 9: 4"]
    before = load_series(folder / "all.nafas-series")
    rule.by.setText("-1")
    assert not rule.take.isEnabled() and "never comes" in rule.fault.text() and rule.preview.count() == 0
    rule.by.setText("1")
    qtbot.mouseClick(rule.take, LEFT)
    made = load_series(folder / "all.nafas-series")
    assert [row.rounds["waves"] for row in made.variants[-9:]] == [2, 2, 2, 3, 3, 3, 4, 4, 4]
    assert dialog.table.rowCount() == len(made.variants)
    write(qtbot, dialog, 0, "Pattern, Waves", "5-5")
    assert load_series(folder / "all.nafas-series").variants[0].patterns == {"waves": "5-5"}
    dialog.undo()
    dialog.undo()
    assert load_series(folder / "all.nafas-series") == before
