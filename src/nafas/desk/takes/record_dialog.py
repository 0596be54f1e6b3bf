"""Record the call sheet line by line: the line in large type, a countdown, a microphone, and what it heard."""

from collections.abc import Callable

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QCloseEvent, QKeyEvent, QShowEvent
from PySide6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from nafas.desk.audio.audition import Audition
from nafas.desk.audio.microphones import Microphone, Practice, microphones
from nafas.desk.takes.meter import Meter
from nafas.desk.takes.prompt import Prompt
from nafas.desk.takes.record_words import Stage, cue_words, place_words
from nafas.desk.takes.room_dialog import RoomDialog
from nafas.desk.takes.strip import HEIGHT, TakeStrip
from nafas.desk.widgets.controls import Button, Tick, across, emptied, fill
from nafas.desk.widgets.dialog import Dialog
from nafas.desk.widgets.fields import ComboBox
from nafas.desk.widgets.labels import Label
from nafas.errors import InputError
from nafas.voice.call_sheet import Line
from nafas.voice.recording.booth import Booth, RecordedTake
from nafas.voice.recording.line_endpointer import LineEndpointer

_TICK_MS = 30
_COUNTDOWN_MS = 450
_BEAT = 3
_LONGEST = 60.0
_ROOM = 0.35  # seconds of room before the reader is asked
_PAUSE, _TALK_PAUSE = 0.8, 1.3
_NOTHING = 8.0  # seconds after which nothing was said


