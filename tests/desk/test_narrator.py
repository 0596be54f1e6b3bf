"""The narrator in the window: what is read is heard while the rest is being read; voice, pace and words are chosen."""

import time

import numpy as np
import pytest
from helpers import ready

from nafas.script import Session, Talk, read_block
from nafas.script.model.voice import Pronunciation
from nafas.voice.engines.choice import Reader


class Slow:
    """Reads a tone a word, and takes its time."""

    name, readings = "slow", 3

    def __init__(self):
        self.read_lines = []

    def read(self, text, voice, pace, reading=0):
        time.sleep(0.05)
        self.read_lines.append(text)
        t = np.arange(int(0.3 * len(text.split()) * 22_050)) / 22_050
        return (0.2 * np.sin(2 * np.pi * 300 * t)).astype(np.float32), 22_050


@pytest.fixture
def slow(monkeypatch):
    engine = Slow()
    reader = Reader(engine, "slow", "slow", slow=True)
    monkeypatch.setattr("nafas.voice.engines.narrator.reader_for", lambda voice, language: reader)
    monkeypatch.setattr("nafas.desk.work.preparation.READ_SECONDS", 0.2)
    return engine


def test_what_is_read_is_heard_while_the_rest_is_being_read(qtbot, window, slow):
    talk = Talk(id="t", paragraphs=tuple(f"This is line {n} of the talk." for n in range(12)))
    unread = []
    window.preparation.ready.connect(lambda: unread.append(window.preparation.unread))
    window.document.start(Session(blocks=(talk, read_block("3-3 x2", "s")), bed=None))
    qtbot.waitUntil(lambda: bool(unread), timeout=20_000)
    assert unread[0] >= 12 and window.preparation.mix is not None  # at once, before a line is read
    assert f"{unread[0]} lines to go" in window.statusBar().currentMessage()
    window.player.toggle()
    assert window.player.playing
    window.player.toggle()
    qtbot.waitUntil(lambda: unread[-1] == 0, timeout=30_000)
    assert len(unread) >= 3 and unread == sorted(unread, reverse=True)
    cast = window.preparation.cast
    assert not cast.waiting_lines and cast.stand_ins == 16
    first = [line for line in slow.read_lines if "talk" in line]
    assert first == list(talk.paragraphs)  # in the order of time
    many = len(slow.read_lines)
    window.editing.attempt(lambda: window.document.session.model_copy(update={"title": "Another"}), "title")
    ready(qtbot, window)
    assert len(slow.read_lines) == many  # nothing is read twice


def test_voice_pace_and_words_are_chosen_in_the_details(qtbot, window, monkeypatch):
    fields = window.details.session_form.narrator
    assert fields.section.head.summary == "joe"
    fields.section.head.click()
    qtbot.waitUntil(fields.voice.isVisible)
    assert "CC0" in fields.licence.text() and not fields.fills.isVisible()
    fields.pace.setValue(95)
    fields.voice.chose.emit("espeak")
    voice = window.document.session.voice
    assert (voice.pace, voice.narrator) == (95, "espeak") and fields.section.head.summary == "eSpeak"
    assert not fields.licence.isVisible()
    fields.another.click()
    row = fields.list.rows[0]
    row.word.line.setText("inhale")
    row.word.line.editingFinished.emit()
    assert window.document.session.voice.pronunciation == ()  # not before both are there
    row.read.line.setText("in hale")
    row.read.line.editingFinished.emit()
    assert window.document.session.voice.pronunciation == (Pronunciation(word="inhale", read="in hale"),)
    heard = []
    monkeypatch.setattr(fields.audition, "play", lambda samples, rate: heard.append((len(samples), rate)))
    fields.hear.click()
    qtbot.waitUntil(lambda: bool(heard), timeout=20_000)
    assert heard[0][0] / heard[0][1] > 7  # eight counts a second apart
    fields.list.rows[0].remove.click()
    assert window.document.session.voice.pronunciation == ()
