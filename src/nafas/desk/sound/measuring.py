"""Measures the master of the newest mix in the background; a newer mix stops the measuring of an older one."""

import threading
from dataclasses import dataclass

from PySide6.QtCore import QObject, Signal

from nafas.errors import Cancelled
from nafas.sound import Measured, Mix, find_master
from nafas.sound.balance import Balance, balance


@dataclass(frozen=True, eq=False)
class Findings:
    """What was measured of a mix: its master, the gain it needs, the most its limiter took, voice over bed."""

    mix: Mix
    measured: Measured
    gain: float
    limited: float
    balance: Balance


class Measuring(QObject):
    """Signals: found: Findings; progress: 0.0 to 1.0."""

    found = Signal(object)
    progress = Signal(float)
    _ended = Signal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._stop = threading.Event()
        self._thread: threading.Thread | None = None
        self._wanted: Mix | None = None
        self.findings: Findings | None = None
        self._ended.connect(self._take)

    def measure(self, mix: Mix) -> None:
        """Measure this mix, unless it is measured already or being measured."""
        if self._wanted is mix:
            return
        self._wanted = mix
        self._stop.set()
        if self._thread is None:
            self._begin(mix)

    def stop(self) -> None:
        """Stop, and wait until it has stopped."""
        self._wanted = None
        self._stop.set()
        if self._thread is not None:
            self._thread.join(timeout=5)

    def _begin(self, mix: Mix) -> None:
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, args=(mix, self._stop), name="measure", daemon=True)
        self._thread.start()

    def _run(self, mix: Mix, stop: threading.Event) -> None:
        def note(done: float) -> None:
            if stop.is_set():
                raise Cancelled
            self.progress.emit(done)

        made: object = None
        try:
            over = balance(mix, lambda done: note(0.4 * done))
            master, gain, measured = find_master(mix, lambda done: note(0.4 + 0.6 * done))
            made = Findings(mix, measured, gain, master.deepest, over)
        except Cancelled:
            pass
        self._ended.emit(made)

    def _take(self, made: object) -> None:
        if self._thread is not None:
            self._thread.join()
        self._thread = None
        if isinstance(made, Findings) and made.mix is self._wanted:
            self.findings = made
            self.found.emit(made)
        elif self._wanted is not None:
            self._begin(self._wanted)
