"""The ledger in the window: found by words, told what changed, opened as it was."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QInputDialog

from nafas.desk.ledger import ledger_dialog
from nafas.ledger.entries import FileNote, Kind, add
from nafas.script import Session, read_block
from nafas.script.edits.session_edits import change_block

KEYS, LEFT = Qt.Key, Qt.MouseButton.LeftButton
SESSION = Session(title="Night watch", blocks=(read_block("4-6 x8", "long"),))


def test_the_ledger_is_searched_and_a_version_opened_as_it_was(qtbot, window, folder, monkeypatch):
    (folder / "watch.wav").write_bytes(b"sound")
    add(Kind.RENDER, SESSION, [FileNote(folder / "watch.wav", 80.0, -16.0, -1.5, True)])
    add(Kind.DELIVERY, change_block(SESSION, 0, rounds=10), data={"let_stand": ["must: no cautions"]})
    window.document.folder = folder
    qtbot.keyClick(window, KEYS.Key_G, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    dialog = window.making.ledger_dialog
    assert [entry.kind for entry in dialog.entries] == [Kind.DELIVERY, Kind.RENDER]
    assert "rounds 8 → 10" in dialog.about.text() and "no cautions" in dialog.about.text()
    qtbot.keyClicks(dialog.search, "watch.wav")
    qtbot.waitUntil(lambda: len(dialog.entries) == 1)
    assert "-16.0 LUFS, proof holds" in dialog.about.text()
    qtbot.mouseClick(dialog.open_button, LEFT)
    assert window.document.session == SESSION and window.document.path is None and window.document.folder == folder
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("harbour radio", True))
    qtbot.mouseClick(dialog.published, LEFT)
    dialog.search.clear()
    dialog.kind.setCurrentIndex(dialog.kind.findData(Kind.PUBLICATION.value))
    assert "harbour radio" in dialog.list.item(0).text() and not dialog.open_button.isEnabled()
    dialog.show_which(folder / "watch.wav")
    assert dialog.entry.kind is Kind.RENDER and "by its sum" in dialog.about.text()
    monkeypatch.setattr(ledger_dialog, "ask_save_name", lambda *_: folder / "all.csv")
    qtbot.mouseClick(dialog.export, LEFT)
    assert "harbour radio" in (folder / "all.csv").read_text()
    dialog.close()


def test_an_empty_ledger_says_what_comes_into_it(qtbot, window, folder):
    dialog = window.making.show_ledger()
    assert "by itself" in dialog.count.text() and not dialog.open_button.isEnabled() and not dialog.note.isEnabled()
    (folder / "x").write_bytes(b"x")
    dialog.show_which(folder / "x")
    assert "nothing in the ledger" in dialog.about.text()
    dialog.close()
