"""The right of the Takes view: whether the line fits, what can be done about it at what cost, and the take book."""

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import (
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from nafas.desk.takes.shelf import Shelf
from nafas.desk.widgets.controls import Button, Tick, across, emptied
from nafas.desk.widgets.fields import Choice
from nafas.desk.widgets.labels import Label, RichLabel, escape, set_tip
from nafas.desk.widgets.scrolled import scrolled_column
from nafas.script.model.voice import MOST_SHORTENED
from nafas.suggest.line_remedies import Remedy
from nafas.timing import Timeline
from nafas.timing.clock import clock
from nafas.voice.casting import Room
from nafas.voice.line_status import LineStatus, places_of


class FitSide(QWidget):
    """Signals: apply: a remedy; record: the line is to be recorded; shorten_words: whether words may be shortened;
    begin, choose, copy: a new take book, one that is there, or a copy of this one."""

    apply = Signal(object)
    record = Signal()
    begin = Signal()
    choose = Signal()
    copy = Signal()
    unlisted = Signal()
    shorten_words = Signal(bool)

    def __init__(self, shelf: Shelf) -> None:
        super().__init__()
        self.shelf = shelf
        self._standing: LineStatus | None = None
        self.box = scrolled_column(self)
        self.box.addWidget(Label("Fit", objectName="section"))
        self.room = self._words()
        self.answers = QVBoxLayout()
        self.answers.setSpacing(6)
        self.box.addLayout(self.answers)
        self.remedies: list[tuple[Remedy, QPushButton]] = []
        self.shorten = Tick(
            "", self.shorten_words, tip="At the same pitch, by just what is needed, and only where no take fits"
        )
        self.box.addWidget(self.shorten)
        self.box.addWidget(Label("Take book", objectName="section"))
        self.which = Choice("Which take book", ("", ""))
        self.which.chose.connect(lambda book: self.shelf.choose(str(book)))
        self.box.addWidget(self.which)
        self.book = self._words()
        self.book.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.choose_button, self.copy_button = Button("Choose…"), Button("Copy to…")
        self.begin_button = Button("Begin a new one…", self.begin)
        self.choose_button.clicked.connect(self.choose)
        self.copy_button.clicked.connect(self.copy)
        self.quiet_gaps = Tick("Quieter gaps", tip="Turns the room's noise down between and around words, gently")
        self.even = Tick("Evener speech", tip="Brings loud and soft words nearer to each other, gently")
        for box, name in ((self.quiet_gaps, "quiet_gaps"), (self.even, "even")):
            box.clicked.connect(lambda on, name=name: self._set_chain(name, on))
        for widget in (self.quiet_gaps, self.even):
            self.box.addWidget(widget)
        self.unlisted_button = Button("", self.unlisted)
        self.unlisted_button.hide()
        self.box.addWidget(self.unlisted_button)
        self.box.addLayout(across(self.choose_button, self.copy_button))
        self.box.addWidget(self.begin_button)
        self.box.addStretch(1)
        self._later = QTimer(self, singleShot=True, interval=60)
        self._later.timeout.connect(self._offer)

    def _words(self) -> RichLabel:
        label = RichLabel()
        label.setWordWrap(True)
        label.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.box.addWidget(label)
        return label

    def show_line(self, standing: LineStatus | None) -> None:
        """Show how a line fits, and the book."""
        self._standing = standing
        self._clear()
        self._show_book()
        most = self.shelf.document.session.voice.shorten
        self.shorten.setChecked(most > 0)
        self.shorten.setText(f"Shorten what does not fit, by up to {most or MOST_SHORTENED:.0%}")
        if standing is None:
            self.room.setText("")
            return
        cast = self.shelf.preparation.cast if self.shelf.preparation.fresh else None
        if cast is None:
            self.room.setText("Being cast…")
            return
        places = set(places_of(standing.line, cast))
        rooms = [room for room in cast.rooms if room.placement in places]
        self.room.setText(_fit_words(standing, rooms, cast.timeline))
        if standing.misfit is not None:
            self._later.start()

    def _clear(self) -> None:
        self._later.stop()
        emptied(self.answers)
        self.remedies = []

    def _offer(self) -> None:
        """The remedies, tried on the whole session: after the line is drawn, since that takes a moment."""
        standing = self._standing
        if standing is None:
            return
        remedies = self.shelf.remedies(standing)
        if remedies:
            self.answers.addWidget(Label("How to make it fit", objectName="muted"))
        for remedy in remedies:
            name, _, size = remedy.title.partition(": ")
            cost = (
                "no time" if not remedy.cost else f"{clock(abs(remedy.cost))} {'more' if remedy.cost > 0 else 'less'}"
            )
            left = f"\n{remedy.left} other misfits stay" if remedy.left and remedy.session is not None else ""
            button = Button(
                f"{name}\n{size + ', ' if size else ''}costs {cost}{left}",
                lambda _=False, remedy=remedy: (
                    self.record.emit() if remedy.session is None else self.apply.emit(remedy)
                ),
            )
            button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            button.setStyleSheet("text-align: left")
            self.answers.addWidget(button)
            self.remedies.append((remedy, button))

    def _show_book(self) -> None:
        book, folder, trouble = self.shelf.book, self.shelf.folder, self.shelf.trouble
        choices = self.shelf.choices
        self.which.setVisible(len(choices) > 1)
        self.which.set_options(*choices.items())
        self.which.show_value(self.shelf.chosen)
        for box in (self.quiet_gaps, self.even, self.copy_button):
            box.setVisible(book is not None)
            box.setEnabled(box is self.copy_button or not self.shelf.kept_as_it_is)
        lost = len(self.shelf.unlisted)
        self.unlisted_button.setVisible(lost > 0)
        self.unlisted_button.setText(f"{lost} recording{'s' * (lost > 1)} without a line…")
        self.unlisted_button.setEnabled(not self.shelf.kept_as_it_is)
        if book is not None:
            takes = len(book.index.takes)
            aside = sum(take.aside for take in book.index.takes)
            words = f"<b>{escape(book.index.title or book.folder.name)}</b><br>{takes} takes"
            words += f", {aside} set aside" if aside else ""
            if book.absent:
                words += f"<br>{len(book.absent)} of its files are not in the folder"
            self.book.setText(words)
            set_tip(self.book, str(book.folder))
            self.quiet_gaps.setChecked(book.index.chain.quiet_gaps)
            self.even.setChecked(book.index.chain.even)
        elif trouble is not None:
            self.book.setText(escape(f"Not found at {folder}. Was it moved? {trouble.remedy.capitalize()}."))
        else:
            self.book.setText("None yet: the narrator reads every line. Recording or importing begins one.")

    def _set_chain(self, name: str, on: bool) -> None:
        book = self.shelf.book
        if book is not None:
            chain = book.index.chain.model_copy(update={name: on})
            self.shelf.change_index(book.index.model_copy(update={"chain": chain}), "change the chain")


def _fit_words(standing: LineStatus, rooms: list[Room], timeline: Timeline) -> str:
    if not rooms:
        return "It is not said in this session."
    tight = min(rooms, key=lambda room: room.after)
    moment = tight.placement.moment
    part = tight.placement.clip.part
    words = [
        f"Tightest at {clock(moment.at)}, {escape(timeline.address(moment))}: "
        f"it lasts <b>{tight.need:.2f} s</b>, begins",
        f"{_apart(tight.before)} after the word before it"
        if tight.before >= 0
        else f"{_apart(tight.before)} before the last word is over",
        f"and ends <b>{_apart(tight.after)}</b> before the next."
        if tight.after >= 0
        else f"and runs <b>{_apart(tight.after)}</b> into the next.",
    ]
    if part < 1:
        words.append(f"There it is shortened by {1 - part:.0%}, at its pitch.")
    number = sum(room.after < -1e-6 for room in rooms)
    if standing.misfit is None:
        words.append("It fits everywhere.")
    elif number:
        words.append(f"It does not fit in {number} of {len(rooms)} places.")
    else:
        words.append(f"It is cut off at the session's {'beginning' if tight.placement.start < 0 else 'end'}.")
    return " ".join(words)


def _apart(seconds: float) -> str:
    return f"{abs(seconds):.2f} s"
