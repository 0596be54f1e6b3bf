"""Review a recording: what is heard in it as rounds on one scale, how its count went, and what is wrong."""

import json
from pathlib import Path
from typing import ClassVar

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QListWidget, QListWidgetItem, QPushButton, QScrollArea, QWidget

from nafas.desk.audio.audition import Audition
from nafas.desk.dialogs.save_name import ask_save_name
from nafas.desk.review.rounds_picture import RoundsPicture
from nafas.desk.widgets.labels import Label, set_tip
from nafas.desk.work.background import Note
from nafas.desk.work.work_dialog import WorkDialog
from nafas.errors import InputError
from nafas.files import write_whole
from nafas.plain_text import many
from nafas.review.audit.audit import Audit, audit
from nafas.review.audit.infer import Inferred, infer
from nafas.script import save_session
from nafas.sound.files.recording import Recording
from nafas.timing import Timeline
from nafas.timing.clock import clock

_SOUNDS = "Recordings (*.wav *.flac *.aiff *.aif *.mp3 *.ogg *.opus)"
_LEAD = 1.5
_RATE = 48_000


class AuditDialog(WorkDialog):
    """Puts a recording to the test on a thread of its own and shows what was heard."""

    stages: ClassVar = {"hearing": (0, 85), "measuring": (85, 100), "writing": (0, 100)}
    failed = "Not reviewed."

    def __init__(self, timeline: Timeline | None, title: str, parent: QWidget | None = None) -> None:
        super().__init__("Review a recording", "Choose a recording…", parent)
        self.resize(940, 700)
        self._timeline, self._title = timeline, title
        self.audit: Audit | None = None
        self.audition = Audition(self)
        self.heading = Label("What is heard in a recording", objectName="heading")
        self.box.addWidget(self.heading)
        self.about = Label(
            "A finished or performed recording, with or without a session: cues and counts are heard, not assumed, "
            "and held against each other. English is recognised.",
            objectName="muted",
        )
        self.about.setWordWrap(True)
        self.box.addWidget(self.about)
        self.picture = RoundsPicture()
        self.picture.seek.connect(self.play_from)
        self.scroll = QScrollArea()
        self.scroll.setWidgetResizable(True)
        self.scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.scroll.setWidget(self.picture)
        self.box.addWidget(self.scroll, 3)
        self.list = QListWidget()
        self.list.setAccessibleName("What is wrong")
        self.list.setWordWrap(True)
        self.list.itemActivated.connect(lambda item: self.play_from(item.data(Qt.ItemDataRole.UserRole)))
        self.list.itemClicked.connect(lambda item: self.play_from(item.data(Qt.ItemDataRole.UserRole)))
        self.box.addWidget(self.list, 1)
        row = QHBoxLayout()
        self.stop, self.json, self.labels = (
            QPushButton("Stop"),
            QPushButton("Save figures…"),
            QPushButton("Save labels…"),
        )
        set_tip(self.json, "Everything that was heard and measured, as JSON")
        set_tip(self.labels, "The words with their times, as a label track")
        self.stop.clicked.connect(self.audition.stop)
        self.json.clicked.connect(lambda: self._save(".json", "Figures (*.json)"))
        self.labels.clicked.connect(lambda: self._save(".txt", "Labels (*.txt)"))
        self.make = QPushButton("Make a session of it…")
        set_tip(self.make, "Its sets on an exact grid, and its words as takes")
        self.make.clicked.connect(self._make)
        for button in (self.stop, self.json, self.labels, self.make):
            button.setAutoDefault(False)
            row.addWidget(button)
        row.addStretch(1)
        self.box.addLayout(row)
        self._show_parts(False)

    def _show_parts(self, on: bool) -> None:
        for part in (self.scroll, self.list, self.stop, self.json, self.labels, self.make):
            part.setVisible(on)

    def begin(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(self, "Review a recording", "", _SOUNDS)
        if chosen:
            self.review(Path(chosen))

    def review(self, path: Path) -> None:
        """Put a recording to the test."""
        timeline = self._timeline
        self.heading.setText(path.name)

        def work(note: Note) -> Audit:
            return audit(path, timeline, note)

        self.run(work)

    def ended(self, made: object) -> str:
        if isinstance(made, tuple):
            return _told(*made)
        assert isinstance(made, Audit)
        self.audit = made
        measured = made.measured
        held = f"Held against “{self._title}”. " if made.pairs else ""
        self.about.setText(
            f"{held}{clock(made.seconds)}, {measured.loudness:.1f} LUFS, true peak {measured.true_peak:.1f} dBTP, "
            f"range {measured.range:.1f} LU. {many(len(made.words), 'cue or number', 'cues and numbers')} in "
            f"{many(len(made.sets), 'set')}. Click to hear a place."
        )
        self.picture.show_sets(made.sets, tuple(finding.at for finding in made.findings))
        self.list.clear()
        for finding in made.findings:
            item = QListWidgetItem(f"{clock(finding.at, tenths=True)}   {finding.severity.value}:  {finding.text}")
            item.setData(Qt.ItemDataRole.UserRole, finding.at)
            self.list.addItem(item)
        self._show_parts(True)
        self.scroll.setVisible(bool(made.sets))
        self.list.setVisible(bool(made.findings))
        self.make.setEnabled(bool(made.sets))
        told = "Nothing is wrong in what was heard." if not made.findings else ""
        return " ".join([told, *(f"Not told: {limit}." for limit in made.limits)]).strip()

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
        self.audition.play_from(lambda at, many: recording.read(begin + at, many), 12 * _RATE, _RATE)

    def _make(self) -> None:
        """Ask where, and write the session and its take book; it is opened from there as any other."""
        found = self.audit
        if found is None:
            return
        start, title = found.path.with_suffix(".nafas"), "Make a session of it"
        path = ask_save_name(self, title, start, "Sessions (*.nafas)", (".nafas",))
        if path is None:
            return

        def work(note: Note) -> tuple[Path, Inferred]:
            made = infer(found, path.parent, note)
            save_session(made.session, path)
            return path, made

        self.run(work)

    def _save(self, ending: str, kinds: str) -> None:
        if self.audit is None:
            return
        path = ask_save_name(self, "Save", self.audit.path.with_suffix(ending), kinds, (ending,))
        if path is None:
            return
        text = (
            self.audit.labels() if ending == ".txt" else json.dumps(self.audit.figures(), indent=1, ensure_ascii=False)
        )
        try:
            write_whole(path, text.encode())
            self.tell(f"Saved {path}")
        except InputError as error:
            self.tell(str(error), fault=True)

    def reject(self) -> None:
        self.audition.stop()
        super().reject()


def _told(path: Path, made: Inferred) -> str:
    """What came of making a session of a recording."""
    far = max((abs(each.by) for each in made.moved), default=0.0)
    told = f"Saved {path}, with {many(made.takes, 'take')}. On the grid words move by up to {far:.2f} s."
    return " ".join([told, *(f"{note[:1].upper()}{note[1:]}." for note in made.notes)])
