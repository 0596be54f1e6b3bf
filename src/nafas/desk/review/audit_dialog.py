"""Review a recording: what is heard in it as rounds on one scale, how its count went, and what is wrong."""

from pathlib import Path
from typing import ClassVar

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QScrollArea,
    QTabWidget,
    QWidget,
)

from nafas.desk.audio.audition import Audition
from nafas.desk.dialogs.save_name import ask_save_name
from nafas.desk.widgets.controls import Button, Tick
from nafas.desk.widgets.fields import ComboBox
from nafas.desk.widgets.labels import Label, set_tip
from nafas.desk.widgets.rounds_picture import RoundsPicture
from nafas.desk.work.work_dialog import WorkDialog
from nafas.errors import InputError
from nafas.languages import LANGUAGES, language_name
from nafas.plain_text import pluralize
from nafas.review.audit.audit import Audit
from nafas.sound.files.recording import Recording
from nafas.tasks.audit import STAGES, AuditRequest, AuditResult, MadeSession, make_session, run, savers
from nafas.timing import Timeline
from nafas.timing.clock import clock

_SOUNDS = "Recordings (*.wav *.flac *.aiff *.aif *.mp3 *.ogg *.opus *.m4a *.mp4)"
_LEAD = 1.5
_RATE = 48_000


