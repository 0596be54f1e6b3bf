"""A series: the table of its variants, and checking, rendering, delivering and translating all of them."""

from collections.abc import Callable, Sequence
from functools import partial
from os.path import relpath
from pathlib import Path
from typing import Any

from PySide6.QtCore import QEvent, Signal
from PySide6.QtGui import QGuiApplication, QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFileDialog,
    QHeaderView,
    QMenu,
    QPushButton,
    QTableView,
    QWidget,
)

from nafas.desk.dialogs.folder import ask_folder
from nafas.desk.dialogs.outside_files import ask_outside_folder
from nafas.desk.dialogs.save_name import ask_save_name
from nafas.desk.series.grow_dialog import GrowDialog
from nafas.desk.series.planning import Planning
from nafas.desk.series.table import CellDelegate, SeriesTable
from nafas.desk.widgets.controls import Button, PlainList, across
from nafas.desk.widgets.labels import Label, set_tip
from nafas.desk.work.work_dialog import WorkDialog
from nafas.errors import InputError
from nafas.plain_text import pluralize
from nafas.series.open_series import OpenSeries, begin_series
from nafas.series.outputs import write_call_sheet, write_page, write_words
from nafas.series.plan import ENDING, Planned, Series, place_outside
from nafas.series.status import VariantStatus
from nafas.series.words import read_words
from nafas.tasks.series import SeriesRequest, SeriesResult, check_series, deliver_series, render_series

_WIDE, _HIGH = 1120, 640  # px with a table
_FILTER = f"Series (*{ENDING})"
_DELIVERIES = {"podcast": "For a podcast…", "app": "For an app…", "class": "For a class…", "video": "For a video…"}


