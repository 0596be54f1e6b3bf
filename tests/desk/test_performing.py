"""Performing on the real window: the prompter, a performance by the practice microphone, its takes, its file."""

import numpy as np
import pytest
import soundfile
from helpers import ready
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage

from nafas.desk.audio.microphones import Practice
from nafas.desk.rehearse import perform_dialog
from nafas.desk.rehearse.performance_file import PerformanceFile
from nafas.errors import InputError
from nafas.script import read_block
from nafas.script.edits.session_edits import change
from nafas.voice.takebook.book import TakeBook

KEYS, LEFT = Qt.Key, Qt.MouseButton.LeftButton


@pytest.fixture
def perform(qtbot, window, folder, monkeypatch):
    monkeypatch.setattr(perform_dialog, "LEAD", 0.6)
    monkeypatch.setattr(perform_dialog, "microphones", lambda: [("practice", lambda: Practice(seed=1))])
    blocks = (read_block("3-4 x2", "waves"), read_block("4-4 x2", "even"))
    session = change(window.document.session, blocks=blocks, target_length=None, opening=1, closing=1, end_bell=False)
    window.document.edit(session, "blocks")
    window.document.save(folder / "s.nafas")
    ready(qtbot, window)
    qtbot.keyClick(window, KEYS.Key_P, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    return window.outputs.perform_dialog


def pixels(widget):
    image = widget.grab().toImage().convertToFormat(QImage.Format.Format_Grayscale8)
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return rows[:, : image.width()].astype(float)


def test_the_prompter_says_what_is_now_and_next_and_fills_to_the_beat(perform):
    prompter = perform.prompter
    for seconds, now, after, share in (
        (0.5, None, "inhale", 15 / 16),
        (2.5, "two", "three", 0.5),
        (4.75, "exhale", "two", 0.75),
    ):
        prompter.show_time(seconds)
        current, following, filled = prompter.now()
        assert (current and current.text, following.text) == (now, after) and filled == pytest.approx(share, abs=0.01)
    plain = pixels(prompter)
    perform.mirror.setChecked(True)
    mirrored = pixels(prompter)
    assert np.abs(mirrored[:, ::-1] - plain).mean() < 1 < np.abs(mirrored - plain).mean()  # edges are softened again


def test_a_performance_is_recorded_judged_and_used(qtbot, window, perform, folder, monkeypatch):
    perform.start.setCurrentIndex(1)  # punched in at the second set
    before = window.player.parts
    qtbot.keyClick(perform.prompter, KEYS.Key_Space)
    qtbot.waitUntil(lambda: perform.rehearsing.running and not perform.rehearsing.leading_in, timeout=20_000)
    heard = window.player.parts
    assert not heard.voice and not heard.chimes and heard.clicks  # clicks in the headphones only
    qtbot.waitUntil(lambda: perform.found is not None, timeout=60_000)
    assert window.player.parts == before
    assert [(block, number) for block, number, _, _ in perform.found.by_round()] == [("even", 1), ("even", 2)]
    late = [abs(word.late) for word in perform.found.counted]
    assert len(late) >= 14 and 0.01 < np.median(late) < 0.2  # a busy machine's card may stop for a moment
    path = folder / "performances" / "performance-1.wav"
    assert soundfile.info(path).duration > 15 and "performance-1.wav" in perform.outcome.text()
    monkeypatch.setattr(perform_dialog, "ask_save_name", lambda *_: folder / "spoken.wav")
    qtbot.mouseClick(perform.spoken, LEFT)
    qtbot.waitUntil(lambda: "Saved" in perform.outcome.text(), timeout=30_000)
    assert soundfile.info(folder / "spoken.wav").frames == window.preparation.mix.length
    qtbot.mouseClick(perform.use, LEFT)
    qtbot.waitUntil(lambda: not perform.use.isEnabled() and "used" in perform.outcome.text(), timeout=20_000)
    book = TakeBook(folder / "s takes")
    assert len(book.index.takes) >= 14 and any(take.aside for take in book.index.takes)
    assert window.document.session.voice.take_book is not None
    perform.reject()


def test_closed_while_it_gets_ready_it_does_not_record(qtbot, window, perform, folder):
    perform.toggle()
    assert perform.background.running
    perform.reject()
    qtbot.waitUntil(lambda: not perform.background.running, timeout=20_000)
    assert not perform.rehearsing.running and not window.player.playing and not (folder / "performances").exists()


def test_closed_while_it_records_it_keeps_what_was_said(qtbot, window, perform, folder):
    perform.toggle()
    qtbot.waitUntil(lambda: perform.rehearsing.running and not perform.rehearsing.leading_in, timeout=20_000)
    qtbot.waitUntil(lambda: perform.file.frames > perform.file.rate, timeout=20_000)
    perform.reject()
    assert not window.player.playing and not perform.background.running
    assert soundfile.info(folder / "performances" / "performance-1.wav").duration > 1


def test_a_microphone_that_cannot_be_opened_and_a_folder_that_cannot_be_written(perform, monkeypatch):
    def broken():
        raise OSError("it is gone")

    monkeypatch.setattr(perform, "_devices", [("broken", broken)])
    perform.toggle()
    assert "cannot be opened: it is gone" in perform.outcome.text() and not perform.rehearsing.running
    perform.reject()


def test_what_was_recorded_can_be_read_at_any_moment(folder, monkeypatch):
    file = PerformanceFile(folder, 8000)
    file.add(np.full(4000, 0.25, np.float32))
    file._update()
    samples, rate = soundfile.read(file.path)  # as after a crash: it was never ended
    assert rate == 8000 and len(samples) == 4000 and np.all(samples == 0.25)
    second = PerformanceFile(folder, 8000)
    assert second.path.name == "performance-2.wav"

    def full(data):
        raise OSError(28, "No space left on device")

    class Full:
        write = staticmethod(full)

    monkeypatch.setattr(file, "_file", Full())
    with pytest.raises(InputError, match="kept"):
        file.add(np.zeros(10, np.float32))
    with pytest.raises(InputError):
        (folder / "blocked").write_text("")
        PerformanceFile(folder / "blocked", 8000)
