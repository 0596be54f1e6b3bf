"""Perform the session: the prompter, a microphone, and afterwards how far each round was off the grid."""

import time
from collections.abc import Callable
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QShowEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QListWidget,
    QProgressBar,
    QVBoxLayout,
    QWidget,
)

from nafas.desk.audio.microphones import Microphone, Practice, microphones
from nafas.desk.audio.player import Player
from nafas.desk.dialogs.save_name import ask_save_name
from nafas.desk.document import Document
from nafas.desk.rehearse.performance_file import PerformanceFile
from nafas.desk.rehearse.prompter import Prompter, sayings
from nafas.desk.rehearse.rehearsing import Rehearsing
from nafas.desk.widgets.controls import Button, Tick, across, fill
from nafas.desk.widgets.dialog import Dialog
from nafas.desk.widgets.fields import ComboBox
from nafas.desk.widgets.labels import Label, set_tip
from nafas.desk.work.background import Background, Note, Outcome
from nafas.errors import InputError
from nafas.plain_text import pluralize
from nafas.rehearsal.as_spoken import as_spoken
from nafas.rehearsal.performance import Performance, judge_performance
from nafas.rehearsal.performance_takes import performance_takes
from nafas.script.edits.session_edits import block_name
from nafas.sound.files.recording import Recording
from nafas.sound.master.render import Mastered, render
from nafas.sound.mix.mix import Mix
from nafas.sound.mix.monitor import Parts
from nafas.timing.timeline import Timeline
from nafas.voice.segmentation.source import Source

if TYPE_CHECKING:
    from nafas.desk.takes.room import TakesRoom

LEAD = 3.0
_FETCH_MS = 40


