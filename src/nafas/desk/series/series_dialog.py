"""A series: the table of its variants, and checking, rendering, delivering and translating all of them."""

from collections.abc import Callable, Sequence
from contextlib import suppress
from functools import partial
from pathlib import Path
from typing import Any, ClassVar

from PySide6.QtCore import QEvent, Signal
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QListWidget,
    QMenu,
    QPushButton,
    QTableView,
    QWidget,
)

from nafas.desk.deliver.drawn_alone import drawn_alone
from nafas.desk.dialogs.folder import ask_folder
from nafas.desk.dialogs.save_name import ask_save_name
from nafas.desk.series.planning import Planning
from nafas.desk.series.table import CellDelegate, SeriesTable
from nafas.desk.widgets.labels import Label, set_tip
from nafas.desk.work.background import Note
from nafas.desk.work.work_dialog import WorkDialog
from nafas.errors import InputError
from nafas.exchange.deliver import PURPOSES
from nafas.files import sum_on_disk, write_whole
from nafas.plain_text import many
from nafas.script import Session, load_session
from nafas.series.check import Checked, Checking, apart, check_one
from nafas.series.plan import ENDING, Planned, Series, load_series, save_series
from nafas.series.render import Wanted, deliver_one, handings_of, jobs_of, render_one
from nafas.series.spread import Ended, spread
from nafas.series.standing import Standing, series_page, standings
from nafas.series.words import read_words, words_catalogue, words_table
from nafas.timing.compile import compile_session, paced
from nafas.voice.call_sheet import as_csv, call_sheet

_WIDE, _HIGH = 1120, 640  # px with a table
_FILTER = f"Series (*{ENDING})"
_DELIVERIES = {"podcast": "For a podcast…", "app": "For an app…", "class": "For a class…", "video": "For a video…"}


