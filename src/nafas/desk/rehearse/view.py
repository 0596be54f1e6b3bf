"""The Rehearse view: the guide, and the keys by which a place is marked while it runs."""

from datetime import UTC, datetime
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QInputDialog, QVBoxLayout, QWidget

from nafas.desk import preferences
from nafas.desk.audio.audition import Audition
from nafas.desk.audio.player import Player
from nafas.desk.document import Document
from nafas.desk.rehearse.canvas import FullScreenGuide, GuideCanvas
from nafas.desk.rehearse.rehearsing import Rehearsing
from nafas.desk.rehearse.side import RehearseSide
from nafas.desk.rehearse.spoken_note import FOLDER, SpokenNote
from nafas.desk.widgets.controls import fill
from nafas.desk.widgets.labels import Label
from nafas.errors import InputError
from nafas.plain_text import pluralize
from nafas.rehearsal.breathing import BreathingSummary, against_guide, summary_of
from nafas.rehearsal.guide import Guide, set_span
from nafas.rehearsal.places import mark_at, time_of
from nafas.rehearsal.record import Rehearsal, add_rehearsal, over_time, rehearsals, with_breathing
from nafas.score.layout import Layout
from nafas.script.edits.session_edits import block_name
from nafas.script.model.marks import Felt, Mark
from nafas.sound.files.recording import Recording
from nafas.timing.clock import clock
from nafas.timing.timeline import Timeline

KEYS = {
    "r": Felt.RUSHED, "s": Felt.SLOW, "b": Felt.BREATH, "l": Felt.LOST, "v": Felt.LOVELY, "+": Felt.LOUD,
    "-": Felt.QUIET, "w": Felt.WORDS, "n": Felt.NOTE,
}  # fmt: skip
_SAID = {Felt.NOTE: "speak a note (hold)"}
_RATE = 48_000


