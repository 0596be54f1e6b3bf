"""Play: streams the very mix that would be rendered, from any place, with nothing rendered before."""

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal

from nafas.desk.outputs import SilentCard, SoundCard, open_output
from nafas.errors import InputError

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from nafas.sound import Master, Mix
    from nafas.sound.listening import Parts
    from nafas.sound.stream import Stream

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
        self._master: Master | None = None
        self._card: SilentCard | SoundCard | None = None
        self._stream: Stream | None = None  # what this run of the card reads
        self._sent = 0  # frames given to it
        self._place = 0
        self._until: int | None = None  # where a stretch ends
        self._mix: Mix | None = None
        self._parts: Parts | None = None
        self._loop: tuple[float, float] | None = None
        self._speed = 1.0
        self._before: Stream | None = None  # what sounded until an edit: it goes over into what sounds now
        self._timer = QTimer(self, interval=_TICK_MS)
        self._timer.timeout.connect(self._tick)

    @property
    def playing(self) -> bool:
        return self._card is not None

    @property
    def seconds(self) -> float:
        """The playhead."""
        return self._place / self._master.rate if self._master else 0.0

    @property
    def output_name(self) -> str:
        return self._card.name if self._card else ""

    def set_mix(self, mix: "Mix") -> None:
        """Play this from now on; a running playback goes on at its place, without a click."""
        self._mix = mix
        self._rebuild()
        if self._place > mix.length:
            self.seek(0.0)

    @property
    def parts(self) -> "Parts":
        """What is heard of the mix."""
        from nafas.sound.listening import Parts

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
        """Begin anew at this place, where it plays: to the device, at the speed and in the loop that are chosen now."""
        if self.playing:
            self.seek(self.seconds)

    def _rebuild(self) -> None:
        from nafas.sound import Master  # late: the first paint need not wait for it
        from nafas.sound.listening import Heard

        if self._mix is None:
            return
        heard = Heard(self._mix, self.parts)
        self._master = Master(heard, LISTENING_GAIN, self._mix.cast.timeline.session.master.ceiling)
        if self._stream is not None and self.playing:
            self._before = self._stream
            self._stream = self._made(self._stream.begin)

    def _made(self, begin: int) -> "Stream":
        from nafas.sound.stream import Stream

        assert self._master is not None
        rate = self._master.rate
        loop = self._loop and (int(self._loop[0] * rate), int(self._loop[1] * rate))
        return Stream(self._master, begin, loop, self._speed)

    def _block(self, frames: int) -> "NDArray[np.float32]":
        """The next frames to be given to the card."""
        assert self._stream is not None
        block = self._stream.read(self._sent, frames)
        if self._before is not None:
            n = min(_EASE, frames)
            way = np.linspace(0, 1, n, dtype=np.float32)
            block[:, :n] = block[:, :n] * way + self._before.read(self._sent, n) * (1 - way)
            self._before = None
        return block

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
        if self._card is not None and self._stream is not None:
            self._place = self._stream.place(self._card.sounded())
            self._end()
            self.playing_changed.emit(False)
            self.moved.emit(self.seconds)

    def seek(self, seconds: float) -> None:
        """Move the playhead; playing goes on from there."""
        if self._master is None:
            return
        self._place = int(min(max(0.0, seconds) * self._master.rate, self._master.length))
        if self._card is not None:
            self._end()
            self._begin()
        self.moved.emit(self.seconds)

    def _begin(self) -> None:
        assert self._master is not None
        self._stream, self._sent, self._until = self._made(self._place), 0, None
        self._card = open_output(self._master.rate)
        self._timer.start()
        self._tick()

    def _end(self) -> None:
        self._timer.stop()
        if self._card is not None:
            self._card.stop()
        self._card = None

    def _tick(self) -> None:
        card, master, stream = self._card, self._master, self._stream
        if card is None or master is None or stream is None:
            return
        if card.failed():
            # The device went away: go on silently from here rather than stop the practice.
            self._place = stream.place(card.sounded())
            self._end()
            stream = self._stream = self._made(self._place)
            self._sent, self._card = 0, SilentCard(master.rate)
            self._timer.start()
            card = self._card
            self.output_lost.emit()
        frames = card.free()
        if frames > 0:
            try:
                block = self._block(frames)
            except InputError as error:
                self.pause()
                self.failed.emit(str(error))
                return
            if self._sent == 0:
                n = min(_EASE, frames)
                block[:, :n] *= np.linspace(0, 1, n, dtype=np.float32)
            card.write(np.ascontiguousarray(block.T).tobytes())
            self._sent += frames
        self._place = stream.place(card.sounded())
        if self._until is not None and self._place >= self._until:
            self.pause()
        elif self._place >= master.length:
            self._place = master.length
            self._end()
            self.playing_changed.emit(False)
        self.moved.emit(self.seconds)
