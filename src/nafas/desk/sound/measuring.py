"""Measures the master of the newest mix in the background; a newer mix stops the measuring of an older one."""

from dataclasses import dataclass

from PySide6.QtCore import QObject, Signal

from nafas.desk.work.background import Note
from nafas.desk.work.latest_task import LatestTask
from nafas.sound import Measured, Mix, find_master
from nafas.sound.master.balance import Balance, balance


@dataclass(frozen=True, eq=False)
class Findings:
    """What was measured of a mix: its master, the gain it needs, the most its limiter took, voice over bed."""

    mix: Mix
    measured: Measured
    gain: float
    limited: float
    balance: Balance


class Measuring(LatestTask):
    """Signals: found: Findings; progress: 0.0 to 1.0."""

    found = Signal(object)
    progress = Signal(float)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.findings: Findings | None = None

    def measure(self, mix: Mix) -> None:
        """Measure this mix, unless it is measured already or being measured."""
        self.ask(mix)

    def work(self, what: Mix, note: Note) -> Findings:
        """Measure a mix."""

        def tell(done: float) -> None:
            note("measuring", done)
            self.progress.emit(done)

        over = balance(what, lambda done: tell(0.4 * done))
        master, gain, measured = find_master(what, lambda done: tell(0.4 + 0.6 * done))
        return Findings(what, measured, gain, master.deepest, over)

    def take(self, made: Findings) -> None:
        """Tell what was found."""
        self.findings = made
        self.found.emit(made)
