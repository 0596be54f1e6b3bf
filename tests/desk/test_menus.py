"""Menus and keys as everywhere."""

from helpers import ready
from PySide6.QtCore import QEvent, QPoint, QPointF, QSettings, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence, QWheelEvent
from PySide6.QtWidgets import QApplication

from nafas.desk.application import application
from nafas.desk.dialogs.command_words import _OTHER_WORDS, commands_of, found_commands
from nafas.drawing.theme import theme
from nafas.score.selection import Chosen


def letters(texts):
    found = []
    for text in texts:
        at = text.replace("&&", "").find("&")
        found += [text.replace("&&", "")[at + 1].lower()] if at >= 0 else []
    return found


def test_no_two_entries_of_a_menu_have_the_same_letter(window):
    menus = {action.text(): action.menu() for action in window.menuBar().actions()}
    assert len(letters(menus)) == len(set(letters(menus))) == len(menus)
    for name, menu in menus.items():
        own = letters(action.text() for action in menu.actions())
        assert len(own) == len(set(own)), (name, sorted(own))


def test_no_two_actions_have_the_same_keys(window):
    keys = [
        key.toString()
        for menu in window.menuBar().actions()
        for action in menu.menu().actions()
        for key in action.shortcuts()
    ]
    assert len(keys) == len(set(keys)), sorted(keys)
    assert {"Ctrl+Y", "Ctrl+W", "Ctrl+Z", "Ctrl+S"} <= set(keys)


def test_keys_of_lists_work_on_the_page(qtbot, window):
    page, blocks = window.score, window.document.session.blocks
    window.editing.choose(Chosen(1))
    page.setFocus()
    qtbot.keyClick(page, Qt.Key.Key_End)
    assert window.editing.chosen.block == len(blocks) - 1
    qtbot.keyClick(page, Qt.Key.Key_Home)
    assert window.editing.chosen.block == 0
    qtbot.keyClick(page, Qt.Key.Key_Delete)
    assert window.document.session.blocks == blocks[1:]
    window.undo()
    assert window.document.session.blocks == blocks
    redo = window.menus.redo
    assert QKeySequence("Ctrl+Y") in redo.shortcuts()


def test_a_block_that_is_not_on_the_screen_is_not_removed(qtbot, window):
    blocks = window.document.session.blocks
    window.editing.choose(Chosen(1))
    window.show_view("ledger")
    remove = next(a for m in window.menuBar().actions() for a in m.menu().actions() if "Re&move" in a.text())
    remove.trigger()
    assert window.document.session.blocks == blocks and "Score" in window.statusBar().currentMessage()
    window.show_view("score")
    remove.trigger()
    assert len(window.document.session.blocks) == len(blocks) - 1


def test_blocks_have_a_menu_where_they_are_seen_about_what_lies_under_the_pointer(qtbot, window):
    for place in (window.order.list, window.score.viewport()):
        names = [action.text() for action in place.actions()]
        assert place.contextMenuPolicy() is Qt.ContextMenuPolicy.ActionsContextMenu
        assert {"Cu&t blocks", "Re&move block", "Mo&ve up", "&Lock or unlock"} <= set(names)
    window.show_view("score")
    window.editing.choose(Chosen(0))
    row = next(row for row in window.score.layout_.rows if row.kind == "round" and row.block.index == 1)
    at = QPoint(300, int(row.y - window.score.verticalScrollBar().value() + row.height / 2))
    qtbot.mouseClick(window.score.viewport(), Qt.MouseButton.RightButton, pos=at)
    assert window.score.chosen.block == window.editing.chosen.block == 1


def test_several_steps_are_taken_back_by_name(qtbot, window):
    begun = window.document.session
    window.menus._fill_history()
    assert [action.isEnabled() for action in window.menus.history.actions()] == [False]
    for title in ("One", "Two", "Three"):
        window.document.edit(window.document.session.replace(title=title), f"title {title}")
    window.menus._fill_history()
    steps = window.menus.history.actions()
    assert [step.text() for step in steps] == ["before: title Three", "before: title Two", "before: title One"]
    steps[1].trigger()
    assert window.document.session.title == "One"
    window.menus._fill_history()
    window.menus.history.actions()[-1].trigger()
    assert window.document.session == begun
    for _ in range(3):
        window.redo()
    assert window.document.session.title == "Three"


def test_what_was_done_stays_in_the_status_line_with_undo_next_to_it(qtbot, window):
    blocks = window.document.session.blocks
    window.editing.choose(Chosen(1))
    window.editing.remove()
    ready(qtbot, window)  # what is to be known of the session would be said now
    assert "Removed" in window.statusBar().currentMessage() and window.undo_button.isVisible()
    qtbot.mouseClick(window.undo_button, Qt.MouseButton.LeftButton)
    assert window.document.session.blocks == blocks and not window.undo_button.isVisible()


def test_chosen_colours_stay_whoever_asks_for_the_application(window):
    window.set_night(True)
    night = theme()
    assert application().property("nafas-dressed") and theme() is night
    window.set_night(False)
    assert theme() is not night


