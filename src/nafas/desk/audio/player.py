"""Play: streams the very mix that would be rendered, from any place, with nothing rendered before."""

import threading
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal

from nafas.desk.audio.feeder import Feeder
from nafas.desk.audio.outputs import SilentCard, open_output

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from nafas.sound import MasterStream, Mix
    from nafas.sound.mix.monitor import Parts
    from nafas.sound.mix.stream import Stream

_TICK_MS = 15
LISTENING_GAIN = 9.0
"""dB: about what a master gets, so that listening is as loud as the file will be."""
_EASE = 480  # frames of fade at start, so that starting mid-word does not click


class Player(QObject):
    """Plays a mix.

    Signals:
        moved: the playhead, in seconds.
        playing_changed: it began, paused or ended.
        output_lost: the sound card went away; the silent one goes on in its place.
        failed: what is played cannot be read any more, for people; it has paused.
    """

    moved = Signal(float)
    playing_changed = Signal(bool)
    output_lost = Signal()
    failed = Signal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._master: MasterStream | None = None
        self._feeder: Feeder | None = None
        self._lock = threading.Lock()
        self._stream: Stream | None = None  # what this run of the card reads
        self._place = 0
        self._until: int | None = None  # where a stretch ends
        self._mix: Mix | None = None
        self._parts: Parts | None = None
        self._loop: tuple[float, float] | None = None
        self._speed = 1.0
        self._quiet = False
        self._before: Stream | None = None  # what sounded until an edit: it goes over into what sounds now
        self._timer = QTimer(self, interval=_TICK_MS)
        self._timer.timeout.connect(self._tick)

    @property
    def playing(self) -> bool:
        return self._feeder is not None

    @property
    def seconds(self) -> float:
        """The playhead."""
        return self._place / self._master.rate if self._master else 0.0

    def now(self) -> float:
        """The place that sounds at this moment, in seconds, asked of the card."""
        feeder, master, stream = self._feeder, self._master, self._stream
        if feeder is None or master is None or stream is None:
            return self.seconds
        return stream.place(feeder.card.sounded()) / master.rate

    def set_quiet(self, quiet: bool) -> None:
        """Keep time without a sound, or sound again."""
        self._quiet = quiet

    @property
    def output_name(self) -> str:
        return self._feeder.card.name if self._feeder else ""

    def set_mix(self, mix: "Mix") -> None:
        """Play this from now on; a running playback goes on at its place, without a click."""
        self._mix = mix
        self._rebuild()
        if self._place > mix.length:
            self.seek(0.0)

    @property
    def parts(self) -> "Parts":
        """What is heard of the mix."""
        from nafas.sound.mix.monitor import Parts

        return self._parts or Parts()

    def set_parts(self, parts: "Parts") -> None:
        """Hear these parts from now on."""
        self._parts = parts
        self._rebuild()

    @property
    def loop(self) -> tuple[float, float] | None:
        """The stretch that is played over and over, in seconds."""
        return self._loop

    def set_loop(self, loop: tuple[float, float] | None) -> None:
        """Play a stretch over and over, or straight on again."""
        self._loop = loop
        self.reopen()

    @property
    def speed(self) -> float:
        """How fast it plays, at the same pitch."""
        return self._speed

    def set_speed(self, speed: float) -> None:
        """Play at another speed from now on."""
        self._speed = speed
        self.reopen()

    def reopen(self) -> None:
        """Begin again here, where it plays: to the device, at the speed and in the loop that are chosen now."""
        if self.playing:
            self.seek(self.seconds)

    def _rebuild(self) -> None:
        from nafas.sound import MasterStream  # late: the first paint need not wait for it
        from nafas.sound.mix.monitor import StemMonitor

        if self._mix is None:
            return
        heard = StemMonitor(self._mix, self.parts)
        self._master = MasterStream(heard, LISTENING_GAIN, self._mix.cast.timeline.session.master.ceiling)
        if self._stream is not None and self.playing:
            made = self._made(self._stream.begin)
            with self._lock:
                self._before, self._stream = self._stream, made

    def _made(self, begin: int) -> "Stream":
        from nafas.sound.mix.stream import Stream

        assert self._master is not None
        rate = self._master.rate
        loop = self._loop and (int(self._loop[0] * rate), int(self._loop[1] * rate))
        return Stream(self._master, begin, loop, self._speed)

    def _block(self, at: int, frames: int) -> "NDArray[np.float32]":
        """Frames `at` to `at + frames` since the card began, from the feeder's thread."""
        with self._lock:
            stream, before, self._before = self._stream, self._before, None
        assert stream is not None
        block = stream.read(at, frames)
        n = min(_EASE, frames)
        way = np.linspace(0, 1, n, dtype=np.float32)
        if before is not None:
            block[:, :n] = block[:, :n] * way + before.read(at, n) * (1 - way)
        if at == 0:
            block[:, :n] *= way
        return np.zeros_like(block) if self._quiet else block

    def toggle(self) -> None:
        """Play or pause."""
        if self.playing:
            self.pause()
        else:
            self.play()

    def play(self) -> None:
        """Play from the playhead; from the start if it stands at the end."""
        if self.playing or self._master is None:
            return
        if self._place >= self._master.length:
            self._place = 0
        self._begin()
        if self.playing:  # unless its first block could not be read
            self.playing_changed.emit(True)

    def play_between(self, begin: float, end: float) -> None:
        """Play a stretch of the session, in seconds, and stop."""
        if self._master is not None:
            self.seek(begin)
            self.play()
            self._until = int(end * self._master.rate)

    def pause(self) -> None:
        if self._feeder is not None and self._stream is not None:
            self._place = self._stream.place(self._feeder.card.sounded())
            self._end()
            self.playing_changed.emit(False)
            self.moved.emit(self.seconds)

    def seek(self, seconds: float) -> None:
        """Move the playhead; playing goes on from there."""
        if self._master is None:
            return
        self._place = int(min(max(0.0, seconds) * self._master.rate, self._master.length))
        if self._feeder is not None:
            self._end()
            self._begin()
        self.moved.emit(self.seconds)

    def _begin(self) -> None:
        assert self._master is not None
        self._until = None
        with self._lock:
            self._stream, self._before = self._made(self._place), None
        self._feeder = Feeder(open_output(self._master.rate), self._block)
        self._timer.start()
        self._tick()

    def _end(self) -> None:
        self._timer.stop()
        if self._feeder is not None:
            self._feeder.stop()
        self._feeder = None

    def _tick(self) -> None:
        feeder, master, stream = self._feeder, self._master, self._stream
        if feeder is None or master is None or stream is None:
            return
        if feeder.error:
            self.pause()
            self.failed.emit(feeder.error)
            return
        if feeder.card.failed():
            # The device went away: go on silently from here rather than stop the practice.
            self._place = stream.place(feeder.card.sounded())
            self._end()
            with self._lock:
                stream = self._stream = self._made(self._place)
            feeder = self._feeder = Feeder(SilentCard(master.rate), self._block)
            self._timer.start()
            self.output_lost.emit()
        self._place = stream.place(feeder.card.sounded())
        if self._until is not None and self._place >= self._until:
            self.pause()
        elif self._place >= master.length:
            self._place = master.length
            self._end()
            self.playing_changed.emit(False)
        self.moved.emit(self.seconds)
