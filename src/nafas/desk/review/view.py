"""The Review view: findings in the middle, the chosen one and its remedies at the right, what was looked at below."""

from dataclasses import replace

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QProgressBar, QScrollArea, QVBoxLayout, QWidget

from nafas.desk.document import Document
from nafas.desk.review.findings_list import FindingsList
from nafas.desk.review.reviewing import Reviewed, Reviewing
from nafas.desk.review.side import FindingSide
from nafas.desk.widgets.controls import across, fill
from nafas.desk.widgets.labels import Label, WrappedLabel
from nafas.desk.widgets.section import Section
from nafas.plain_text import pluralize
from nafas.review.checks.finding import Finding, Severity
from nafas.review.checks.register import GROUPS
from nafas.review.checks.voice import line_fixes
from nafas.script.edits.session_edits import change, with_set_aside
from nafas.sound import Mix
from nafas.state.own_words import confirm, forget
from nafas.suggest.finding_remedies import FindingRemedy
from nafas.timing import SpokenLength
from nafas.voice import Narrator

_WAITING = "To be heard"


class ReviewView(QWidget):
    """Signals: go: a block's place; play: seconds to play from; said: for the status line; counted: findings that must
    or should be changed, and those words."""

    go = Signal(int)
    play = Signal(float)
    said = Signal(str)
    counted = Signal(int, str)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.reviewing = Reviewing(self)
        self.reviewed: Reviewed | None = None
        self._narrator: Narrator | None = None
        self.side = FindingSide()
        self.list = FindingsList()
        self.heading = Label("Looking…", objectName="heading")
        self.progress = QProgressBar()
        self.progress.setRange(0, 100)
        self.progress.setFormat("Listening %p %")
        self.progress.setFixedWidth(170)
        self.progress.hide()
        self.looked = Section("What was checked")
        self.groups: dict[str, WrappedLabel] = {}
        for group in (*GROUPS, _WAITING):
            label = self.groups[group] = WrappedLabel(objectName="muted")
            name = Label(group)
            name.setAlignment(Qt.AlignmentFlag.AlignTop)
            self.looked.form.addRow(name, label)
        self.looked.form.setHorizontalSpacing(14)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        inner = QWidget()
        fill(QVBoxLayout(inner), self.looked, None, margins=(4, 0, 8, 0))
        scroll.setWidget(inner)
        self._scroll = scroll
        self.looked.head.toggled.connect(lambda _: self._share())
        fill(
            QVBoxLayout(self),
            across((self.heading, 1), self.progress),
            (self.list, 3),
            (scroll, 1),
            spacing=6,
            margins=(0, 6, 0, 0),
        )
        self.list.chose.connect(self._choose)
        self.list.opened.connect(self._go)
        self.side.go.connect(self._go)
        self.side.play.connect(lambda finding: self.play.emit(max(0.0, float(finding.at) - 1.0)))
        self.side.apply.connect(self._apply)
        self.side.set_aside.connect(self._set_aside)
        self.side.publishing.connect(self._publish)
        self.reviewing.found.connect(self._show)
        self.reviewing.progress.connect(self._progress)
        self.reviewing.failed.connect(self.said)

    def show_mix(self, mix: Mix, spoken_length: SpokenLength, listen: bool, narrator: Narrator | None = None) -> None:
        """Review this mix; with what has to be heard where `listen`. `narrator` tries what would make a line fit."""
        self._narrator = narrator
        self.reviewing.review(mix, spoken_length, listen)

    def _choose(self, finding: Finding | None) -> None:
        if finding is not None and self.reviewed is not None and self._narrator is not None and not finding.reason:
            fixes = line_fixes(self.reviewed.subject, finding, self._narrator)
            finding = replace(finding, remedies=fixes or finding.remedies)
        self.side.show_finding(finding, self.reviewed)

    def close_down(self) -> None:
        """Stop the work."""
        self.reviewing.stop()

    def _progress(self, done: float) -> None:
        self.progress.setVisible(done < 1)
        self.progress.setValue(round(100 * done))

    def _show(self, reviewed: Reviewed) -> None:
        self.reviewed = reviewed
        review = reviewed.review
        self.progress.setVisible(any(check.needs == "measures" for check in review.waiting) and self.isVisible())
        must, should = len(review.of(Severity.MUST)), len(review.of(Severity.SHOULD))
        self.heading.setText(_heading(must, should, len(review.of(Severity.LOOK))))
        self.list.setVisible(bool(review.findings))
        self.list.show_review(review)
        for group in GROUPS:
            looks = [check.looks for check in review.looked if check.group == group]
            self.groups[group].setText("; ".join(looks))
        self.groups[_WAITING].setText("; ".join(check.looks for check in review.waiting))
        self.looked.form.setRowVisible(len(GROUPS), bool(review.waiting))
        waiting = f", {len(review.waiting)} still to be heard" if review.waiting else ""
        self.looked.show_relevant(not review.findings, f"{pluralize(len(review.looked), 'thing')}{waiting}")
        self._share()
        words = pluralize(must + should, "thing to change", "things to change")
        self.counted.emit(must + should, words)

    def _share(self) -> None:
        """The list takes the room that the folded account of what was looked at does not need."""
        folded = not self.looked.is_open
        self._scroll.setMaximumHeight(self.looked.head.sizeHint().height() + 6 if folded else 16_777_215)

    def _go(self, finding: Finding) -> None:
        if finding.block is not None:
            self.go.emit(finding.block)

    def _apply(self, remedy: FindingRemedy) -> None:
        if self.reviewed is not None and self.document.session is self.reviewed.subject.session:
            if remedy.confirms is not None:
                confirm(*remedy.confirms)
            self.document.edit(remedy.session, remedy.title.lower())
            again = "Undo" if remedy.confirms is None else "Remembered for other sessions. Stop ignoring"
            self.said.emit(f"Done: {remedy.title}. {again} takes it back.")

    def _set_aside(self, key: str, reason: str) -> None:
        try:
            session = with_set_aside(self.document.session, key, reason)
            found = self.reviewed.review.findings if self.reviewed is not None and not reason else ()
            for remedy in (remedy for finding in found if finding.key == key for remedy in finding.remedies):
                if remedy.confirms is not None:
                    forget(*remedy.confirms)
                    self.reviewing.again()
        except ValueError as fault:
            self.said.emit(str(fault))
            return
        self.document.edit(session, "ignore a finding" if reason else "stop ignoring a finding")

    def _publish(self, on: bool) -> None:
        self.document.edit(change(self.document.session, publishing=on), "mark for publishing")


def _heading(must: int, should: int, look: int) -> str:
    if not must and not should:
        return "Nothing to change" if not look else f"Nothing to change, {look} worth a look"
    parts = [f"{must} must be changed"] if must else []
    parts += [f"{should} should be"] if should and must else [f"{should} should be changed"] if should else []
    return ", ".join(parts)
