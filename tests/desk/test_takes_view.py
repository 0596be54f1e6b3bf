"""The Takes view on the real window: takes heard, judged, moved and taken back, and what does not fit."""

import json

import numpy as np
import pytest
import soundfile
from helpers import ready
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QInputDialog, QMenu

from nafas.desk.takes import room as takes_room
from nafas.desk.takes.strip import TakeStrip
from nafas.drawing.theme import theme
from nafas.score.selection import Chosen
from nafas.script.edits.session_edits import change, change_block
from nafas.voice import TakeBook
from nafas.voice.engines.cache import CachedEngine
from nafas.voice.engines.espeak import Espeak
from nafas.voice.recording.practice import RATE, Manners, breath, practice_recording
from nafas.voice.takebook.book import Take

KEYS = Qt.Key
DRAG = Qt.MouseButton.LeftButton


def tone(path, seconds, lead=0.1):
    t = np.arange(int(seconds * 22_050)) / 22_050
    wave = 0.3 * np.sin(2 * np.pi * 900 * t) * np.minimum(1, np.minimum(t, seconds - t) / 0.03)
    soundfile.write(path, np.concatenate([np.zeros(int(lead * 22_050)), wave, np.zeros(int(lead * 22_050))]), 22_050)


@pytest.fixture
def takes(qtbot, window, folder):
    """The window on a session whose book holds two takes of "two", one of them doubtful, and a long "inhale"."""
    book = folder / "book"
    book.mkdir()
    rows = []
    for file, text, seconds, more in (
        ("two-1.wav", "two", 0.3, {}),
        ("two-2.wav", "two", 0.35, {"confidence": 0.2, "beat_confidence": 0.4}),
        ("inhale-1.wav", "inhale", 1.4, {}),
    ):
        tone(book / file, seconds)
        rows.append({"file": file, "text": text, "trim": [0.1, 0.1 + seconds], "beat": 0.03, **more})
    (book / "takes.json").write_text(json.dumps({"format": 2, "takes": rows}))
    session = window.document.session
    voice = session.voice.model_copy(
        update={"take_book": session.voice.model_validate({"take_book": {"path": "book"}}).take_book}
    )
    window.document.edit(change(session, voice=voice), "voice")
    qtbot.keyClick(window, KEYS.Key_3, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: window.views.takes is not None)
    ready(qtbot, window)
    qtbot.waitUntil(lambda: window.preparation.fresh and window.views.takes.shelf.statuses[0].line.room is not None)
    return window.views.takes


def choose(takes, text):
    places = [standing.line.text for standing in takes.shelf.statuses]
    takes.list.choose(places.index(text))


def on_disk(takes):
    return {take.file: take for take in TakeBook(takes.shelf.folder).index.takes}


def test_the_call_sheet_says_where_every_line_stands(takes):
    words = {s.line.text: s for s in takes.shelf.statuses}
    assert words["two"].doubtful and words["inhale"].misfit is not None and words["exhale"].takes == 0
    takes.list.show_filter(1)
    assert takes.list.list.item(0).data(Qt.ItemDataRole.AccessibleTextRole) == "two, listen"
    assert "without a take" in takes.list.summary.text() and "1 too long" in takes.list.summary.text()
    takes.list.show_filter(2)
    assert takes.list.list.count() == 1
    choose(takes, "exhale")  # not among those to listen to: all lines are shown again
    assert takes.view.heading.text() == "exhale" and "narrator" in takes.view.rows.itemAt(0).widget().text()