class PerformDialog(Dialog):
    """Records a performance and judges it.

    Signals:
        used: takes were added to the book.
    """

    help_place = "rehearse#Performing it"

    used = Signal()

    def __init__(
        self,
        document: Document,
        timeline: Timeline,
        player: Player,
        takes_room: "Callable[[], TakesRoom]",
        mix: "Callable[[], Mix | None]",
        begin: float = 0.0,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Perform the session")
        self.resize(1040, 720)
        self.document, self.timeline, self.player = document, timeline, player
        self._takes_room, self._mix = takes_room, mix
        self.rehearsing = Rehearsing(player, self)
        self.found: Performance | None = None
        self.file: PerformanceFile | None = None
        self.offset = 0.0
        self._device: Practice | Microphone | None = None
        self._closed = False
        self._before = player.parts
        self._devices = microphones()
        self.background = Background("perform", self)
        self.background.ended.connect(self._ended)
        self.background.progress.connect(lambda stage, done: self._show_progress(stage, done))
        self._fetching = QTimer(self, interval=_FETCH_MS)
        self._fetching.timeout.connect(self._fetch)
        self._then: Callable[[object], None] = lambda made: None
        self._build(begin)
        self.prompter.show_timeline(timeline)
        self.rehearsing.moved.connect(self._moved)
        self.rehearsing.running_changed.connect(self._running)
        self._tell(f"{pluralize(sayings(timeline, 0.0), 'line is', 'lines are')} said in it. Space begins and ends.")

    def _build(self, begin: float) -> None:
        self.device, self.start = ComboBox(), ComboBox()
        self.device.setAccessibleName("Microphone")
        self.device.addItems([name for name, _ in self._devices])
        self.start.setAccessibleName("Begin with")
        for timed in self.timeline.blocks:
            self.start.addItem(block_name(timed.block) or "talk", float(timed.start))
        starts = [self.start.itemData(row) for row in range(self.start.count())]
        self.start.setCurrentIndex(max((row for row, at in enumerate(starts) if at <= begin + 1e-6), default=0))
        self.mirror, self.clicks, self.bed = Tick("Mirrored"), Tick("Clicks on counts"), Tick("Bed")
        self.clicks.setChecked(True)
        set_tip(self.clicks, "Soft clicks, in the headphones only")
        set_tip(self.bed, "Hear the bed too (use headphones, or it is recorded)")
        self.mirror.toggled.connect(self._mirror)
        self.prompter = Prompter()
        self.list = QListWidget()
        self.list.setAccessibleName("How far each round was off the grid")
        self.list.hide()
        self.bar = QProgressBar()
        self.bar.hide()
        self.outcome = Label(wordWrap=True)
        foot = QHBoxLayout()
        foot.addStretch(1)
        self.close_button, self.use = Button("Close"), Button("Use the best of it")
        self.button = Button("Perform", kind="primary")
        set_tip(
            self.use, "Its words become takes: the steadiest of each line are used, the others are kept but not used"
        )
        for button, does in ((self.close_button, self.reject), (self.use, self.use_best), (self.button, self.toggle)):
            button.setAutoDefault(False)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.clicked.connect(does)
            foot.addWidget(button)
        self.spoken = Button(
            "Save as spoken…",
            self.save_as_spoken,
            tip="A master with the session's bed and chimes and this performance as the voice",
            auto=False,
        )
        self.spoken.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        foot.insertWidget(2, self.spoken)
        self._show_usable(False)
        fill(
            QVBoxLayout(self),
            across(
                Label("From"), self.device, Label("Begin with"), self.start, self.mirror, self.clicks, self.bed, None
            ),
            (self.prompter, 3),
            (self.list, 1),
            self.bar,
            self.outcome,
            foot,
            spacing=10,
            margins=(18, 14, 18, 14),
        )

    def _show_usable(self, usable: bool) -> None:
        self.use.setEnabled(usable)
        self.spoken.setEnabled(usable)

    # -- recording

    def toggle(self) -> None:
        """Begin or end the performance."""
        if self.rehearsing.running:
            self.rehearsing.end()
        elif not self.background.running:
            self.begin()

    def begin(self) -> None:
        """Open the microphone, and begin after a countdown."""
        try:
            self._device = self._devices[max(0, self.device.currentIndex())][1]()
        except Exception as error:
            self._tell(f"The microphone cannot be opened: {error}", fault=True)
            return
        begin = float(self.start.currentData() or 0.0)
        if isinstance(self._device, Practice):
            self._ready_practice(self._device, begin)
        else:
            self._record(begin, None)

    def _ready_practice(self, device: Practice, begin: float) -> None:
        """The practice reader learns the part before it performs."""
        timeline = self.timeline

        def work(note: Note) -> object:
            from nafas.voice.engines.cache import CachedEngine
            from nafas.voice.engines.espeak import Espeak
            from nafas.voice.recording.practice import Manners
            from nafas.voice.recording.practice_performance import practice_performance

            note("getting ready", 0.2)
            end, seed = float(timeline.length), int(time.time())
            return practice_performance(
                CachedEngine(Espeak()), timeline, begin - LEAD, end, Manners(skip=0.01), seed
            ).samples

        self._run(work, lambda samples: self._record(begin, samples))

    def _record(self, begin: float, practised: object) -> None:
        device = self._device
        assert device is not None
        try:
            self.file = PerformanceFile(self.document.folder, device.rate)
        except InputError as error:
            device.stop()
            self._tell(str(error), fault=True)
            return
        self.found = None
        self._show_usable(False)
        self.list.hide()
        self._before = self.player.parts
        self.player.set_parts(Parts(False, False, self.bed.isChecked(), self.clicks.isChecked()))
        if isinstance(device, Practice) and isinstance(practised, np.ndarray):
            device.perform(practised)
        device.read()  # what was heard before does not count
        self.rehearsing.begin(begin, LEAD, None, True)
        self.offset = self.rehearsing.seconds
        self._fetching.start()
        self.prompter.setFocus()

    def _fetch(self) -> None:
        device, file = self._device, self.file
        if device is None or file is None:
            return
        try:
            file.add(device.read())
        except InputError as error:
            self._tell(str(error), fault=True)
            self.rehearsing.end()
            return
        if device.failed:
            self._tell("The microphone stopped answering; what was recorded is kept", fault=True)
            self.rehearsing.end()

    def _running(self, running: bool) -> None:
        self.button.setText("End" if running else "Perform")
        for part in (self.device, self.start, self.clicks, self.bed):
            part.setEnabled(not running)
        if not running:
            self._stop_recording()

    def _stop_recording(self) -> None:
        device, file = self._device, self.file
        if device is None or file is None:
            return
        self._fetching.stop()
        self._device = None
        self.player.set_parts(self._before)
        try:
            file.add(device.read())
            file.end()
        except InputError as error:
            self._tell(str(error), fault=True)
        device.stop()
        if self._closed:
            return
        if file.frames < file.rate:
            self._tell(f"Less than a second was recorded; it is kept as {file.path.name}")
            return
        timeline, offset, path = self.timeline, self.offset, file.path

        def work(note: Note) -> object:
            return judge_performance(Source(path), timeline, offset, lambda done: note("comparing", done))

        self._run(work, self._judged)

    def _moved(self, seconds: float) -> None:
        words = ""
        if self.rehearsing.leading_in:
            words = f"begins in {max(1, -int(-(self.rehearsing.begin_at - seconds) // 1))}"
        elif self.rehearsing.running:
            words = "recording"
        self.prompter.show_time(seconds, words)

    # -- afterwards

    def _judged(self, made: object) -> None:
        assert isinstance(made, Performance) and self.file is not None
        self.found = made
        names = {block.id: block_name(block) for block in self.timeline.session.blocks}
        self.list.clear()
        for block, number, middle, furthest in made.by_round():
            apart = f"mostly {1000 * middle:+.0f} ms,  furthest {1000 * furthest:+.0f} ms"
            self.list.addItem(f"{names.get(block, block)}, round {number}:  {apart}")
        self.list.setVisible(bool(made.by_round()))
        said = pluralize(len(made.words) - len(made.missing), "line")
        left = f", {len(made.missing)} not heard" if made.missing else ""
        lag = f"All of it is {1000 * made.lag:.0f} ms late, which is taken off. " if abs(made.lag) > 0.02 else ""
        self._tell(
            f"{said} heard{left}. {lag}Next to their counts: spread {1000 * made.spread:.0f} ms. "
            f"The recording is kept as performances/{self.file.path.name}."
        )
        self._show_usable(len(made.missing) < len(made.words))

    def use_best(self) -> None:
        """Put what was said into the take book."""
        room, performance, file = self._takes_room(), self.found, self.file
        if performance is None or file is None or not room.have_book() or room.shelf.folder is None:
            return
        folder, timeline, title, path = room.shelf.folder, self.timeline, self.document.session.title, file.path

        def work(note: Note) -> object:
            return performance_takes(Source(path), timeline, performance, folder, title, note)

        def told(made: object) -> None:
            assert isinstance(made, tuple)
            used, aside = made
            room.shelf.reread()
            self.use.setEnabled(False)
            self._tell(
                f"{pluralize(len(used), 'take')} of it are used on the grid; {pluralize(len(aside), 'take')} aside. "
                "Takes shows them."
            )
            self.used.emit()

        self._run(work, told)

    def save_as_spoken(self) -> None:
        """Ask where, and write a master with the performance as its voice."""
        mix, performance, file = self._mix(), self.found, self.file
        if mix is None or performance is None or file is None:
            return
        start = file.path.with_suffix(".flac").with_name(f"{file.path.stem}-as-spoken.flac")
        kinds = "Masters (*.wav *.flac *.mp3 *.ogg *.opus)"
        path = ask_save_name(self, "Save as spoken", start, kinds, (".flac", ".wav", ".mp3", ".ogg", ".opus"))
        if path is None:
            return
        source, offset = file.path, self.offset

        def work(note: Note) -> object:
            performed = as_spoken(mix, Recording(source, mix.rate), performance, offset)
            return render(performed, path, progress=note, anyway=True)

        def told(made: object) -> None:
            assert isinstance(made, Mastered)
            self._tell(
                f"Saved {made.path}: {made.measured.loudness:.1f} LUFS, true peak {made.measured.true_peak:.1f} dBTP."
            )

        self._run(work, told)

    # -- work, words, keys

    def _run(self, work: Callable[[Note], object], then: Callable[[object], None]) -> None:
        self._then = then
        self.button.setEnabled(False)
        self.bar.setRange(0, 100)
        self.bar.setValue(0)
        self.bar.show()
        self.background.run(work)

    def _show_progress(self, stage: str, done: float) -> None:
        self.bar.setFormat(f"{stage} … %p%")
        self.bar.setValue(int(100 * done))

    def _ended(self, outcome: Outcome) -> None:
        self.bar.hide()
        self.button.setEnabled(True)
        if self._closed:  # nobody is there any more: what was to follow is not begun
            return
        if outcome.error is not None:
            self._tell(outcome.words, fault=True)
        elif not outcome.cancelled:
            self._then(outcome.made)

    def _tell(self, text: str, fault: bool = False) -> None:
        self.outcome.setObjectName("fault" if fault else "")
        self.outcome.style().polish(self.outcome)
        self.outcome.setText(text)

    def _mirror(self, on: bool) -> None:
        self.prompter.mirrored = on
        self.prompter.update()

    def showEvent(self, event: QShowEvent) -> None:
        """Its own keys work at once: no list of devices has the focus."""
        super().showEvent(event)
        self.setFocus(Qt.FocusReason.OtherFocusReason)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self.toggle()
        elif event.key() == Qt.Key.Key_F11:
            self.showNormal() if self.isFullScreen() else self.showFullScreen()
        elif event.key() == Qt.Key.Key_Escape and self.rehearsing.running:
            self.rehearsing.end()
        else:
            super().keyPressEvent(event)

    def reject(self) -> None:
        self._closed = True
        if self.background.running:
            self.background.cancel()
        self.rehearsing.end()
        if self._device is not None:
            self._device.stop()
        super().reject()