class SeriesDialog(WorkDialog):
    """The table is written at every change; Ctrl+Z takes a change back.

    Attributes:
        session_path: of the session that a new series is of; None for one that is not saved.

    Signals: open_session: a variant's session, and the folder where its paths start.
    """

    help_place = "series"

    open_session = Signal(object, object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Series", "Render", parent)
        self.resize(760, 200)
        self.session_path: Path | None = None
        self.file: OpenSeries | None = None
        self.planning = Planning(self)
        self.planning.found.connect(self._planned)
        self.planning.failed.connect(lambda words: self.tell(words, fault=True))
        self._build()
        self._show_series()

    def _build(self) -> None:
        self.heading = Label("One script, many recordings", objectName="heading")
        head = across(self.heading, None)
        self.new_button, self.open_button = Button("New…"), Button("Open…")
        for button, does in ((self.new_button, self.new), (self.open_button, self.open)):
            button.setAutoDefault(False)
            button.clicked.connect(lambda _=False, does=does: does())
            head.addWidget(button)
        self.box.addLayout(head)
        self.about = Label(objectName="muted", wordWrap=True)
        self.box.addWidget(self.about)
        self.table = SeriesTable()
        self.table.changed.connect(self._changed)
        self.table.refused.connect(lambda words: self.tell(words, fault=True))
        self.view = QTableView()
        self.view.setAccessibleName("Variants")
        self.view.setModel(self.table)
        self.view.setItemDelegate(CellDelegate(self.table, self.view))
        self.view.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.view.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.view.horizontalHeader().setStretchLastSection(True)
        self.view.verticalHeader().setDefaultSectionSize(28)
        self.view.selectionModel().selectionChanged.connect(lambda *_: self._show_buttons())
        self.box.addWidget(self.view, 3)
        self.notes = Label(objectName="muted", wordWrap=True)
        self.box.addWidget(self.notes)
        self.list = PlainList("Results")
        self.list.hide()
        self.box.addWidget(self.list, 1)
        self._build_foot()
        keys = QKeySequence.StandardKey
        for key, does in ((keys.Undo, self.undo), (keys.Copy, self.copy_cells), (keys.Paste, self.paste_cells)):
            QShortcut(QKeySequence(key), self).activated.connect(does)

    def _build_foot(self) -> None:
        self.add_button, self.copy_button, self.remove_button = buttons = tuple(
            map(QPushButton, ("Add", "Duplicate", "Remove"))
        )
        self.more = Button("More")
        self.check_button, self.deliver_button = Button("Check"), Button("Deliver")
        for position, (button, does) in enumerate(zip(buttons, (self.add, self.copy, self.remove))):
            button.clicked.connect(lambda _=False, does=does: does())
            self.foot.insertWidget(position, button)
        set_tip(self.check_button, "Check every variant as it will sound, and compare them all")
        self.check_button.clicked.connect(lambda _: self.check())
        self.more.setMenu(self._more_menu())
        menu = QMenu(self.deliver_button)
        for purpose, text in _DELIVERIES.items():
            menu.addAction(text, partial(self.deliver, purpose))
        self.deliver_button.setMenu(menu)
        for button in (self.more, self.check_button, self.deliver_button):
            self.foot.insertWidget(self.foot.count() - 2, button)
        for button in (*buttons, self.more, self.check_button, self.deliver_button):
            button.setAutoDefault(False)
        self.start.setDefault(False)
        self.start.setAutoDefault(False)

    def _more_menu(self) -> QMenu:
        menu = QMenu(self.more)
        menu.addAction("Rows by a rule…", self.grow)
        menu.addSeparator()
        menu.addAction("Copy rows for a spreadsheet\tCtrl+C", self.copy_cells)
        menu.addAction("Paste rows of a spreadsheet\tCtrl+V", self.paste_cells)
        menu.addSeparator()
        menu.addAction("Words for a translator…", self.save_words)
        menu.addAction("Use translated words…", self.use_words)
        menu.addSeparator()
        menu.addAction("One call sheet for all…", self.save_call_sheet)
        menu.addAction("Summary page…", self.save_page)
        menu.addSeparator()
        menu.addAction("Open this variant as a session", self.open_variant)
        return menu

    # -- the series and its file

    def new(self) -> None:
        """Begin a series of the open session."""
        if self.session_path is None:
            self.tell("Save the session first: a series is a file next to it.", fault=True)
            return
        start = self.session_path.with_suffix(ENDING)
        path = ask_save_name(self, "A new series", start, _FILTER, (ENDING,))
        if path is not None:
            self._try(partial(begin_series, self.session_path, path), lambda _: self.load(path))

    def open(self) -> None:
        """Ask for a series and show it."""
        start = str(self.session_path.parent) if self.session_path is not None else ""
        name, _ = QFileDialog.getOpenFileName(self, "Open a series", start, _FILTER)
        if name:
            self.load(Path(name))

    def load(self, path: Path) -> None:
        """Show a series."""

        def take(series: OpenSeries) -> None:
            if self.file is None:
                self.resize(max(self.width(), _WIDE), max(self.height(), _HIGH))
            self.file = series
            self._written()

        self._try(lambda: OpenSeries(path), take)

    def _try(self, does: Callable[[], Any], then: Callable[[Any], None] = lambda made: None) -> None:
        """Do something; what is wrong is reported."""
        try:
            made = does()
        except InputError as error:
            self.tell(str(error), fault=True)
            return
        then(made)

    def _changed(self, series: Series, message: str) -> None:
        file = self.file
        if file is not None:
            self._try(lambda: file.change(series), lambda _: self._written())

    def undo(self) -> None:
        """Take the last change back."""
        file = self.file
        if file is not None and not self.running:
            self._try(file.undo, lambda _: self._written())

    def _written(self) -> None:
        self.outcome.hide()
        self._show_series()

    def changeEvent(self, event: QEvent) -> None:
        """Back from the page: its session may have been saved again."""
        super().changeEvent(event)
        if event.type() == QEvent.Type.ActivationChange and self.isActiveWindow() and not self.running:
            self.look_at_session()

    def look_at_session(self) -> None:
        """Plan by the session as it is on the disk now."""
        if self.file is not None:
            self.file.read_session()
            self._show_series()

    def _show_series(self) -> None:
        file = self.file
        self.table.show_series(None if file is None else file.series, None if file is None else file.session)
        if file is None:
            self.about.setText(
                "A series is a table next to the session. Each row is a recording; each filled cell overrides the "
                "session (length, language, guidance, bed …). Start a new series from the open session, or open one."
            )
        else:
            self.heading.setText(file.series.title or file.path.stem)
            self.about.setText(
                f"Of {file.series.session}, into the folder “{file.series.into}”. An empty cell is as in the session. "
                "Every change is in the file at once; Ctrl+Z takes it back."
            )
            self.planning.plan(file.series, file.folder)
        self._show_buttons()

    def _show_buttons(self) -> None:
        there = self.file is not None
        rows = self.rows
        self._show_notes()
        self.view.setVisible(there)
        for button in (self.add_button, self.more, self.check_button, self.deliver_button, self.start):
            button.setVisible(there)
            button.setEnabled(there and not self.running)
        for button in (self.copy_button, self.remove_button):
            button.setVisible(there)
            button.setEnabled(bool(rows) and not self.running)

    def _planned(self, statuses: Sequence[VariantStatus]) -> None:
        self.table.show_statuses(statuses)
        self._show_notes()

    def _show_notes(self) -> None:
        """What is to be known of the chosen variant, at length."""
        status = self.table.standing(self.rows[0]) if self.rows else None
        message = [] if status is None else [text for text in (status.planned.trouble, *status.planned.notes) if text]
        self.notes.setText(
            "" if status is None or not message else f"{status.planned.variant.name}: {'; '.join(message)}."
        )
        self.notes.setVisible(bool(message))

    def close_down(self) -> None:
        """Stop planning."""
        self.planning.stop()

    # -- rows

    @property
    def rows(self) -> list[int]:
        """The chosen rows."""
        return sorted({index.row() for index in self.view.selectionModel().selectedIndexes()})

    def add(self) -> None:
        """Add a variant as the session is."""
        self._add(None)

    def copy(self) -> None:
        """Add a variant like the chosen one."""
        if self.file is not None and self.rows:
            self._add(self.file.series.variants[self.rows[-1]])

    def _add(self, like: Any) -> None:
        after = self.rows[-1] if self.rows else self.table.rowCount() - 1
        self.table.add(after, like)
        self.view.setCurrentIndex(self.table.index(min(after + 1, self.table.rowCount() - 1), 0))
        self.view.edit(self.view.currentIndex())

    def remove(self) -> None:
        """Remove the chosen variants."""
        self.table.remove(self.rows)

    def grow(self) -> None:
        """Add rows by a rule, once they have been seen."""
        file = self.file
        if file is not None and not self.running:
            self.grow_dialog = dialog = GrowDialog(file.series, file.session, self)
            dialog.accepted.connect(lambda: self._changed(dialog.made or file.series, "rows by a rule"))
            dialog.open()

    def copy_cells(self) -> None:
        """Put the chosen rows, or all of them, where a spreadsheet takes them from."""
        if self.file is not None:
            rows = self.rows or list(range(self.table.rowCount()))
            QGuiApplication.clipboard().setText(self.table.cells_of(rows))
            self.tell(f"Copied {len(rows)} rows." if len(rows) != 1 else "Copied one row.")

    def paste_cells(self) -> None:
        """Take rows that were copied in a spreadsheet: those whose name is there change it, others are added."""
        if self.file is not None and not self.running:
            self.table.take_cells(QGuiApplication.clipboard().text())

    def open_variant(self) -> None:
        """Open the chosen variant as a session without a name."""
        status = self.table.standing(self.rows[0]) if self.rows else None
        if status is None or status.planned.session is None or self.file is None:
            self.tell("Choose a variant that can be made.", fault=True)
            return
        self.open_session.emit(status.planned.session, self.file.folder)

    # -- files

    def save_words(self) -> None:
        """Write all that is said for a translator."""
        path = self._ask_save(
            "Words for a translator", " words.csv", "Table (*.csv *.xlsx);;Catalogue (*.po)", (".csv", ".xlsx", ".po")
        )
        file = self.file
        if path is None or file is None:
            return
        message = f"Saved {path}. Give it to the variant under “Words” when it is translated."

        def saved(stale: int) -> None:
            kept = f" {pluralize(stale, 'translation')} of words no longer said, kept at its end." if stale else ""
            self.tell(message + kept)

        self._try(lambda: write_words(file.session, path), saved)

    def use_words(self) -> None:
        """Give the chosen variants a translator's table."""
        file, rows = self.file, self.rows
        if file is None or not rows:
            self.tell("Choose the variants that are to be in these words.", fault=True)
            return
        name, _ = QFileDialog.getOpenFileName(
            self, "Translated words", str(file.folder), "Words (*.csv *.tsv *.xlsx *.po)"
        )
        if not name:
            return
        words = Path(relpath(name, file.folder)).as_posix()

        def taken(_: object) -> None:
            for row in rows:
                variant = file.series.variants[row].model_copy(update={"words": words})
                self.table.put_row(row, variant, "words")

        self._try(lambda: read_words(Path(name)), taken)

    def save_call_sheet(self) -> None:
        """Write one call sheet for every variant."""
        path = self._ask_save("One call sheet for all", " call sheet.csv", "Table (*.csv)", (".csv",))
        if path is not None:
            self._try(lambda: write_call_sheet(self.variants, path), lambda _: self.tell(f"Saved {path}"))

    def save_page(self) -> None:
        """Write the summary page."""
        path = self._ask_save("Summary page", ".html", "Page (*.html)", (".html", ".htm"))
        file = self.file
        if path is not None and file is not None:
            does = partial(write_page, file.series, self.variants, file.folder, path)
            self._try(does, lambda _: self.tell(f"Saved {path}"))

    def _ask_save(self, title: str, ending: str, kinds: str, endings: tuple[str, ...]) -> Path | None:
        if self.file is None:
            return None
        start = self.file.path.with_name(f"{self.file.path.stem}{ending}")
        return ask_save_name(self, title, start, kinds, endings)

    @property
    def variants(self) -> list[Planned]:
        """The variants as they were planned last, as far as they are what the table holds."""
        return [each.planned for row in range(self.table.rowCount()) if (each := self.table.standing(row)) is not None]

    # -- the long work

    def begin(self) -> None:
        """Render the variants that changed."""
        request = self._request()
        outside = None if request is None else place_outside(request.series, request.folder)
        if outside is None or ask_outside_folder(outside, self):
            self._work(render_series)

    def deliver(self, purpose: str) -> None:
        """Deliver the variants that changed, each into a folder of its own."""
        request = self._request()
        into = ask_folder(self, "The folder to deliver into", str(request.folder)) if request is not None else ""
        if into:
            self._work(partial(deliver_series, into=Path(into), purpose=purpose))

    def check(self) -> None:
        """Check every variant, and hold them against each other."""
        self._work(check_series)

    def _request(self) -> SeriesRequest | None:
        """The series, where every variant is planned; else it is said what is missing."""
        if self.file is None:
            return None
        series = self.file.series
        if not series.variants:
            self.tell("There is no variant yet: Add makes one.", fault=True)
            return None
        if len(self.variants) < len(series.variants):
            self.tell("The variants are still being planned: wait a moment.", fault=True)
            return None
        return SeriesRequest(series, self.variants, self.file.folder)

    def _work(self, task: Callable[..., SeriesResult]) -> None:
        request = self._request()
        if request is not None:
            self.list.hide()
            self.run(lambda note: task(request, note=note))
            self._show_buttons()

    def _show_end(self, outcome: Any) -> None:
        super()._show_end(outcome)
        self._show_buttons()
        if self.file is not None:
            self.planning.plan(self.file.series, self.file.folder)

    def ended(self, made: object) -> str:
        assert isinstance(made, SeriesResult)
        lines = made.lines()
        self.list.clear()
        self.list.addItems(lines)
        self.list.setVisible(bool(lines))
        return made.summary
