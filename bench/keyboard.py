"""A six-minute session written from nothing by keyboard alone: how many keys it takes.

Real key events to the real window, no monitor; nothing is clicked, and nothing is called but what keys call. A person's
minutes follow from the keys: 200 a minute, as one who types 40 words a minute does, and a second and a half more for
each command (common practice, no source).

Usage: python bench/keyboard.py [FILE.nafas]
"""

import os
import sys
import tempfile
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["NAFAS_SILENT"] = "1"
for name in ("NAFAS_STATE", "NAFAS_RECORDS", "NAFAS_LIBRARY", "XDG_CONFIG_HOME"):
    os.environ[name] = tempfile.mkdtemp()

# ruff: noqa: E402  Qt reads its environment when it is imported
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from nafas.desk.application import application
from nafas.desk.window import MainWindow
from nafas.script import block_notation, save_session
from nafas.timing.clock import clock

KEYS_A_MINUTE, SECONDS_A_COMMAND = 200, 1.5
CTRL, NONE = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.NoModifier

ARRIVAL = (
    "Welcome aboard, between two crossings. [4s] This is six minutes of easy breathing.",
    "Sit with your back long and your feet on the deck. [3s] Close your eyes if you like.",
    "Stop and breathe as you like if you feel light-headed, short of breath or uneasy. Never force it.",
    "Not while you drive, steer or stand at a machine, nor in or near water. It does not replace medical care.",
)
HOW = ("Breathe in for four, and out for six.",)
RETURN = ("Let your breath go its own way. [6s] Feel your hands, and your feet. [4s] Thank you.",)


class Typist:
    """Presses keys and counts them."""

    def __init__(self, window: MainWindow) -> None:
        self.window = window
        self.keys = self.commands = 0

    def press(self, key: Qt.Key, modifier: Qt.KeyboardModifier = NONE) -> None:
        self.commands += 1
        QTest.keyClick(self._target(), key, modifier)
        settle()

    def type(self, text: str) -> None:
        self.keys += len(text)
        QTest.keyClicks(self._target(), text)
        settle()

    def _target(self) -> object:
        return QApplication.focusWidget() or self.window

    @property
    def minutes(self) -> float:
        return self.keys / KEYS_A_MINUTE + self.commands * (SECONDS_A_COMMAND / 60 + 1 / KEYS_A_MINUTE)


def settle(seconds: float = 0.03) -> None:
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        QApplication.processEvents()


def ready(window: MainWindow) -> None:
    while (mix := window.preparation.mix) is None or mix.cast.timeline.session is not window.document.session:
        settle(0.05)


def write(typist: Typist) -> None:
    """The whole of it, in the order a producer would go."""
    key = Qt.Key
    typist.press(key.Key_T, CTRL)  # a block of talk: the cursor is in its first paragraph
    for paragraph in ARRIVAL:
        typist.type(paragraph)
        typist.press(key.Key_Return)
    typist.press(key.Key_Escape)
    typist.press(key.Key_E, CTRL)  # natural breath
    typist.press(key.Key_T, CTRL)
    for paragraph in HOW:
        typist.type(paragraph)
        typist.press(key.Key_Return)
    typist.press(key.Key_Escape)
    typist.press(key.Key_B, CTRL)  # a breath, in one's own words
    typist.type("in 4 out 6 for 3 min")
    typist.press(key.Key_Return)
    typist.press(key.Key_E, CTRL)
    typist.press(key.Key_T, CTRL)
    for paragraph in RETURN:
        typist.type(paragraph)
        typist.press(key.Key_Return)
    typist.press(key.Key_Escape)
    ready(typist.window)
    typist.press(key.Key_F, CTRL | Qt.KeyboardModifier.ShiftModifier)  # fit to a length
    typist.type("6:00")
    typist.press(key.Key_Return)  # to the ways there
    settle(0.5)
    typist.press(key.Key_Return)  # the first of them


def main(path: Path | None) -> None:
    application()
    window = MainWindow()
    window.resize(1280, 800)
    window.show()
    settle(0.5)
    begun = time.monotonic()
    typist = Typist(window)
    write(typist)
    ready(window)
    took = time.monotonic() - begun
    session = window.document.session
    timeline = window.preparation.mix.cast.timeline
    for block in session.blocks:
        print(f"  {block_notation(block) if block.kind == 'breath' else block.kind}")
    print(f"length {clock(timeline.length, tenths=True)}, {typist.keys} letters and {typist.commands} commands")
    print(f"a person: {typist.minutes:.1f} minutes; the window took {took:.1f} s of it")
    if path is not None:
        save_session(session, path)
    os._exit(0)


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else None)
