"""Recording in the window, from the practice microphone at twenty times the clock; and the reading view."""

from functools import partial

import pytest
from PySide6.QtCore import Qt

from nafas.desk.audio.microphones import Practice, microphones
from nafas.desk.takes import record_dialog
from nafas.desk.takes.reading_dialog import ReadingDialog
from nafas.desk.takes.record_dialog import RecordDialog, Stage
from nafas.script import Session, Talk, read_block
from nafas.timing import compile_session, paced
from nafas.voice import TakeBook
from nafas.voice.call_sheet import call_sheet
from nafas.voice.engines.cache import CachedEngine
from nafas.voice.engines.espeak import Espeak
from nafas.voice.recording.booth import Booth
from nafas.voice.recording.practice import Manners
from nafas.voice.recording.practice_microphone import PracticeMicrophone
from nafas.voice.takebook.editor import TakeBookEditor

LINES = call_sheet(
    [compile_session(Session(blocks=(read_block("3-3 x2"), Talk(id="t", paragraphs=("Thank you, crew.",)))), paced())]
)
KEYS = Qt.Key


class Quick(Practice):
    """Twenty times faster, with known manners."""

    def __init__(self, **manners):
        super().__init__(seed=3, speed=20)
        self.device._manners = Manners(voice="en-us", **{"skip": 0.0, "cough": 0.0, "retake": 0.0, **manners})


class Broken:
    name, rate, failed = "a broken microphone", 48_000, True


@pytest.fixture
def dialog(qtbot, folder, monkeypatch):
    opened = []

    def make(*devices, place=None, lines=LINES):
        monkeypatch.setattr(record_dialog, "_COUNTDOWN_MS", 5)
        monkeypatch.setattr(record_dialog, "microphones", lambda: [(f"device {n}", d) for n, d in enumerate(devices)])
        found = RecordDialog(Booth(lines, TakeBookEditor(folder / "book"), CachedEngine(Espeak())), place)
        found._count.setInterval(5)
        found._on.setInterval(5)
        opened.append(found)
        found.show()
        return found

    yield make
    for each in opened:
        each.close()
        each.deleteLater()


def takes(folder):
    return [take.text for take in TakeBook(folder / "book").index.takes]


def test_the_whole_sheet_is_recorded_hands_off(qtbot, dialog, folder):
    """Space once: every line is asked for, heard to its end and kept, as often as it is wanted."""
    found = dialog(Quick)
    assert found.focusWidget() in (None, found)  # and no list of devices, whose Space opens it
    qtbot.keyClick(found, KEYS.Key_Space)
    wanted = sum(line.wanted for line in LINES)
    qtbot.waitUntil(lambda: found.recorded >= wanted, timeout=300_000)
    assert sorted(takes(folder)) == sorted(line.text for line in LINES for _ in range(line.wanted))
    assert found.booth.wanting() == []


def test_one_line_again_and_heard(qtbot, dialog, folder):
    found = dialog(Quick, place=1)
    found.by_itself.setChecked(False)
    qtbot.keyClick(found, KEYS.Key_Space)
    assert found.stage is Stage.COUNTING
    qtbot.waitUntil(lambda: found.stage is Stage.LISTENING)
    assert found.buttons["record"].text().startswith("Stop")
    qtbot.waitUntil(lambda: found.stage is Stage.KEPT, timeout=60_000)
    assert takes(folder) == [LINES[1].text] and "is kept" in found.remarks.text()
    qtbot.keyClick(found, KEYS.Key_P)
    assert found.audition.playing
    qtbot.keyClick(found, KEYS.Key_R)
    qtbot.waitUntil(lambda: found.stage is Stage.KEPT, timeout=60_000)
    book = TakeBook(folder / "book")
    assert len(book.every_take(LINES[1].text, "en")) == 2 and len(book.takes(LINES[1].text, "en")) == 1
    qtbot.keyClick(found, KEYS.Key_Right)
    assert found.place == 2
    qtbot.keyClick(found, KEYS.Key_Left)
    assert found.place == 1 and found.stage is Stage.READY


def test_nothing_said_is_said_and_nothing_is_kept(qtbot, dialog, folder):
    found = dialog(partial(Quick, skip=1.0, breath=0.0, click=0.0))
    qtbot.keyClick(found, KEYS.Key_Space)
    qtbot.waitUntil(lambda: "heard nothing" in found.remarks.text(), timeout=60_000)
    assert found.stage is Stage.READY and not (folder / "book" / "takes.json").exists()