class RehearseView(QWidget):
    """Signals: open_mark: a mark whose matter is to be shown; said: for the status line."""

    open_mark = Signal(object)
    said = Signal(str)

    def __init__(self, document: Document, player: Player) -> None:
        super().__init__()
        self.document, self.player = document, player
        self.rehearsing = Rehearsing(player, self)
        self.note = SpokenNote(self)
        self.audition = Audition(self)
        self.side = RehearseSide()
        self.canvas = GuideCanvas(self.key)
        self.full: FullScreenGuide | None = None
        self.chosen_place = 0.0
        """Where what is chosen on the page begins."""
        self.summary: BreathingSummary | None = None
        self._timeline: Timeline | None = None
        self._set_now = 0
        self._note_at = 0.0
        self._recorded: str | None = None
        """The session whose rehearsals are shown."""
        named = [f"{key.upper()} {_SAID.get(felt, felt.value)}" for key, felt in KEYS.items()]
        whole = [text.replace(" ", "\N{NO-BREAK SPACE}") for text in (*named, "Backspace: undo", "F11: full screen")]
        self.legend = Label("Mark while it runs:   " + "    ".join(whole), wordWrap=True)
        self.legend.setObjectName("muted")
        fill(QVBoxLayout(self), (self.canvas, 1), self.legend, margins=(0, 6, 0, 0))
        side = self.side
        side.toggled.connect(self.toggle)
        side.open_mark.connect(lambda index: self.open_mark.emit(self.document.session.marks[index]))
        side.settle_mark.connect(self._settle)
        side.write_mark.connect(self._write)
        side.remove_mark.connect(self._remove)
        side.hear_note.connect(self._hear_note)
        side.keep.connect(self.keep)
        side.still.connect(self._still)
        side.still_box.setChecked(preferences.less_motion())
        self.rehearsing.moved.connect(self._moved)
        self.rehearsing.running_changed.connect(self._running)
        self.note.kept.connect(lambda name: self._mark(Felt.NOTE, self._note_at, name))
        self.note.failed.connect(self.said)
        document.marked.connect(self.show_marks)
        document.opened.connect(self._forget)

    # -- what is shown

    def show_session(self, timeline: Timeline, layout: Layout) -> None:
        """Show the session as it stands, on the page's own layout."""
        self._timeline = timeline
        for canvas in self._canvases():
            canvas.show_guide(Guide(timeline, layout))
        if not self.rehearsing.running:
            self._moved(self.player.seconds)
        self.show_marks()
        if self._recorded != self.document.session.title:  # the ledger is a file: not at every edit
            self._show_record()

    def _canvases(self) -> list[GuideCanvas]:
        return [self.canvas, *([self.full.canvas] if self.full is not None else [])]

    def show_marks(self) -> None:
        """Show the marks with where they stand now."""
        marks, timeline = self.document.session.marks, self._timeline
        if timeline is None:
            return
        times = [time_of(timeline, mark) for mark in marks]
        names = {block.id: block_name(block) for block in timeline.session.blocks}
        wheres = [
            f"{clock(at)} {names.get(mark.block, '')}".strip() if at is not None else "its block is gone"
            for mark, at in zip(marks, times)
        ]
        self.side.show_marks(marks, wheres)

    # -- running

    def toggle(self) -> None:
        """Begin or end a rehearsal."""
        if self.rehearsing.running:
            self.rehearsing.end()
            return
        timeline = self._timeline
        if timeline is None or not timeline.blocks:
            self.said.emit("There is nothing to rehearse yet: write a set first")
            return
        side = self.side
        begin = {"start": 0.0, "chosen": self.chosen_place, "playhead": self.player.seconds}[side.start.currentData()]
        if begin >= float(timeline.length) - 0.1:
            begin = 0.0
        loop = set_span(timeline, begin) if side.loop.isChecked() else None
        senses = side.senses.currentData()
        for canvas in self._canvases():
            canvas.blind = senses == "sound"
        self.summary, self._set_now = None, 0
        side.breathed.setText("")
        self.rehearsing.begin(begin, side.lead.currentData(), loop, senses != "picture")
        (self.full.canvas if self.full is not None else self.canvas).setFocus()

    def _running(self, running: bool) -> None:
        self.side.show_running(running)
        if not running:
            self.note.end()
            for canvas in self._canvases():
                canvas.blind = False
            self._show_breathed()
            self.said.emit("How did it feel? Say so on the right, and save it")

    def _moved(self, seconds: float) -> None:
        leading = self.rehearsing.leading_in
        left = max(1, -int(-(self.rehearsing.begin_at - seconds) // 1)) if leading else 0
        own = self.rehearsing.breaths if self.side.along.currentData() != "no" else ()
        for canvas in self._canvases():
            canvas.show_time(seconds, own, left)

    def key(self, event: QKeyEvent, down: bool) -> bool:
        """A key on the guide: begin and end, marks, the breath."""
        key, running = event.key(), self.rehearsing.running
        along = self.side.along.currentData() if running else "no"
        if along == "one" and key == Qt.Key.Key_Space:
            self.rehearsing.press(True, down)
        elif along == "two" and key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.rehearsing.press(key == Qt.Key.Key_Up, down)
        elif event.text().lower() == "n" or (key == Qt.Key.Key_N and not down):
            self._speak(down)
        elif not down:
            return False
        elif key == Qt.Key.Key_Space:
            self.toggle()
        elif key == Qt.Key.Key_Escape and running:
            self.rehearsing.end()
        elif key in (Qt.Key.Key_Escape, Qt.Key.Key_F11) and self.full is not None:
            self.full.close()
        elif key == Qt.Key.Key_Backspace and self._set_now:
            self._remove(len(self.document.session.marks) - 1)
            self._set_now -= 1
        elif event.text().lower() in KEYS and (running or self.player.seconds):
            self._mark(KEYS[event.text().lower()], self.rehearsing.seconds)
        else:
            return False
        return True

    # -- full screen

    def show_full(self) -> None:
        """The guide alone on the screen, or back again."""
        if self.full is not None:
            self.full.close()
            return
        self.full = FullScreenGuide(self.key)
        self.full.canvas.still, self.full.canvas.blind = self.canvas.still, self.canvas.blind
        if self.canvas.guide is not None:
            self.full.canvas.show_guide(self.canvas.guide)
        self.full.closed.connect(self._full_closed)
        self.full.showFullScreen()
        self.full.canvas.setFocus()
        self._moved(self.rehearsing.seconds)

    def _full_closed(self) -> None:
        if self.full is not None:
            self.full.deleteLater()
        self.full = None
        self.canvas.setFocus()

    def _still(self, still: bool) -> None:
        for canvas in self._canvases():
            canvas.still = still
            canvas.update()

    # -- marks

    def _mark(self, felt: Felt, seconds: float, sound: str = "") -> None:
        if self._timeline is None:
            return
        mark = mark_at(self._timeline, seconds, felt, sound=sound)
        self._change((*self.document.session.marks, mark))
        self._set_now += 1
        self.said.emit(f"Marked {clock(seconds, tenths=True)}: {felt.value}")
        if felt is Felt.WORDS and not self.rehearsing.running:
            self._write(len(self.document.session.marks) - 1)

    def _change(self, marks: tuple[Mark, ...]) -> None:
        try:
            self.document.mark(marks)
        except ValueError:
            self.said.emit("A session can hold no more marks: remove those that are settled")

    def _settle(self, number: int, settled: bool) -> None:
        marks = list(self.document.session.marks)
        marks[number] = marks[number].model_copy(update={"settled": settled})
        self._change(tuple(marks))

    def _remove(self, number: int) -> None:
        marks = list(self.document.session.marks)
        if 0 <= number < len(marks):
            del marks[number]
            self._change(tuple(marks))

    def _write(self, number: int) -> None:
        """Ask for the words of a mark."""
        before = self.document.session.marks[number].note
        text, taken = QInputDialog.getText(self, "Mark", "What do you want to note here?", text=before)
        if taken:
            marks = list(self.document.session.marks)
            marks[number] = marks[number].model_copy(update={"note": " ".join(text.split())[:500]})
            self._change(tuple(marks))

    def _speak(self, down: bool) -> None:
        if down and not self.note.recording:
            self._note_at = self.rehearsing.seconds
            self.note.begin(self._note_folder())
            if self.note.recording:
                self.said.emit("Recording a note while N is held")
        elif not down:
            self.note.end()

    def _note_folder(self) -> Path:
        return self.document.folder

    def _hear_note(self, number: int) -> None:
        mark = self.document.session.marks[number]
        try:
            recording = Recording(self._note_folder() / FOLDER / mark.sound, _RATE)
        except InputError as error:
            self.said.emit(str(error))
            return
        self.audition.play_from(lambda at, frames: recording.read(at, frames), recording.file_frames, _RATE)

    # -- afterwards

    def _show_breathed(self) -> None:
        along, timeline = self.side.along.currentData(), self._timeline
        if along == "no" or timeline is None or not self.rehearsing.presses:
            return
        timings = against_guide(timeline, self.rehearsing.presses, self.rehearsing.begin_at, self.rehearsing.end_at)
        self.summary = summary = summary_of(timings)
        self.side.breathed.setText(breathed_words(summary, timeline))

    def keep(self) -> None:
        """Put the rehearsal into the record."""
        session, side = self.document.session, self.side
        made = Rehearsal(
            when=datetime.now(UTC).astimezone().isoformat(timespec="seconds"), title=session.title,
            begin=round(self.rehearsing.begin_at, 3),
            end=round(self.rehearsing.end_at, 3), before=side.before.currentText().strip()[:300],
            after=side.after.currentText().strip()[:300], note=side.note.text().strip(), marks=self._set_now,
        )  # fmt: skip
        if self.summary is not None:
            made = with_breathing(made, self.summary)
        try:
            add_rehearsal(made, session)
        except InputError as error:
            self.said.emit(str(error))
            return
        side.note.clear()
        side.before.setCurrentText(side.after.currentText())
        side.after.setCurrentText("")
        self._show_record()
        self.said.emit("Saved in the ledger")

    def _show_record(self) -> None:
        self._recorded = self.document.session.title
        try:
            kept = rehearsals(self.document.session.title)
        except InputError as error:
            self.side.record.setText(str(error))
            return
        last = kept[-1] if kept else None
        if last is None:
            self.side.record.setText("")
            return
        felt = f"The last one, {last.when[:10]}: {last.before or 'not said'}, then {last.after or 'not said'}."
        message = f"{pluralize(len(kept), 'rehearsal')} kept of this session. {felt} {over_time(kept)}"
        self.side.record.setText(message.strip())

    def _forget(self) -> None:
        self.rehearsing.end()
        self._set_now, self.summary = 0, None
        self.side.breathed.setText("")

    def close_down(self) -> None:
        """The window is closing."""
        self.rehearsing.end()
        self.note.end()
        self.audition.stop()
        if self.full is not None:
            self.full.close()


def breathed_words(summary: BreathingSummary, timeline: Timeline) -> str:
    """How it was breathed along, in words."""
    if summary.lag is None or summary.spread is None:
        return "You did not breathe along with the guide."
    names = {block.id: block_name(block) for block in timeline.session.blocks}
    late = "after" if summary.lag >= 0 else "before"
    message = [
        f"{pluralize(summary.breathed, 'breath')}, begun {abs(1000 * summary.lag):.0f} ms {late} the guide "
        f"(spread {1000 * summary.spread:.0f} ms)."
    ]
    if abs(summary.drift) > 0.05:
        message.append(f"It drifts by {1000 * summary.drift:+.0f} ms a minute.")
    message += [
        f"Hold let go {by:.1f} s early in round {round_} of {names.get(block, block)}."
        for block, round_, by in summary.released[:4]
    ]
    if len(summary.short) >= 3:
        message.append(f"{pluralize(len(summary.short), 'breath')} ended before the guide's: counts may be too long.")
    if summary.given_up:
        rounds = ", ".join(str(round_) for _, round_ in summary.given_up[:8])
        message.append(f"You did not breathe along in round {rounds}.")
    return " ".join(message)
