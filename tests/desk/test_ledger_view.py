"""The ledger in the window: found by words, told what changed, opened as it was."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QInputDialog

from nafas.desk.ledger import view as ledger_view
from nafas.ledger.entries import FileNote, Kind, add
from nafas.script import Session, read_block
from nafas.script.edits.session_edits import change_block

KEYS, LEFT = Qt.Key, Qt.MouseButton.LeftButton
SESSION = Session(title="Night watch", blocks=(read_block("4-6 x8", "long"),))


def test_the_ledger_is_searched_compared_and_a_version_opened_as_it_was(qtbot, window, folder, monkeypatch):
    (folder / "watch.wav").write_bytes(b"sound")
    add(Kind.RENDER, SESSION, [FileNote(folder / "watch.wav", 80.0, -16.0, -1.5, True)])
    add(Kind.DELIVERY, change_block(SESSION, 0, rounds=10), data={"let_stand": ["must: no cautions"]})
    window.document.folder = folder
    qtbot.keyClick(window, KEYS.Key_8, Qt.KeyboardModifier.ControlModifier)
    view = window.views.ledger
    assert window.centre.currentWidget() is view and view.list.hasFocus()
    assert [entry.kind for entry in view.entries] == [Kind.DELIVERY, Kind.RENDER]
    assert "rounds 8 → 10" in view.about.text() and "no cautions" in view.about.text()
    assert view.kinds.item(0).text() == "Everything   2"
    view.list.selectAll()
    assert "rounds 8 → 10" in view.about.text() and "From" in view.about.text() and not view.open_button.isEnabled()
    qtbot.keyClicks(view.search, "watch.wav")
    qtbot.waitUntil(lambda: len(view.entries) == 1)
    assert "−16.0 LUFS, proof holds" in view.about.text() + view.list.topLevelItem(0).text(3)
    qtbot.mouseClick(view.open_button, LEFT)
    assert window.document.session == SESSION and window.document.path is None and window.document.folder == folder
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("harbour radio", True))
    window.show_view("ledger")
    qtbot.mouseClick(view.published, LEFT)
    view.search.clear()
    view.kinds.setCurrentRow([*Kind].index(Kind.PUBLICATION) + 1)
    assert "harbour radio" in view.list.topLevelItem(0).text(3) and not view.open_button.isEnabled()
    view.show_which(folder / "watch.wav")
    assert view.entry.kind is Kind.RENDER and "by its sum" in view.about.text()
    monkeypatch.setattr(ledger_view, "ask_save_name", lambda *_: folder / "all.csv")
    qtbot.mouseClick(view.export, LEFT)
    assert "harbour radio" in (folder / "all.csv").read_text()


def test_an_empty_ledger_says_what_comes_into_it(qtbot, window, folder):
    window.show_view("ledger")
    view = window.views.ledger
    assert view.empty.isVisible() and not view.open_button.isEnabled() and not view.note.isEnabled()
    (folder / "x").write_bytes(b"x")
    view.show_which(folder / "x")
    assert "no entry of the ledger" in view.about.text()