def test_a_beat_dragged_is_kept_and_taken_back(qtbot, window, takes):
    choose(takes, "two")
    strip = next(s for s in takes.view.strips if s.take.file == "two-1.wav")
    before = on_disk(takes)["two-1.wav"].beat
    place = round(strip.places()["beat"])
    qtbot.mousePress(strip, DRAG, pos=QPoint(place, 50))
    qtbot.mouseMove(strip, QPoint(place + 60, 50))
    qtbot.mouseRelease(strip, DRAG, pos=QPoint(place + 60, 50))
    moved = on_disk(takes)["two-1.wav"]
    pixels = strip.width() - 24
    assert moved.beat == pytest.approx(before + 60 / pixels * strip.span, abs=0.004) and moved.trim == strip.take.trim
    ready(qtbot, window)
    qtbot.waitUntil(lambda: window.preparation.fresh)
    cast = [p for p in window.preparation.cast.placements if p.clip.name == "two-1.wav"]
    assert cast and all(p.clip.beat == pytest.approx(moved.beat) for p in cast)
    assert "move a beat" in window.menus.undo.text()
    qtbot.keyClick(window, KEYS.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert on_disk(takes)["two-1.wav"].beat == before
    qtbot.keyClick(window, KEYS.Key_Z, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert on_disk(takes)["two-1.wav"].beat == pytest.approx(moved.beat)


def test_a_trim_is_dragged_and_nudged(qtbot, takes):
    choose(takes, "two")
    strip = next(s for s in takes.view.strips if s.take.file == "two-1.wav")
    end = round(strip.places()["end"])
    qtbot.mousePress(strip, DRAG, pos=QPoint(end, 60))
    qtbot.mouseMove(strip, QPoint(end - 30, 60))
    qtbot.mouseRelease(strip, DRAG, pos=QPoint(end - 30, 60))
    trimmed = on_disk(takes)["two-1.wav"]
    assert trimmed.trim[1] < 0.4 and trimmed.beat == pytest.approx(0.03)
    for key, change_of in (
        (KEYS.Key_Right, ("beat", 0.01)),
        (KEYS.Key_BracketRight, ("begin", 0.01)),
        (KEYS.Key_BraceLeft, ("end", -0.01)),
    ):  # fmt: skip
        takes.view._choose(next(s.take for s in takes.view.strips if s.take.file == "two-1.wav"))
        before = on_disk(takes)["two-1.wav"]
        qtbot.keyClick(takes.list.list, key)
        after = on_disk(takes)["two-1.wav"]
        moved = {
            "beat": after.trim[0] + after.beat - before.trim[0] - before.beat,
            "begin": after.trim[0] - before.trim[0], "end": after.trim[1] - before.trim[1],
        }  # fmt: skip
        assert moved == {name: pytest.approx(change_of[1] if name == change_of[0] else 0, abs=1e-6) for name in moved}


def test_takes_are_judged_by_single_keys(qtbot, takes, monkeypatch):
    choose(takes, "two")
    assert takes.view.chosen.file == "two-2.wav"  # the doubtful one is shown first
    qtbot.keyClick(takes.list.list, KEYS.Key_Y)
    assert on_disk(takes)["two-2.wav"].sure and not takes.shelf.statuses[0].doubtful
    qtbot.keyClick(takes.list.list, KEYS.Key_X)
    assert on_disk(takes)["two-2.wav"].aside and (takes.shelf.folder / "two-2.wav").exists()
    qtbot.keyClick(takes.list.list, KEYS.Key_X)
    assert not on_disk(takes)["two-2.wav"].aside
    monkeypatch.setattr(QInputDialog, "getItem", lambda *a, **k: ("three", True))
    qtbot.keyClick(takes.list.list, KEYS.Key_L)
    assert on_disk(takes)["two-2.wav"].text == "three"
    qtbot.keyClick(takes.list.list, KEYS.Key_B)
    qtbot.waitUntil(lambda: any(standing.misfit for standing in takes.shelf.statuses))
    qtbot.keyClick(takes.list.list, KEYS.Key_N)
    assert takes.view.heading.text() == "inhale"  # nothing is doubtful now: what does not fit is next


def test_takes_are_heard(qtbot, window, takes):
    choose(takes, "two")
    view = takes.view
    lengths = []
    for key in (KEYS.Key_P, KEYS.Key_C, KEYS.Key_E):
        qtbot.keyClick(takes.list.list, key)
        assert view.audition.playing
        lengths.append(len(view.audition.samples) / view.audition.rate)
    assert lengths[0] < 0.5 and 4 < lengths[1] < 6 and 7 < lengths[2] < 10
    qtbot.keyClick(takes.list.list, KEYS.Key_I)
    assert window.player.playing and not view.audition.playing
    used = [p.start / 48_000 for p in window.preparation.cast.placements if p.clip.name == view.chosen.file]
    begin = (
        used[0]
        if used
        else next(p.start / 48_000 for p in window.preparation.cast.placements if p.moment.text == "two")
    )
    assert begin - 3.2 < window.player.seconds < begin
    qtbot.keyClick(takes.list.list, KEYS.Key_P)
    assert not window.player.playing  # one thing at a time
    qtbot.waitUntil(lambda: not view.audition.playing, timeout=30_000)


def test_a_stretch_ends_where_it_should(qtbot, window, takes):
    window.player.play_between(2.0, 2.3)
    qtbot.waitUntil(lambda: not window.player.playing, timeout=30_000)
    assert 2.25 < window.player.seconds < 2.6


def test_a_remedy_is_applied_and_taken_back(qtbot, window, takes):
    choose(takes, "inhale")
    qtbot.waitUntil(lambda: len(takes.side.remedies) >= 2, timeout=30_000)
    assert "runs" in takes.side.room.text()
    length = window.preparation.timeline.length
    remedy, button = next((r, b) for r, b in takes.side.remedies if r.title.startswith("Longer counts"))
    button.click()
    assert window.preparation.timeline.length == length + remedy.cost
    ready(qtbot, window)
    qtbot.waitUntil(lambda: not [m for m in window.preparation.cast.misfits if m.placement.moment.text == "inhale"])
    assert window.document.undo_label == "longer counts"
    takes.side.shorten.click()
    assert window.document.session.voice.shorten == pytest.approx(0.12)


def test_the_chain_is_the_books(qtbot, takes):
    takes.side.even.click()
    assert TakeBook(takes.shelf.folder).index.chain.even
    takes.shelf.undo()
    assert not TakeBook(takes.shelf.folder).index.chain.even and not takes.side.even.isChecked()


def test_a_book_that_was_moved_is_found_again(qtbot, window, takes, folder, monkeypatch):
    (folder / "book").rename(folder / "elsewhere")
    takes.shelf._open = None
    takes.refresh()
    assert "Was it moved?" in takes.side.book.text() and takes.shelf.book is None
    said = []
    window.say, old = said.append, window.say
    takes.said.connect(said.append)
    takes.record()
    assert takes.recording is None and "not found" in said[-1]
    window.say = old
    monkeypatch.setattr(takes_room, "ask_folder", lambda *a: str(folder / "elsewhere"))
    takes.choose_book()
    assert takes.shelf.book is not None and window.document.session.voice.take_book.path == "elsewhere"


def test_the_demo_s_own_book_is_not_changed(qtbot, window, folder, monkeypatch):
    from nafas.demo import FOLDER, SESSION

    before = (FOLDER / "takes" / "takes.json").read_bytes()
    window.document.open(SESSION, as_copy=True)
    window.show_view("takes")
    ready(qtbot, window)
    room = window.views.takes
    qtbot.waitUntil(lambda: room.view.strips != [])
    qtbot.keyClick(room.list.list, KEYS.Key_X)
    assert (FOLDER / "takes" / "takes.json").read_bytes() == before and "Copy to" in window.statusBar().currentMessage()
    monkeypatch.setattr(takes_room, "ask_folder", lambda *a: str(folder / "mine"))
    room.copy_book()
    ready(qtbot, window)
    assert len(TakeBook(folder / "mine").index.takes) == len(TakeBook(FOLDER / "takes").index.takes)
    assert room.shelf.folder == folder / "mine" and not room.shelf.kept_as_it_is


def test_a_recording_is_imported_through_the_dialog(qtbot, window, folder):
    """A session without a book: one is begun next to its file, and what is not sure is shown first."""
    window.show_view("takes")
    room = window.views.takes
    made = practice_recording(
        CachedEngine(Espeak()), [line.text for line in room.shelf.lines], Manners(voice="en-us", skip=0.0), 4, 2
    )
    soundfile.write(folder / "r.flac", made.samples, RATE)
    room.import_()
    dialog = room.dialog
    dialog.begin()
    assert "Choose a recording" in dialog.outcome.text()
    dialog.recording.setText(str(folder / "nothing.wav"))
    dialog.begin()
    qtbot.waitUntil(lambda: not dialog.running, timeout=120_000)
    assert "Nothing was imported" in dialog.outcome.text()
    dialog.recording.setText(str(folder / "r.flac"))
    dialog.begin()
    dialog.reject()
    qtbot.waitUntil(lambda: not dialog.running, timeout=120_000)
    assert "as it was" in dialog.outcome.text() or "takes of" in dialog.outcome.text()
    if "as it was" in dialog.outcome.text():
        assert room.shelf.book.index.takes == ()
        dialog.begin()
        qtbot.waitUntil(lambda: not dialog.running, timeout=120_000)
    assert "takes of" in dialog.outcome.text()
    assert (
        room.shelf.folder == folder / "short takes"
        and len(room.shelf.book.index.takes) >= 2 * len(room.shelf.lines) - 2
    )
    dialog.close()
    qtbot.waitUntil(lambda: window.preparation.fresh, timeout=120_000)
    assert window.preparation.cast.stand_ins <= 1


def test_the_call_sheet_is_saved_in_three_kinds(window, folder):
    window.show_view("takes")
    for name in ("sheet.pdf", "sheet.csv", "sheet.txt", "bare"):
        window.views.takes.write_sheet(folder / name)
    assert (folder / "sheet.pdf").read_bytes().startswith(b"%PDF") and (folder / "bare.pdf").exists()
    assert "inhale" in (folder / "sheet.csv").read_text() and "Cues" in (folder / "sheet.txt").read_text()
    window.views.takes.write_sheet(folder / "none" / "sheet.csv")
    assert "none" in window.statusBar().currentMessage()


def test_marks_are_seen_by_day_and_by_night(qtbot, window, takes):
    for night in (False, True):
        window.menus.night.setChecked(night)
        choose(takes, "two")
        strip = takes.view.strips[0]
        image = strip.grab().toImage()
        x = round(strip.places()["beat"])
        seen = {QColor(image.pixel(x + dx, 60)).name() for dx in (-1, 0, 1)}
        assert theme().accent.name() in seen


def test_an_empty_session_has_an_empty_call_sheet(qtbot, window):
    window.document.edit(change(window.document.session, blocks=()), "empty")
    window.show_view("takes")
    assert window.views.takes.list.list.count() == 0 and "No line" in window.views.takes.view.heading.text()
    qtbot.keyClick(window.views.takes.list.list, KEYS.Key_N)
    window.document.undo()
    window.document.edit(change_block(window.document.session, 1, rounds=3), "rounds")
    ready(qtbot, window)
    assert window.views.takes.list.list.count() > 3


def test_a_line_without_a_take_is_heard_in_the_stand_in_s_voice(qtbot, window, takes):
    choose(takes, "exhale")
    assert takes.view.chosen is None and not takes.view.buttons["x"].isEnabled()
    qtbot.keyClick(takes.list.list, KEYS.Key_P)
    heard = takes.view.audition.samples
    assert np.array_equal(heard, window.preparation.narrator.example("exhale", talk=False).samples)
    takes.view.audition.stop()


def test_a_take_is_read_from_the_disk_once_while_it_is_shown(qtbot, takes, monkeypatch):
    choose(takes, "two")
    read = []
    sound = TakeBook.sound
    monkeypatch.setattr(TakeBook, "sound", lambda book, take: read.append(take.file) or sound(book, take))
    takes.view.show_line(takes.view.standing)
    assert read == []
    takes.view.step(1)
    qtbot.keyClick(takes.list.list, KEYS.Key_Right)
    moved = takes.view.chosen.file
    assert next(s.take.beat for s in takes.view.strips if s.take.file == moved) == pytest.approx(0.04)
    assert [file for file in read if file != moved] == []  # casting reads the changed one, the view none


def test_a_breath_before_a_word_is_marked_on_its_strip(qtbot):
    air, word = breath(np.random.default_rng(5)) * 4, CachedEngine(Espeak()).read("five", "en", 130)[0]
    sound = np.concatenate([np.zeros(RATE // 10), air, np.zeros(RATE // 4), word]).astype(np.float32), RATE
    seconds = len(sound[0]) / RATE
    take = Take(file="five.wav", text="five", trim=(0.0, seconds), beat=0.6)
    strip = TakeStrip(take, sound, None, seconds)
    qtbot.addWidget(strip)
    ((at, name),) = strip.marks()
    assert name == "breath" and at == pytest.approx(0.15, abs=0.12) and f"a breath at {at:.2f} s" in strip.facts()
    strip.resize(500, strip.height())
    column = strip.grab().toImage().pixelColor(round(strip._x(at)), strip.height() - 22)
    assert column.red() > column.blue() + 30  # the warning's colour, softened by its edges


def test_a_take_has_a_menu_of_what_can_be_done_with_it(qtbot, window):
    window.show_view("takes")
    view = window.views.takes_room().view
    qtbot.waitUntil(lambda: view.standing is not None)
    take = Take(file="one.wav", text="one", trim=(0.1, 0.5), beat=0.05)
    view._show_takes((take,), None)
    strip = view.strips[0]
    strip.customContextMenuRequested.emit(QPoint(5, 5))
    menu = strip.findChild(QMenu)
    names = {action.text(): action.isEnabled() for action in menu.actions() if action.text()}
    assert set(names) == {button.text().rsplit("  ", 1)[0] for button in view.buttons.values()}
    assert names["Set aside"] and not names["It is this line"]  # nothing is doubted
    menu.close()


def test_a_block_has_a_take_book_of_its_own_which_the_view_works_on(qtbot, window, takes, folder, monkeypatch):
    places = [n for n, block in enumerate(window.document.session.blocks) if block.kind == "breath"]
    window.choose(Chosen(places[0]))
    fields, begun = window.details.breath.voice, folder / "guest"
    begun.mkdir()
    monkeypatch.setattr("nafas.desk.details.voice_fields.ask_folder", lambda *_: str(begun))
    fields.takes.chose.emit(fields.takes._values[-1])  # another take book…
    assert window.document.session.blocks[places[0]].take_book.path == "guest" and (begun / "takes.json").exists()
    ready(qtbot, window)
    window.show_view("takes")
    side = takes.side
    assert side.which.isVisible() and side.which.count() == 2
    side.which.setCurrentIndex(1)
    side.which.activated.emit(1)
    assert takes.shelf.folder == begun and {s.line.book for s in takes.shelf.statuses} == {"guest"}
    assert takes.shelf.begin_book(folder / "other")
    assert window.document.session.blocks[places[0]].take_book.path == "other"
    assert window.document.session.voice.take_book.path == "book"
    window.undo()
    window.undo()
    assert window.document.session.blocks[places[0]].take_book is None and not takes.shelf.chosen
