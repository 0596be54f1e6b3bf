"""Menus and keys as everywhere."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence

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