class AuditDialog(WorkDialog):
    """Puts a recording to the test on a thread of its own and shows what was heard."""

    place = (
        "review#A recording (File, Review a recording; nafas audit REC [--for a.nafas] [--json] [--labels F] [--pdf F])"
    )

    stages: ClassVar = STAGES
    failed = "Not reviewed."

    def __init__(self, timeline: Timeline | None, title: str, parent: QWidget | None = None) -> None:
        super().__init__("Review a recording", "Choose a recording…", parent)
        self.resize(940, 700)
        self._timeline, self._title = timeline, title
        self.audit: Audit | None = None
        self.audition = Audition(self)
        self.heading = Label("Listen to a recording", objectName="heading")
        self.box.addWidget(self.heading)
        self.about = Label(
            "A finished or performed recording, with or without a session. Nafas recognises cues and counts and "
            "compares them. It hears English best, other languages less surely.",
            objectName="muted",
            wordWrap=True,
        )
        self.box.addWidget(self.about)
        asked = QHBoxLayout()
        self.language = ComboBox()
        self.language.setAccessibleName("Language of its cues and numbers")
        for code in LANGUAGES:
            self.language.addItem(language_name(code), code)
        spoken = timeline.session.language if timeline is not None else "en"
        self.language.setCurrentIndex(self.language.findData(spoken))
        self.talk = Tick("Listen to talk as well (takes about twice as long)")
        self.talk.setChecked(True)
        asked.addWidget(Label("Spoken in"))
        asked.addWidget(self.language)
        asked.addSpacing(16)
        asked.addWidget(self.talk)
        asked.addStretch(1)
        self.asked = QWidget()
        self.asked.setLayout(asked)
        asked.setContentsMargins(0, 0, 0, 0)
        self.box.addWidget(self.asked)
        self.picture = RoundsPicture()
        self.picture.seek.connect(self.play_from)
        self.scrolled = QScrollArea()
        self.scrolled.setWidgetResizable(True)
        self.scrolled.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.scrolled.setWidget(self.picture)
        self.said = self._clicked_list("Talk as it was recognised")
        self.parts = QTabWidget()
        self.parts.setDocumentMode(True)
        self.parts.addTab(self.scrolled, "Rounds")
        self.parts.addTab(self.said, "Talk")
        self.box.addWidget(self.parts, 3)
        self.room = QWidget()
        self.box.addWidget(self.room, 3)
        self.list = self._clicked_list("Faults")
        self.box.addWidget(self.list, 1)
        row = QHBoxLayout()
        names = ("Stop", "Save page…", "Save figures…", "Save labels…")
        self.stop, self.page, self.json, self.labels = map(QPushButton, names)
        set_tip(self.page, "Faults, rounds and talk as a PDF")
        set_tip(self.json, "Everything recognised and measured, as JSON")
        set_tip(self.labels, "Words with their times as a label track")
        self.stop.clicked.connect(self.audition.stop)
        self.page.clicked.connect(lambda: self._save(".pdf", "Page (*.pdf)"))
        self.json.clicked.connect(lambda: self._save(".json", "Figures (*.json)"))
        self.labels.clicked.connect(lambda: self._save(".txt", "Labels (*.txt)"))
        self.make = Button(
            "Make a session of it…", self._make, tip="A session with its sets on an exact grid and its words as takes"
        )
        for button in (self.stop, self.page, self.json, self.labels, self.make):
            button.setAutoDefault(False)
            row.addWidget(button)
        row.addStretch(1)
        self.box.addLayout(row)
        self._show_parts(False)

    def _clicked_list(self, name: str) -> QListWidget:
        """A list whose lines play from their place."""
        made = QListWidget()
        made.setAccessibleName(name)
        made.setWordWrap(True)
        made.itemActivated.connect(lambda item: self.play_from(item.data(Qt.ItemDataRole.UserRole)))
        made.itemClicked.connect(lambda item: self.play_from(item.data(Qt.ItemDataRole.UserRole)))
        return made

    def _show_parts(self, on: bool) -> None:
        self.room.setVisible(not on)
        for part in (self.parts, self.list, self.stop, self.page, self.json, self.labels, self.make):
            part.setVisible(on)

    def begin(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(self, "Review a recording", "", _SOUNDS)
        if chosen:
            self.review(Path(chosen))

    def review(self, path: Path) -> None:
        """Put a recording to the test."""
        timeline, language, talk = self._timeline, str(self.language.currentData()), self.talk.isChecked()
        its_own = timeline is not None and timeline.session.language == language
        self.heading.setText(path.name)

        request = AuditRequest(path, timeline if its_own else None, None if its_own else language, talk=talk)
        self.run(lambda note: run(request, note))

    def ended(self, made: object) -> str:
        if isinstance(made, MadeSession):
            return "\n".join(made.lines())
        assert isinstance(made, AuditResult)
        warnings, made = made.warnings, made.audit
        self.audit = made
        measured = made.measured
        held = f"Compared with “{self._title}”. " if made.pairs else ""
        self.about.setText(
            f"{held}{clock(made.seconds)}, {measured.loudness:.1f} LUFS, true peak {measured.true_peak:.1f} dBTP, "
            f"range {measured.range:.1f} LU. {pluralize(len(made.words), 'cue or number', 'cues and numbers')} in "
            f"{pluralize(len(made.sets), 'set')}, {pluralize(len(made.talk), 'sentence')} of talk. A click plays it."
        )
        self.picture.show_sets(made.sets, tuple(finding.at for finding in made.findings))
        _fill(self.list, [(f.at, f"{f.severity.value}:  {f.text}") for f in made.findings])
        _fill(self.said, [(said.start, said.text or "not written down") for said in made.talk])
        self.parts.setTabText(1, f"Talk ({len(made.talk)})")
        self.parts.setTabEnabled(1, bool(made.talk))
        self._show_parts(True)
        self.parts.setVisible(bool(made.sets or made.talk))
        self.parts.setCurrentIndex(0 if made.sets else 1)
        self.room.setVisible(not (made.sets or made.talk))
        self.list.setVisible(bool(made.findings))
        self.make.setEnabled(bool(made.sets))
        message = "No faults were found." if not made.findings else ""
        return " ".join([message, *(f"Limit: {limit}." for limit in made.limits), *warnings]).strip()

    def play_from(self, seconds: float) -> None:
        """Play the recording from a little before a time."""
        if self.audit is None:
            return
        try:
            recording = Recording(self.audit.path, _RATE)
        except InputError as error:
            self.tell(str(error), fault=True)
            return
        begin = max(0, round((seconds - _LEAD) * _RATE))
        self.audition.play_from(lambda at, number: recording.read(begin + at, number), 12 * _RATE, _RATE)

    def _make(self) -> None:
        """Ask where, and write the session and its take book; it is opened from there as any other."""
        heard = self.audit
        if heard is None:
            return
        start, title = heard.path.with_suffix(".nafas"), "Make a session of it"
        path = ask_save_name(self, title, start, "Sessions (*.nafas)", (".nafas",))
        if path is None:
            return

        self.run(lambda note: make_session(heard, path, note))

    def _save(self, ending: str, kinds: str) -> None:
        if self.audit is None:
            return
        path = ask_save_name(self, "Save", self.audit.path.with_suffix(ending), kinds, (ending,))
        if path is None:
            return
        try:
            savers(self.audit)[ending](path)
            self.tell(f"Saved {path}")
        except InputError as error:
            self.tell(str(error), fault=True)

    def reject(self) -> None:
        self.audition.stop()
        super().reject()


def _fill(shown: QListWidget, lines: list[tuple[float, str]]) -> None:
    """Lines with the time at which each is heard."""
    shown.clear()
    for at, text in lines:
        item = QListWidgetItem(f"{clock(at, tenths=True)}   {text}")
        item.setData(Qt.ItemDataRole.UserRole, at)
        shown.addItem(item)
