"""A rehearsal as it runs: the lead-in, what sounds, the time on the guide, the keys of the breather, and marks."""

import time
from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer, Signal

from nafas.desk.audio.player import Player
from nafas.rehearsal.breathing import Breath, Press, breaths_of
from nafas.rehearsal.steady_clock import SteadyClock

_FRAME_MS = 16
OWN_CLOCK = time.monotonic


class Rehearsing(QObject):
    """Begins and ends rehearsals on a window's player.

    Signals:
        moved: the time on the guide, in seconds; while it leads in, from before the beginning.
        running_changed: it began or ended.
    """

    moved = Signal(float)
    running_changed = Signal(bool)

    def __init__(self, player: Player, parent: QObject | None = None, clock: Callable[[], float] = OWN_CLOCK) -> None:
        super().__init__(parent)
        self.player, self._clock = player, clock
        self.presses: list[Press] = []
        self.begin_at = self.end_at = 0.0
        self._leads_until: float | None = None
        self._running = False
        self._steady = SteadyClock()
        self._timer = QTimer(self, interval=_FRAME_MS)
        self._timer.timeout.connect(self._frame)
        player.playing_changed.connect(self._playing)

    @property
    def running(self) -> bool:
        """Whether it leads in or plays."""
        return self._running

    @property
    def leading_in(self) -> bool:
        return self._leads_until is not None

    @property
    def seconds(self) -> float:
        """The time of the session that sounds now; while leading in, that of the beginning less what is left."""
        now = self._clock()
        if self._leads_until is not None:
            return self.begin_at - (self._leads_until - now)
        if not self.player.playing:
            return self.player.seconds
        return self._steady.at(now, self.player.now(), self.player.speed)

    @property
    def breaths(self) -> list[Breath]:
        """The breather's own until now."""
        return breaths_of(self.presses, self.seconds) if self.presses else []

    def begin(self, seconds: float, lead: float, loop: tuple[float, float] | None, sounds: bool) -> None:
        """Begin a rehearsal.

        Args:
            seconds: from where.
            lead: seconds before that, in silence.
            loop: from and to, to be gone over again and again; or None.
            sounds: whether it is heard, or only seen.
        """
        self.end()
        self.presses = []
        self.begin_at = self.end_at = seconds
        self.player.pause()
        self.player.set_loop(loop)
        self.player.seek(seconds)
        self.player.set_quiet(not sounds)
        self._steady.forget()
        self._running, self._leads_until = True, self._clock() + lead
        self._timer.start()
        self.running_changed.emit(True)
        self._frame()

    def end(self) -> None:
        """End it; where it stands is kept."""
        if not self._running:
            return
        self.end_at = max(self.begin_at, self.seconds)
        self._running, self._leads_until = False, None
        self._timer.stop()
        self.player.pause()
        self.player.set_quiet(False)
        self.player.set_loop(None)
        self.running_changed.emit(False)
        self.moved.emit(self.player.seconds)

    def press(self, inward: bool, down: bool) -> None:
        """A key of the breather's went down or up."""
        if not self._running or self.leading_in:
            return
        at = self.seconds
        if self.presses and at < self.presses[-1].at:  # the set began again: what counts is the last time through
            self.presses, self.begin_at = [], self.player.loop[0] if self.player.loop else at
        self.presses.append(Press(at, inward, down))

    def _frame(self) -> None:
        if self._leads_until is not None and self._clock() >= self._leads_until:
            self._leads_until = None
            self.player.play()
            if not self.player.playing:  # nothing to play yet, or it cannot be read
                self.end()
                return
        self.moved.emit(self.seconds)

    def _playing(self, playing: bool) -> None:
        if not playing and self._running and not self.leading_in:
            self.end()
