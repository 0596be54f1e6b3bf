"""The queue of renders in the window: each with its progress and time left, several sessions at once, a summary."""

from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import (
    QFileDialog,
    QGridLayout,
    QProgressBar,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from nafas.desk.dialogs.outside_files import ask_outside
from nafas.desk.widgets.controls import Button, across, fill
from nafas.desk.widgets.dialog import Dialog
from nafas.desk.widgets.labels import Label, RichLabel, escape, set_tip
from nafas.errors import InputError
from nafas.script import load_session
from nafas.tasks.queue import Entry, RenderQueue, State, summary
from nafas.tasks.render import RenderRequest
from nafas.timing.clock import clock

_LOOKED_MS = 120
_WORDS = {
    State.WAITING: "waits", State.RUNNING: "", State.DONE: "done", State.FAILED: "failed", State.CANCELLED: "cancelled",
}  # fmt: skip


class Renders(QObject):
    """The queue, looked at while it works.

    Signals:
        moved: something of it changed.
        ended: a summary for people, once nothing is left to do.
    """

    moved = Signal()
    ended = Signal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.queue = RenderQueue()
        self._timer = QTimer(self, interval=_LOOKED_MS)
        self._timer.timeout.connect(self._look)

    def add(self, request: RenderRequest) -> None:
        """Put a render at the end and see that the queue works. Raises InputError."""
        self.queue.add(request)
        self.queue.start()
        self._timer.start()
        self.moved.emit()

    def cancel(self, entry: Entry) -> None:
        self.queue.cancel(entry)
        self.moved.emit()

    @property
    def running(self) -> bool:
        return self.queue.running

    @property
    def line(self) -> str:
        """How far it is, in a few words."""
        entries = self.queue.entries
        now = next((n for n, entry in enumerate(entries, 1) if not entry.state.ended), None)
        if now is None:
            return ""
        left = self.queue.left
        words = f"Rendering {now} of {len(entries)}"
        return words if left is None else f"{words}, about {clock(round(left))} left"

    def _look(self) -> None:
        if not self.queue.running:
            self._timer.stop()
        self.moved.emit()
        if not self.queue.running:
            self.ended.emit(summary(self.queue.entries))


class _Row:
    """One render: its name and file, how far it is, and what stops it."""

    def __init__(self, entry: Entry, renders: Renders, grid: QGridLayout, number: int) -> None:
        self.entry = entry
        name = RichLabel(f"<b>{escape(entry.request.name)}</b><br>{escape(str(entry.request.out))}")
        name.setWordWrap(True)
        self.bar = QProgressBar()
        self.bar.setRange(0, 1000)
        self.bar.setAccessibleName(f"Progress of {entry.request.name}")
        self.told = Label(objectName="muted")
        self.told.setMinimumWidth(140)
        self.stop = Button("Cancel", lambda: renders.cancel(entry), kind="small", name=f"Cancel {entry.request.name}")
        for column, widget in enumerate((name, self.bar, self.told, self.stop)):
            grid.addWidget(widget, number, column)

    def show(self) -> None:
        entry = self.entry
        self.bar.setValue(round(1000 * entry.done))
        left = "" if entry.left is None else f", {clock(round(entry.left))} left"
        self.told.setText(_WORDS[entry.state] or f"{entry.stage}{left}")
        set_tip(self.told, entry.trouble)
        self.stop.setEnabled(not entry.state.ended)


class RendersDialog(Dialog):
    """Shows the queue; sessions from files are added to it."""

    help_place = "proof"

    def __init__(self, renders: Renders, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Renders")
        self.resize(760, 420)
        self._renders = renders
        self.rows: list[_Row] = []
        self.empty = Label(
            "Nothing is being rendered. Add sessions here, or choose “Add to the queue” where one is rendered.",
            objectName="muted",
            wordWrap=True,
        )
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self.outcome = Label(wordWrap=True)
        self.add_button, self.forget = Button("Add sessions…"), Button("Clear what ended")
        close = Button("Close", self.accept)
        self.add_button.clicked.connect(self.add_sessions)
        self.forget.clicked.connect(self._forget)
        fill(
            QVBoxLayout(self),
            self.empty,
            (self._scroll, 1),
            self.outcome,
            across(self.add_button, self.forget, None, close),
            spacing=10,
            margins=(20, 16, 20, 16),
        )
        renders.moved.connect(self.refresh)
        renders.ended.connect(self._show_end)
        self.refresh()

    def refresh(self) -> None:
        """Show the queue as it is."""
        entries = self._renders.queue.entries
        if [row.entry for row in self.rows] != entries:
            page = QWidget()
            grid = QGridLayout(page)
            grid.setColumnStretch(0, 1)
            grid.setVerticalSpacing(10)
            self.rows = [_Row(entry, self._renders, grid, index) for index, entry in enumerate(entries)]
            grid.setRowStretch(len(entries), 1)
            self._scroll.setWidget(page)
        for row in self.rows:
            row.show()
        self.empty.setVisible(not entries)
        self._scroll.setVisible(bool(entries))
        self.forget.setEnabled(any(entry.state.ended for entry in entries))
        if self._renders.running:
            self.outcome.setText(self._renders.line)

    def _show_end(self, text: str) -> None:
        self.outcome.setText(text)

    def _forget(self) -> None:
        self._renders.queue.forget_ended()
        self.outcome.clear()
        self.refresh()

    def add_sessions(self) -> None:
        """Ask for session files and a folder, and render each into it under its own name."""
        names, _ = QFileDialog.getOpenFileNames(self, "Sessions to render", "", "Sessions (*.nafas)")
        if not names:
            return
        into = QFileDialog.getExistingDirectory(self, "Where the masters go", str(Path(names[0]).parent))
        if not into:
            return
        faults = []
        for name in map(Path, names):
            try:
                session = load_session(name)
                ask_outside(session, name.parent, self)
                self._renders.add(RenderRequest(session, name.parent, Path(into) / f"{name.stem}.flac"))
            except InputError as error:
                faults.append(str(error))
        self.outcome.setText("\n".join(faults))
