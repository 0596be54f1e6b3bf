"""Every variant of a series planned, and where it stands, as soon as the table has changed."""

from pathlib import Path

from PySide6.QtCore import QObject, Signal

from nafas.desk.work.background import Note
from nafas.desk.work.latest_task import LatestTask
from nafas.series.plan import Series
from nafas.series.planner import Planner
from nafas.series.status import VariantStatus, statuses


class Planning(LatestTask):
    """Signals: found: a list of `VariantStatus`."""

    found = Signal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._planner = Planner()

    def plan(self, series: Series, folder: Path) -> None:
        """Plan a series, whose relative paths start in `folder`; rows that did not change are not planned again."""
        self.wanted = None
        self.ask((series, folder))

    def work(self, what: tuple[Series, Path], note: Note) -> list[VariantStatus]:
        series, folder = what
        return statuses(series, self._planner.plan(series, folder), folder)

    def take(self, made: list[VariantStatus]) -> None:
        self.found.emit(made)