def test_night_colours_are_remembered_only_where_a_person_chose_them(window):
    settings = QSettings("nafas", "nafas")
    settings.remove("night")
    window.menus.night.setChecked(True)  # as the desktop is at a start
    assert not settings.contains("night")
    window.menus.night.trigger()
    assert settings.value("night", type=bool) is False
    settings.remove("night")


def test_scrolling_past_a_choice_does_not_change_it(qtbot, window):
    window.show_view("deliver")
    purpose = window.views.deliver.purpose
    purpose.setCurrentIndex(1)
    at = QPointF(5, 5)
    wheel = QWheelEvent(
        at, at, QPoint(), QPoint(0, -120), Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(purpose, wheel)
    assert purpose.currentIndex() == 1


def test_a_command_is_found_by_other_words_and_done(qtbot, window):
    settings = QSettings("nafas", "nafas")
    window.menus.night.setChecked(False)
    find = next(a for m in window.menuBar().actions() for a in m.menu().actions() if "&Find a command" in a.text())
    assert find.shortcut().toString() == "Ctrl+K"
    find.trigger()
    search = window.menus.search
    assert search.list.count() == len(search.commands) > 60  # all of them, until something is typed
    qtbot.keyClicks(search.line, "dark")
    qtbot.keyClick(search.line, Qt.Key.Key_Return)
    assert window.menus.night.isChecked() and not search.isVisible()
    window.menus.night.setChecked(False)
    settings.remove("night")


def test_what_a_person_may_type_for_a_command(window):
    commands = commands_of(window.menuBar())
    assert set(_OTHER_WORDS) <= {command.text for command in commands}  # no word for what is not there
    for typed, text in (
        ("export", "Render"), ("publish", "Deliver"), ("delete", "Remove block"), ("rendr", "Render"),
        ("language", "Session details"), ("shortcuts", "Keys"), ("zoom bigger", "Zoom in"),
        ("SAVE text", "Save as text"),
    ):  # fmt: skip
        assert found_commands(typed, commands)[0].text == text, typed
    assert found_commands("zzz", commands) == [] and len(found_commands(" ", commands)) == len(commands)


def test_a_command_that_cannot_be_used_now_says_where_it_is(qtbot, window):
    window.menus.undo.setEnabled(False)
    window.menus._find_command()
    search = window.menus.search
    qtbot.keyClicks(search.line, "undo")
    qtbot.keyClick(search.line, Qt.Key.Key_Return)
    assert search.isVisible() and "cannot be used now" in search.note.text() and "Edit" in search.note.text()
    qtbot.keyClicks(search.line, "zzz")
    assert search.list.count() == 0 and "No command" in search.note.text()
    search.reject()


def pressed(widget, key, text, scan_code, modifiers=Qt.KeyboardModifier.NoModifier):
    """A key of another layout: what it is, what it gives, and its place (X11's code)."""
    for kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
        QApplication.sendEvent(widget, QKeyEvent(kind, key, modifiers, scan_code, 0, 0, text))


def test_digits_and_plus_work_on_other_layouts(window):
    shift, control = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier
    page = window.score
    breath = next(n for n, block in enumerate(window.document.session.blocks) if block.kind == "breath")
    window.editing.choose(Chosen(breath, 1, 1))

    def counts():
        return window.document.session.blocks[breath].pattern.phases[0].counts

    before = window.document.session.blocks[breath].rounds
    pressed(page, Qt.Key.Key_Plus, "+", 21, shift)  # Shift and = on an English layout
    assert window.document.session.blocks[breath].rounds == before + 1
    window.editing.choose(Chosen(breath, 1, 1))
    pressed(page, Qt.Key.Key_ParenLeft, "(", 14)  # 5 on a French one
    assert counts() == 5
    page._typed = (0.0, "")
    pressed(page, Qt.Key.Key_7, "7", 16, shift)  # 7 with Shift
    assert counts() == 7
    pressed(page, 0x439, "\N{CYRILLIC SMALL LETTER SHORT I}", 24)  # a letter is none
    assert counts() == 7
    pressed(window, Qt.Key.Key_QuoteDbl, '"', 12, control)  # Ctrl and the key of 3
    assert window.views.shown == "takes"


def test_a_touchpad_zooms_by_whole_notches(window):
    window.score.step_zoom(0)

    def turned(by):
        at = QPointF(50, 50)
        control, none = Qt.KeyboardModifier.ControlModifier, Qt.MouseButton.NoButton
        wheel = QWheelEvent(at, at, QPoint(), by, none, control, Qt.ScrollPhase.NoScrollPhase, False)
        QApplication.sendEvent(window.score.viewport(), wheel)

    for _ in range(3):
        turned(QPoint(0, 30))
    assert window.score.zoom == 1.0
    turned(QPoint(0, 30))
    assert window.score.zoom == 1.4
    turned(QPoint(120, 0))  # sideways
    assert window.score.zoom == 1.4
