"""The middle of the Takes view: one line of the call sheet, its takes as waveforms, and what can be heard and done."""

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPoint, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QGridLayout,
    QInputDialog,
    QMenu,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from nafas.desk.audio.audition import Audition
from nafas.desk.takes.shelf import Shelf
from nafas.desk.takes.strip import TakeStrip
from nafas.desk.widgets.controls import Button, emptied, fill
from nafas.desk.widgets.labels import Label, RichLabel, escape
from nafas.errors import InputError
from nafas.voice.audition import RATE, against_click, on_grid, words_to_count
from nafas.voice.call_sheet import LineKind
from nafas.voice.line_status import LineStatus
from nafas.voice.takebook.book import Take
from nafas.voice.takebook.editor import accepted, estimated, with_line

_MOST_SHOWN = 40
_STEP, _FINE = 0.01, 0.001


class TakesView(QWidget):
    """Signals: said: words for the status line; in_place: a take, to be heard where it is used; next_line."""

    said = Signal(str)
    in_place = Signal(object)
    next_line = Signal()

    def __init__(self, shelf: Shelf) -> None:
        super().__init__()
        self.setAccessibleName("Takes")
        self.shelf = shelf
        self.audition = Audition(self)
        self.standing: LineStatus | None = None
        self.strips: list[TakeStrip] = []
        self.chosen: Take | None = None
        self._heard: TakeStrip | None = None
        self._read: dict[tuple[object, ...], tuple[np.ndarray, int] | None] = {}
        self.heading = Label(objectName="heading", wordWrap=True)
        self.about = RichLabel(objectName="muted")
        self.about.setWordWrap(True)
        self.rows = QVBoxLayout()
        self.rows.setContentsMargins(0, 0, 6, 0)
        self.rows.setSpacing(8)
        inner = QWidget()
        inner.setLayout(self.rows)
        self.scrolled = QScrollArea()
        self.scrolled.setWidgetResizable(True)
        self.scrolled.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.scrolled.setWidget(inner)
        self.empty = Label(objectName="muted", wordWrap=True)
        self.empty.setAlignment(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)
        fill(
            QVBoxLayout(self),
            self.heading,
            self.about,
            (self.scrolled, 1),
            self._buttons(),
            spacing=6,
            margins=(14, 6, 14, 8),
        )
        self.audition.moved.connect(self._show_playhead)
        self.audition.playing_changed.connect(lambda on: None if on else self._show_playhead(None))
        self._keys: dict[str, Callable[[], object]] = {
            "p": self.play_take, "c": self.play_against_click, "e": self.play_counted, "i": self.play_in_place,
            "y": self.accept, "x": self.set_aside, "b": self.find_beat, "l": self.give_line,
            "n": self.next_line.emit, ",": lambda: self.step(-1), ".": lambda: self.step(1),
        }  # fmt: skip

    def _buttons(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(6)
        grid.setVerticalSpacing(6)
        self.buttons: dict[str, QPushButton] = {}
        rows = (
            ("Hear", (("p", "Play it", self.play_take), ("c", "Against clicks", self.play_against_click),
                      ("e", "Count of eight", self.play_counted), ("i", "In its place", self.play_in_place))),
            ("Judge", (("y", "It is this line", self.accept), ("x", "Set aside", self.set_aside),
                       ("l", "Another line…", self.give_line), ("b", "Find the beat", self.find_beat))),
        )  # fmt: skip
        for row, (name, buttons) in enumerate(rows):
            grid.addWidget(Label(name, objectName="muted"), row, 0)
            for column, (key, text, does) in enumerate(buttons, 1):
                button = Button(f"{text}  {key.upper()}", does, kind="small", name=text, tip=f"{text} ({key.upper()})")
                grid.addWidget(button, row, column)
                grid.setColumnStretch(column, 1)
                self.buttons[key] = button
        return grid

    # -- what is shown

    def show_line(self, standing: LineStatus | None) -> None:
        """Show a line with its takes."""
        same = standing is not None and self.standing is not None and standing.line.key == self.standing.line.key
        self.standing = standing
        if not same:
            self.audition.stop()
            self._read = {}
        if standing is None:
            self.heading.setText("No line is chosen")
            self.about.setText("Write talk or a breath set, and every line to record is listed on the left.")
            self._show_takes((), None)
            return
        line = standing.line
        self.heading.setText(line.text)
        uses = "once" if line.uses == 1 else f"{line.uses} times"
        facts, where = [f"said {uses}"], escape(line.where)
        if line.room is not None:
            facts.append(f"{line.room:.2f} s from its beat to the next word where it is tightest ({where})")
        if standing.misfit is not None:
            facts.append(f"<b>{standing.misfit.over:.2f} s too long</b> there")
        self.about.setText("; ".join(facts) + ".")
        takes = self.shelf.takes(line)
        keep = self.chosen if same else None
        self._show_takes(takes, line.room, keep)

    def _show_takes(self, takes: tuple[Take, ...], room: float | None, keep: Take | None = None) -> None:
        old = {strip.take: strip for strip in self.strips if strip.room == room}
        shown = takes[:_MOST_SHOWN]
        # A file is read once while its line is shown: a moved beat or trim changes nothing of it.
        files = {take: (self.shelf.folder, take.file, take.sha256) for take in shown}
        self._read = {file: self._read.get(file) or self._sound(take) for take, file in files.items()}
        sounds = {take: self._read[file] for take, file in files.items()}
        span = max((len(s) / r for s, r in filter(None, sounds.values())), default=1.0)
        keep_scroll = self.scrolled.verticalScrollBar().value()
        emptied(self.rows)
        self.strips = []
        for take, sound in sounds.items():
            strip = old.pop(take, None)
            if strip is None or strip.span != max(span, 0.05):
                strip = TakeStrip(take, sound, room, span)
                strip.customContextMenuRequested.connect(lambda at, strip=strip: self._menu(strip, at))
                strip.chosen.connect(lambda strip=strip: self._choose(strip.take))
                strip.changed.connect(lambda new, label, strip=strip: self._changed(strip.take, new, label))
            self.rows.addWidget(strip)
            self.strips.append(strip)
        if not takes:
            self.rows.addWidget(self._emptiness())
        elif len(takes) > _MOST_SHOWN:
            self.rows.addWidget(Label(f"and {len(takes) - _MOST_SHOWN} more takes", objectName="muted"))
        self.rows.addStretch(1)
        same = (take for take in takes if keep is not None and take.file == keep.file)
        self.chosen = next(same, next(iter(takes), None))
        self._choose(self.chosen)
        QTimer.singleShot(0, lambda: self.scrolled.verticalScrollBar().setValue(keep_scroll))

    def _emptiness(self) -> Label:
        label = Label(objectName="muted", wordWrap=True)
        if self.shelf.trouble is not None:
            label.setText(f"{self.shelf.trouble}. Find it again on the right.")
        elif self.standing is not None:
            label.setText(
                "The narrator reads this line. Record it, or import a recording of the call sheet. Its takes are "
                "then listed here, with their felt beats to hear and move."
            )
        return label

    def _sound(self, take: Take) -> "tuple[np.ndarray, int] | None":
        book = self.shelf.book
        try:
            return None if book is None else book.sound(take)
        except InputError as error:
            self.said.emit(str(error))
            return None

    def _choose(self, take: Take | None) -> None:
        self.chosen = take
        for strip in self.strips:
            strip.mark(strip.take == take)
        have = take is not None
        for key in "cbxl":
            self.buttons[key].setEnabled(have)
        for key in "pei":
            self.buttons[key].setEnabled(self.standing is not None)
        self.buttons["y"].setEnabled(
            take is not None and not (take.confidence is None and take.beat_confidence is None)
        )
        self.buttons["x"].setText(("Bring back" if take is not None and take.aside else "Set aside") + "  X")

    def _menu(self, strip: TakeStrip, at: QPoint) -> None:
        """What can be heard and done with a take, under the pointer."""
        self._choose(strip.take)
        menu = QMenu(strip)
        for key, button in self.buttons.items():
            action = menu.addAction(button.text().rsplit("  ", 1)[0], button.click)
            action.setEnabled(button.isEnabled())
            if key == "i":
                menu.addSeparator()
        menu.popup(strip.mapToGlobal(at))

    def step(self, by: int) -> None:
        """Choose the next or the previous take of the line."""
        takes = [strip.take for strip in self.strips]
        if takes:
            index = takes.index(self.chosen) if self.chosen in takes else 0
            self._choose(takes[(index + by) % len(takes)])
            self.scrolled.ensureWidgetVisible(self.strips[(index + by) % len(takes)])

    # -- what is heard

    def play_take(self) -> None:
        """The chosen take alone; where there is none, the narrator's reading."""
        narrator, standing = self.shelf.preparation.narrator, self.standing
        if self.chosen is not None:
            clip = self.shelf.clip(self.chosen)
        else:
            line = None if standing is None else standing.line
            clip = (
                None
                if narrator is None or line is None
                else narrator.of_line(line.language, line.book).example(line.text, line.kind is LineKind.TALK)
            )
        if clip is not None:
            self._heard = next((s for s in self.strips if s.take == self.chosen), None)
            self.audition.play(clip.samples, clip.rate)
            self.said.emit(f"{clip.name}, {float(clip.seconds):.2f} s")

    def play_against_click(self) -> None:
        """The chosen take four times, each with a click on its felt beat, after one click alone."""
        clip = self.shelf.clip(self.chosen) if self.chosen else None
        if clip is not None:
            self._heard = None
            self.audition.play(against_click(clip), RATE)
            self.said.emit("A click, then the take four times: word and click should be felt as one")

    def play_counted(self) -> None:
        """Eight counts a second apart, each on its beat, with the chosen take in its place among them."""
        narrator, standing = self.shelf.preparation.narrator, self.standing
        if narrator is None or standing is None:
            return
        line = standing.line
        words = words_to_count(line)
        clips = [narrator.of_line(line.language, line.book).example(word, talk=False) for word in words]
        own = self.shelf.clip(self.chosen) if self.chosen else None
        if own is not None:
            clips = [own if clip.text == line.text else clip for clip in clips]
        self._heard = None
        self.audition.play(on_grid(clips, 1.0, click=False), RATE)
        self.said.emit(f"Counted a second apart, each on its beat: {', '.join(words)}")

    def play_in_place(self) -> None:
        """The session around the take."""
        self.audition.stop()
        self.in_place.emit(self.chosen)

    def _show_playhead(self, seconds: float | None) -> None:
        if self._heard is not None and self._heard in self.strips:
            self._heard.show_playhead(seconds)

    # -- what is judged

    def _changed(self, old: Take, new: Take, label: str) -> bool:
        self.chosen = new
        if self.shelf.replace(old, new, label):
            return True
        self.show_line(self.standing)  # a strip that was dragged goes back
        return False

    def accept(self) -> None:
        """The chosen take is this line, and its beat is right."""
        if self.chosen is not None:
            take = self.chosen
            if self._changed(take, accepted(take), "accept a take"):
                self.said.emit(f"{take.file} is {take.text!r}")

    def set_aside(self) -> None:
        """Set the chosen take aside, or bring it back."""
        if self.chosen is not None:
            take = self.chosen
            label = "bring a take back" if take.aside else "set a take aside"
            if self._changed(take, take.replace(aside=not take.aside), label):
                self.said.emit(f"{take.file}: {'back' if take.aside else 'set aside, its file is kept'}")

    def find_beat(self) -> None:
        """Level and beat of the chosen take, estimated again."""
        book = self.shelf.book
        if self.chosen is None or book is None:
            return
        try:
            self._changed(self.chosen, estimated(book, self.chosen), "find a beat")
        except InputError as error:
            self.said.emit(str(error))

    def give_line(self) -> None:
        """Ask which line the chosen take is, and give it to that."""
        if self.chosen is None:
            return
        texts = [line.text for line in self.shelf.lines]
        now = texts.index(self.chosen.text) if self.chosen.text in texts else 0
        text, fine = QInputDialog.getItem(self, "Another line", "This take says", texts, now, False)
        if fine and text in texts:
            self.give_to(texts.index(text))

    def give_to(self, number: int) -> None:
        """Give the chosen take to a line of the call sheet."""
        line = self.shelf.lines[number]
        if self.chosen is not None:
            new = with_line(self.chosen, line.text, line.language)
            if self.shelf.replace(self.chosen, new, "give a take another line"):
                self.said.emit(f"It is now a take of {line.text!r} now")

    # -- keys

    def key(self, event: QKeyEvent) -> bool:
        """A key of the bench; whether it was one."""
        if event.modifiers() & ~(Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier):
            return False
        fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        moves = {
            Qt.Key.Key_Left: ("beat", -1), Qt.Key.Key_Right: ("beat", 1),
            Qt.Key.Key_BracketLeft: ("begin", -1), Qt.Key.Key_BracketRight: ("begin", 1),
            Qt.Key.Key_BraceLeft: ("end", -1), Qt.Key.Key_BraceRight: ("end", 1),
        }  # fmt: skip
        if event.key() in moves:
            name, way = moves[Qt.Key(event.key())]
            strip = next((strip for strip in self.strips if strip.take == self.chosen), None)
            if strip is not None:
                strip.nudge(name, way * (_FINE if fine and name == "beat" else _STEP))
            return True
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.play_take()
            return True
        does = self._keys.get(event.text().lower())
        if does is None:
            return False
        does()
        return True

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.key(event):
            super().keyPressEvent(event)