class RecordDialog(Dialog):
    """Records into a booth. Every take is on the shelf before the next one begins, so closing loses nothing."""

    help_place = "takes#The way"

    def __init__(self, booth: Booth, number: int | None = None, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Record the call sheet")
        self.resize(980, 700)
        self.booth = booth
        wanting = booth.wanting()
        self.place = number if number is not None else next(iter(wanting), 0)
        self.stage = Stage.READY
        self.recorded = 0
        self.last: RecordedTake | None = None
        self.hearing: LineEndpointer | None = None
        self._left = 0
        self._asked = False
        self._microphone: Practice | Microphone | None = None
        self.audition = Audition(self)
        self._devices = microphones()
        self._build()
        self._timer = QTimer(self, interval=_TICK_MS)
        self._timer.timeout.connect(self._hear)
        self._count = QTimer(self, interval=_COUNTDOWN_MS)
        self._count.timeout.connect(self._count_down)
        self._on = QTimer(self, singleShot=True, interval=700)
        self._on.timeout.connect(self._go_on)
        self._show()

    def _build(self) -> None:
        self.device = ComboBox()
        self.device.setAccessibleName("Microphone")
        self.device.addItems([name for name, _ in self._devices])
        self.device.activated.connect(lambda _: self._change_device())
        self.meter = Meter()
        self.room = Button("Check the room…", self.check_room, auto=False)
        self.room.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.count = Label(objectName="muted")
        self.prompt = Prompt()
        shelf = QWidget()
        shelf.setFixedHeight(HEIGHT)  # so that the line does not jump when a take comes
        self.heard = QVBoxLayout(shelf)
        self.heard.setContentsMargins(0, 0, 0, 0)
        self.remarks = Label(wordWrap=True)
        self.remarks.setMinimumHeight(22)
        self.by_itself = Tick("Go on by itself after a good take")
        self.by_itself.setChecked(True)
        foot = across(self.by_itself, None)
        self.buttons: dict[str, QPushButton] = {}
        for key, text, does in (
            ("back", "Back  ←", lambda: self.go(-1)),
            ("skip", "Skip  →", lambda: self.go(1)),
            ("hear", "Hear it  P", self.hear_last),
            ("again", "Again  R", self.again),
            ("record", "Record  Space", self.toggle),
        ):
            button = Button(
                text, lambda _=False, does=does: does(), kind="primary" if key == "record" else "", auto=False
            )
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            foot.addWidget(button)
            self.buttons[key] = button
        fill(
            QVBoxLayout(self),
            across(Label("From"), self.device, (self.meter, 1), self.room),
            self.count,
            (self.prompt, 1),
            shelf,
            self.remarks,
            foot,
            spacing=10,
            margins=(22, 14, 22, 14),
        )

    @property
    def line(self) -> Line | None:
        return self.booth.lines[self.place] if self.booth.lines else None

    # -- what is done

    def toggle(self) -> None:
        """Begin, or end the line now."""
        if self.stage in (Stage.READY, Stage.KEPT):
            self.begin()
        elif self.stage is Stage.LISTENING:
            self._end()
        else:
            self.stop()

    def begin(self) -> None:
        """Count down and listen for the line."""
        if self.line is None or not self._open_device():
            return
        self._on.stop()
        self.audition.stop()
        self.stage, self._left, self._asked = Stage.COUNTING, _BEAT, False
        self.hearing = None
        self._show()
        self._count.start()
        self._timer.start()

    def check_room(self) -> None:
        """Listen to the room, and to one line in it, before anything is recorded."""
        self.stop()
        if self._open_device() and self._microphone is not None:
            self.room_dialog = RoomDialog(self._microphone, self.line.text if self.line else "one, two, three", self)
            self.room_dialog.open()

    def stop(self) -> None:
        """Stop without keeping anything of this line."""
        self._count.stop()
        self._timer.stop()
        self._on.stop()
        self.stage = Stage.READY
        self._show()

    def again(self) -> None:
        """Set the last take aside, and record its line once more."""
        if self.last is None or self.stage in (Stage.COUNTING, Stage.LISTENING):
            return
        key = (self.last.take.text, self.last.take.language)
        take = self.last.take
        if self._try(lambda: self.booth.drop(take)):
            self.last = None
            self.place = next(p for p, line in enumerate(self.booth.lines) if (line.text, line.language) == key)
            self.begin()

    def hear_last(self) -> None:
        """Play the last take as it will be heard."""
        book = self.booth.edited.book
        if self.last is not None and book is not None and self.stage is not Stage.LISTENING:
            self._on.stop()
            clip = book.clip(self.last.take)
            self.audition.play(clip.samples, clip.rate)

    def go(self, by: int) -> None:
        """The next line, or the one before."""
        if self.booth.lines:
            self.place = min(max(0, self.place + by), len(self.booth.lines) - 1)
            self.stop()

    # -- listening

    def _open_device(self) -> bool:
        if self._microphone is not None and not self._microphone.failed:
            return True
        name, make = self._devices[self.device.currentIndex()]
        try:
            self._microphone = make()
        except Exception as error:  # a device may fail in ways of its own
            self._say(f"{name} cannot be opened ({error}). Choose another microphone.", fault=True)
            return False
        if self._microphone.failed:
            self._say(f"{name} cannot be opened. Choose another microphone.", fault=True)
            self._microphone = None
            return False
        return True

    def _change_device(self) -> None:
        self.stop()
        if self._microphone is not None:
            self._microphone.stop()
            self._microphone = None

    def _count_down(self) -> None:
        self._left -= 1
        if self._left > 0:
            self._show()
            return
        self._count.stop()
        assert self._microphone is not None and self.line is not None
        self._microphone.read()  # what lay in its buffer
        talk = self.line.kind.value == "talk"
        self.hearing = LineEndpointer(self._microphone.rate, _TALK_PAUSE if talk else _PAUSE)
        self.stage = Stage.LISTENING
        self._show()

    def _hear(self) -> None:
        microphone = self._microphone
        if microphone is None:
            return
        if microphone.failed:
            self._microphone = None
            self.stop()
            self._say(
                f"{microphone.name} stopped answering. Nothing of this line was kept; the takes before are.", True
            )
            return
        samples = microphone.read()
        if self.stage is not Stage.LISTENING or self.hearing is None:
            if len(samples):
                quick = LineEndpointer(microphone.rate)
                quick.feed(samples)
                self.meter.show_level(quick.level, quick.peak, quick.clipped)
            return
        hearing = self.hearing
        hearing.feed(samples)
        self.meter.show_level(hearing.level, hearing.peak, hearing.clipped)
        if not self._asked and hearing.seconds >= _ROOM and self.line is not None:
            self._asked = True
            microphone.ask(self.line.text)
        if hearing.over or hearing.seconds > _LONGEST or (not hearing.speaking and hearing.seconds > _NOTHING):
            self._end()

    def _end(self) -> None:
        self._timer.stop()
        hearing, line, self.hearing = self.hearing, self.line, None
        self.stage = Stage.READY
        if hearing is None or line is None or self._microphone is None:
            self._show()
            return
        sound, rate = hearing.sound(), self._microphone.rate

        def keep() -> None:
            self.last = self.booth.record(line, sound, rate)

        if not self._try(keep):
            self._show(keep_words=True)
            return
        assert self.last is not None
        self.recorded += 1
        self.stage = Stage.KEPT
        self._show()
        if self.by_itself.isChecked() and not self.last.remarks:
            self._on.start()

    def _go_on(self) -> None:
        line = self.line
        if line is not None and len(self.booth.takes(line)) < line.wanted:
            self.begin()
            return
        later = [index for index in self.booth.wanting() if index > self.place]
        if later:
            self.place = later[0]
            self.begin()
        else:
            self._say("Every line from here on has its takes.")

    def _try(self, work: Callable[[], object]) -> bool:
        try:
            work()
        except InputError as error:
            self._say(str(error), fault=True)
            return False
        return True

    # -- what is shown

    def _say(self, text: str, fault: bool = False) -> None:
        self.remarks.setObjectName("fault" if fault else "")
        self.remarks.style().polish(self.remarks)
        self.remarks.setText(text)

    def _show(self, keep_words: bool = False) -> None:
        line = self.line
        busy = self.stage in (Stage.COUNTING, Stage.LISTENING)
        for key in ("hear", "again"):
            self.buttons[key].setEnabled(self.last is not None and not busy)
        self.buttons["record"].setEnabled(line is not None)
        self.buttons["record"].setText("Stop  Space" if busy else "Record  Space")
        if line is None:
            self.count.setText("The call sheet is empty: write talk or a breath set first.")
            return
        lines = self.booth.lines
        after = lines[self.place + 1].text if self.place + 1 < len(lines) else ""
        facts = f"within {line.room:.2f} s from its beat" if line.room is not None else "in your own time"
        self.prompt.show_line(line.text, after, facts)
        self.prompt.show_cue(cue_words(self.stage, self._left), self.stage is Stage.LISTENING)
        self.count.setText(place_words(self.booth, self.place))
        if not keep_words:
            self._show_last()

    def _show_last(self) -> None:
        emptied(self.heard)
        book = self.booth.edited.book
        if self.last is None or book is None:
            self._say("Three, two, one, then say the line. It ends by itself when you are silent.")
            return
        try:
            sound = book.sound(self.last.take)
        except InputError as error:
            self._say(str(error), fault=True)
            return
        room = next((line.room for line in self.booth.lines if line.text == self.last.take.text), None)
        strip = TakeStrip(self.last.take, sound, room, len(sound[0]) / sound[1])
        strip.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        strip.setEnabled(False)
        self.heard.addWidget(strip)
        if self.last.remarks:
            self._say(f"“{self.last.take.text[:40]}”: {'; '.join(self.last.remarks)}.", fault=True)
        else:
            self._say(f"“{self.last.take.text[:60]}” is kept: {self.last.take.seconds:.2f} s.")

    def showEvent(self, event: QShowEvent) -> None:
        """Its own keys work at once: no list of devices has the focus."""
        super().showEvent(event)
        self.setFocus(Qt.FocusReason.OtherFocusReason)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys: dict[Qt.Key, Callable[[], None]] = {
            Qt.Key.Key_Space: self.toggle, Qt.Key.Key_R: self.again, Qt.Key.Key_P: self.hear_last,
            Qt.Key.Key_Right: lambda: self.go(1), Qt.Key.Key_Left: lambda: self.go(-1),
        }  # fmt: skip
        does = keys.get(Qt.Key(event.key()))
        if does is None:
            super().keyPressEvent(event)
        else:
            does()

    def _put_away(self) -> None:
        self.stop()
        self.audition.stop()
        if self._microphone is not None:
            self._microphone.stop()
            self._microphone = None

    def done(self, result: int) -> None:
        self._put_away()
        super().done(result)

    def closeEvent(self, event: QCloseEvent) -> None:
        self._put_away()
        super().closeEvent(event)