class SeriesDialog(WorkDialog):
    """The table is written at every change; Ctrl+Z takes a change back.

    Attributes:
        session_path: of the session that a new series is of; None for one that is not saved.

    Signals: open_session: a variant's session, and the folder where its paths start.
    """

    open_session = Signal(object, object)

    stages: ClassVar = {"checking": (0, 100), "rendering": (0, 100), "delivering": (0, 100)}

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__("Series", "Render", parent)
        self.resize(760, 200)
        self.session_path: Path | None = None
        self.path: Path | None = None
        self.series: Series | None = None
        self.session: Session | None = None
        self._before: list[Series] = []
        self._sum = ""
        self.planning = Planning(self)
        self.planning.found.connect(self._planned)
        self.planning.failed.connect(lambda words: self.tell(words, fault=True))
        self._build()
        self._show_series()

    def _build(self) -> None:
        head = QHBoxLayout()
        self.heading = Label("One script, many recordings", objectName="heading")
        head.addWidget(self.heading)
        head.addStretch(1)
        self.new_button, self.open_button = QPushButton("New…"), QPushButton("Open…")
        for button, does in ((self.new_button, self.new), (self.open_button, self.open)):
            button.setAutoDefault(False)
            button.clicked.connect(lambda _=False, does=does: does())
            head.addWidget(button)
        self.box.addLayout(head)
        self.about = Label(objectName="muted")
        self.about.setWordWrap(True)
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
        self.notes = Label(objectName="muted")
        self.notes.setWordWrap(True)
        self.box.addWidget(self.notes)
        self.list = QListWidget(objectName="plain")
        self.list.setAccessibleName("What came of it")
        self.list.hide()
        self.box.addWidget(self.list, 1)
        self._build_foot()
        undo = QShortcut(QKeySequence(QKeySequence.StandardKey.Undo), self)
        undo.activated.connect(self.undo)

    def _build_foot(self) -> None:
        self.add_button, self.copy_button, self.remove_button = buttons = tuple(
            map(QPushButton, ("Add", "Duplicate", "Remove"))
        )
        self.more = QPushButton("More")
        self.check_button, self.deliver_button = QPushButton("Check"), QPushButton("Deliver")
        for place, (button, does) in enumerate(zip(buttons, (self.add, self.copy, self.remove))):
            button.clicked.connect(lambda _=False, does=does: does())
            self.foot.insertWidget(place, button)
        set_tip(self.check_button, "Every variant by the review, as it will sound, and all of them against each other")
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
            self.tell("Save the session first: a series is a file beside it.", fault=True)
            return
        start = self.session_path.with_suffix(ENDING)
        path = ask_save_name(self, "A new series", start, _FILTER, (ENDING,))
        if path is not None:
            from os.path import relpath

            session = Path(relpath(self.session_path.resolve(), path.resolve().parent)).as_posix()
            self._try(lambda: save_series(Series(session=session), path), lambda _: self.load(path))

    def open(self) -> None:
        """Ask for a series and show it."""
        start = str(self.session_path.parent) if self.session_path is not None else ""
        name, _ = QFileDialog.getOpenFileName(self, "Open a series", start, _FILTER)
        if name:
            self.load(Path(name))

    def load(self, path: Path) -> None:
        """Show a series."""

        def read() -> tuple[Series, Session, str]:
            known = sum_on_disk(path)
            series = load_series(path)
            return series, load_session(path.parent / series.session), known

        def take(found: tuple[Series, Session, str]) -> None:
            if self.path is None:
                self.resize(max(self.width(), _WIDE), max(self.height(), _HIGH))
            self.path, self._before = path, []
            self.series, self.session, self._sum = found
            self.result.hide()
            self._show_series()

        self._try(read, take)

    def _try(self, does: Callable[[], Any], then: Callable[[Any], None] = lambda made: None) -> None:
        """Do something; what is wrong is told."""
        try:
            made = does()
        except InputError as error:
            self.tell(str(error), fault=True)
            return
        then(made)

    def _changed(self, series: Series, told: str, undone: bool = False) -> None:
        before = self.series
        if self.path is None or before is None:
            return

        def taken(known: str) -> None:
            self._sum = known
            if not undone:
                self._before.append(before)
            self.series = series
            self.result.hide()
            self._show_series()

        path = self.path
        self._try(lambda: save_series(series, path, self._sum), taken)

    def changeEvent(self, event: QEvent) -> None:
        """Back from the page: its session may have been saved anew."""
        super().changeEvent(event)
        if event.type() == QEvent.Type.ActivationChange and self.isActiveWindow() and not self.running:
            self.look_at_session()

    def look_at_session(self) -> None:
        """Plan by the session as it is on the disk now."""
        if self.series is None or self.path is None:
            return
        with suppress(InputError):  # planning tells what is wrong with it
            self.session = load_session(self.path.parent / self.series.session)
        self._show_series()

    def undo(self) -> None:
        """Take the last change back."""
        if self._before and not self.running:
            self._changed(self._before.pop(), "undo", undone=True)

    def _show_series(self) -> None:
        series, path = self.series, self.path
        self.table.show_series(series, self.session)
        if series is None or path is None:
            self.about.setText(
                "A series is a table beside the session: a row is a recording, a cell is what is otherwise in it "
                "(its length, language, guidance, bed …). Begin a new one of the open session, or open one."
            )
        else:
            self.heading.setText(series.title or path.stem)
            self.about.setText(
                f"Of {series.session}, into the folder “{series.into}”. An empty cell is as in the session. "
                "Every change is in the file at once; Ctrl+Z takes it back."
            )
            self.planning.plan(series, path.parent)
        self._show_buttons()

    def _show_buttons(self) -> None:
        there = self.series is not None
        rows = self.rows
        self._show_notes()
        self.view.setVisible(there)
        for button in (self.add_button, self.more, self.check_button, self.deliver_button, self.start):
            button.setVisible(there)
            button.setEnabled(there and not self.running)
        for button in (self.copy_button, self.remove_button):
            button.setVisible(there)
            button.setEnabled(bool(rows) and not self.running)

    def _planned(self, found: Sequence[Standing]) -> None:
        self.table.show_standings(found)
        self._show_notes()

    def _show_notes(self) -> None:
        """What is to be known of the chosen variant, at length."""
        found = self.table.standing(self.rows[0]) if self.rows else None
        told = [] if found is None else [text for text in (found.planned.trouble, *found.planned.notes) if text]
        self.notes.setText("" if found is None or not told else f"{found.planned.variant.name}: {'; '.join(told)}.")
        self.notes.setVisible(bool(told))

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
        if self.series is not None and self.rows:
            self._add(self.series.variants[self.rows[-1]])

    def _add(self, like: Any) -> None:
        after = self.rows[-1] if self.rows else self.table.rowCount() - 1
        self.table.add(after, like)
        self.view.setCurrentIndex(self.table.index(min(after + 1, self.table.rowCount() - 1), 0))
        self.view.edit(self.view.currentIndex())

    def remove(self) -> None:
        """Remove the chosen variants."""
        self.table.remove(self.rows)

    def open_variant(self) -> None:
        """Open the chosen variant as a session without a name."""
        found = self.table.standing(self.rows[0]) if self.rows else None
        if found is None or found.planned.session is None or self.path is None:
            self.tell("Choose a variant that can be made.", fault=True)
            return
        self.open_session.emit(found.planned.session, self.path.parent)

    # -- files

    def save_words(self) -> None:
        """Write all that is said for a translator."""
        path = self._ask_save(
            "Words for a translator", " words.csv", "Table (*.csv);;Catalogue (*.po)", (".csv", ".po")
        )
        session = self.session
        if path is None or session is None:
            return

        def write() -> None:
            timeline = compile_session(session, paced())
            po = path.suffix.lower() == ".po"
            text = words_catalogue(timeline).encode() if po else words_table(timeline).encode("utf-8-sig")
            write_whole(path, text)

        self._try(
            write, lambda _: self.tell(f"Saved {path}. Give it to the variant under “Words” when it is translated.")
        )

    def use_words(self) -> None:
        """Give the chosen variants a translator's table."""
        if self.series is None or self.path is None or not self.rows:
            self.tell("Choose the variants that are to be in these words.", fault=True)
            return
        name, _ = QFileDialog.getOpenFileName(self, "Translated words", str(self.path.parent), "Words (*.csv *.po)")
        if not name:
            return
        from os.path import relpath

        words, rows, series = Path(relpath(name, self.path.parent)).as_posix(), self.rows, self.series

        def taken(_: object) -> None:
            for row in rows:
                variant = series.variants[row].model_copy(update={"words": words})
                self.table.put_row(row, variant, "words")

        self._try(lambda: read_words(Path(name)), taken)

    def save_call_sheet(self) -> None:
        """Write one call sheet for every variant."""
        path = self._ask_save("One call sheet for all", " call sheet.csv", "Table (*.csv)", (".csv",))
        if path is None:
            return

        def write() -> None:
            sessions = [each.session for each in self._variants() if each.session is not None]
            lines = call_sheet([compile_session(session, paced()) for session in sessions])
            write_whole(path, as_csv(lines).encode())

        self._try(write, lambda _: self.tell(f"Saved {path}"))

    def save_page(self) -> None:
        """Write the summary page."""
        path = self._ask_save("Summary page", ".html", "Page (*.html)", (".html", ".htm"))
        series, here = self.series, self.path
        if path is None or series is None or here is None:
            return

        def write() -> None:
            found = standings(series, self._variants(), here.parent)
            write_whole(path, series_page(series, found, path.absolute().parent).encode())

        self._try(write, lambda _: self.tell(f"Saved {path}"))

    def _ask_save(self, title: str, ending: str, kinds: str, endings: tuple[str, ...]) -> Path | None:
        if self.path is None:
            return None
        return ask_save_name(self, title, self.path.with_name(f"{self.path.stem}{ending}"), kinds, endings)

    def _variants(self) -> list[Planned]:
        """The variants as they were planned last."""
        return [each.planned for row in range(self.table.rowCount()) if (each := self.table.standing(row)) is not None]

    # -- the long work

    def begin(self) -> None:
        """Render the variants that changed."""
        series, folder, variants = self._ready()
        if series is None or folder is None:
            return

        def work(note: Note) -> tuple[str, list[str], list[Ended], int]:
            jobs, kept = jobs_of(series, variants, folder)
            names = [job.out.stem for job in jobs]
            return "rendered", names, _spread(render_one, jobs, "rendering", note), len(kept)

        self._work(work)

    def deliver(self, purpose: str) -> None:
        """Deliver the variants that changed, each into a folder of its own."""
        series, folder, variants = self._ready()
        if series is None or folder is None:
            return
        into = ask_folder(self, "The folder to deliver into", str(folder))
        if not into:
            return
        audio, texts = PURPOSES[purpose]
        video = "1080p" if purpose == "video" else None
        more = partial(drawn_alone, "sheet" in texts, video) if "sheet" in texts or video else None
        wanted = Wanted(audio, texts, video, more)

        def work(note: Note) -> tuple[str, list[str], list[Ended], int]:
            tasks, kept = handings_of(variants, folder, Path(into), wanted)
            names = [task.planned.variant.name for task in tasks]
            return "delivered", names, _spread(deliver_one, tasks, "delivering", note), len(kept)

        self._work(work)

    def check(self) -> None:
        """Put every variant to the review, and hold them against each other."""
        _, folder, variants = self._ready()
        if folder is None:
            return
        able = [each for each in variants if each.session is not None]

        def work(note: Note) -> tuple[str, list[str], list[Ended], int]:
            tasks = [Checking(each, folder) for each in able]
            return "checked", [each.variant.name for each in able], _spread(check_one, tasks, "checking", note), 0

        self._work(work)

    def _ready(self) -> tuple[Series | None, Path | None, list[Planned]]:
        variants = self._variants()
        if self.series is None or self.path is None:
            return None, None, []
        if len(variants) < len(self.series.variants):
            self.tell("The variants are still being planned: wait a moment.", fault=True)
            return None, None, []
        if not variants:
            self.tell("There is no variant yet: Add makes one.", fault=True)
            return None, None, []
        return self.series, self.path.parent, variants

    def _work(self, work: Callable[[Note], object]) -> None:
        self.list.hide()
        self.run(work)
        self._show_buttons()

    def _show_progress(self, stage: str, done: float) -> None:
        super()._show_progress(stage.partition(" ")[0], done)
        self.bar.setFormat(f"{stage} … %p%")

    def _show_end(self, outcome: Any) -> None:
        super()._show_end(outcome)
        self._show_buttons()
        if self.series is not None and self.path is not None:
            self.planning.plan(self.series, self.path.parent)

    def ended(self, made: object) -> str:
        assert isinstance(made, tuple)
        what, names, ended, kept = made
        self.list.clear()
        if what == "checked":
            self.list.addItems(_checked_lines(names, ended))
            whole = not self.list.count()
            told = (
                "Nothing must or should be changed, and they are alike."
                if whole
                else f"{many(len(names), 'variant')} checked."
            )
        else:
            for name, end in zip(names, ended):
                done = f"{name}: {end.made.words}" if end.made is not None else f"{name}: not {what}. {_why(end)}"
                self.list.addItem(done)
            ready = sum(end.made is not None for end in ended)
            told = f"{ready} {what}, {kept} stand as they are."
        self.list.setVisible(self.list.count() > 0)
        return told


def _why(end: Ended) -> str:
    return "Cancelled." if end.cancelled else end.trouble


def _checked_lines(names: Sequence[str], ended: Sequence[Ended]) -> list[str]:
    found: list[Checked] = [end.made for end in ended if end.made is not None]
    lines = apart(found)
    for name, end in zip(names, ended):
        if end.made is None:
            lines.append(f"{name}: not checked. {_why(end)}")
            continue
        lines += [f"{name}: {severity}: {where}: {text}" for severity, _, where, text in end.made.findings]
        lines += [f"{name}: too long: {line}" for line in end.made.too_long]
    return lines


def _spread(work: Any, items: Sequence[Any], stage: str, note: Note) -> list[Ended]:
    """Do it on every item, several at once; the bar shows the share of all."""
    shares = [0.0] * len(items)

    def told(place: int, part: str, done: float) -> None:
        shares[place] = 1.0 if not part else max(shares[place], min(done, 0.99))
        ready = sum(share == 1.0 for share in shares)
        note(f"{stage} {ready} of {len(items)}", sum(shares) / len(items)) if not note.stopped() else None

    return spread(work, items, None, told, note.stopped)