def test_stopping_and_closing_half_way_keeps_what_was_kept(qtbot, dialog, folder):
    found = dialog(Quick)
    found.by_itself.setChecked(False)
    qtbot.keyClick(found, KEYS.Key_Space)
    qtbot.keyClick(found, KEYS.Key_Space)  # during the countdown
    assert found.stage is Stage.READY
    qtbot.keyClick(found, KEYS.Key_Space)
    qtbot.waitUntil(lambda: found.stage is Stage.KEPT, timeout=60_000)
    qtbot.keyClick(found, KEYS.Key_Space)
    qtbot.waitUntil(lambda: found.stage is Stage.LISTENING)
    found.close()
    assert len(takes(folder)) == 1 and found._microphone is None


def test_a_microphone_that_fails_is_named(qtbot, dialog, folder):
    found = dialog(Broken, Quick)
    qtbot.keyClick(found, KEYS.Key_Space)
    assert "cannot be opened" in found.remarks.text() and found.stage is Stage.READY
    found.device.setCurrentIndex(1)
    found._change_device()
    qtbot.keyClick(found, KEYS.Key_Space)
    qtbot.waitUntil(lambda: found.stage is Stage.LISTENING)
    found._microphone.failed = True
    qtbot.waitUntil(lambda: "stopped answering" in found.remarks.text())
    assert found.stage is Stage.READY


def test_an_empty_sheet_and_the_device_that_is_always_there(qtbot, dialog):
    found = dialog(Quick, lines=[])
    qtbot.keyClick(found, KEYS.Key_Space)
    assert found.stage is Stage.READY and "empty" in found.count.text()
    assert [name for name, _ in microphones()] == [Practice.name]


def test_the_reading_view_goes_through_every_reading(qtbot):
    view = ReadingDialog(LINES)
    qtbot.addWidget(view)
    view.show()
    shown = [view.prompt._line]
    for _ in range(sum(line.wanted for line in LINES)):
        qtbot.keyClick(view, KEYS.Key_Space)
        shown.append(view.prompt._line)
    assert shown[:-1] == [line.text for line in LINES for _ in range(line.wanted)] and "last" in view.prompt._cue
    qtbot.keyClick(view, KEYS.Key_Left)
    assert view.place == len(LINES) - 2
    view.seconds.setValue(1.0)
    view.by_itself.setChecked(True)
    view._timer.setInterval(10)
    qtbot.waitUntil(lambda: not view.by_itself.isChecked(), timeout=2000)  # it stops at the end
    empty = ReadingDialog([])
    qtbot.addWidget(empty)
    empty.go(1)
    assert "empty" in empty.count.text()


def test_the_room_is_checked_before_the_first_line(qtbot, dialog, folder):
    """Five seconds of silence and one line: what is wrong with the room is said, and nothing is recorded."""

    class Noisy(Quick):
        def __init__(self):
            super().__init__()
            manners = Manners(voice="en-us", hum=20.0, snr=24.0, cough=0.0, retake=0.0)
            self.device = PracticeMicrophone(CachedEngine(Espeak()), manners, 3)

    found = dialog(Noisy)
    found.room.click()
    room = found.room_dialog
    assert "silent" in room.asked.text() and not room.again.isEnabled()
    qtbot.waitUntil(lambda: LINES[0].text in room.asked.text(), timeout=90_000)  # a busy machine takes its time
    qtbot.waitUntil(lambda: room.found is not None, timeout=30_000)
    assert room.found.hum == 50 and room.found.over_noise == pytest.approx(23, abs=4)
    assert (
        "over the room" in room.advice.text()
        and "Hum at 50 Hz" in room.advice.text()
        and not (folder / "book").exists()
    )
    room.again.click()
    assert "silent" in room.asked.text() and room.found is None
    room.close_button.click()
    assert not room._timer.isActive()


def test_a_take_from_further_away_is_told(qtbot, folder):
    booth = Booth(LINES, TakeBookEditor(folder / "book"), CachedEngine(Espeak()))
    microphone = Quick(snr=45.0, hum=60.0)
    for line in LINES[:4]:
        microphone.device.ask(line.text)
        said = microphone.device.read(3 * microphone.rate)
        assert not [each for each in booth.record(line, said, microphone.rate).remarks if "the others" in each]
    microphone.device.ask(LINES[4].text)
    said = microphone.device.read(3 * microphone.rate) * 10 ** (-8 / 20)
    assert any("softer than the others" in each for each in booth.record(LINES[4], said, microphone.rate).remarks)
