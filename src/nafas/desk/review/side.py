"""The right of the Review view: the chosen finding, ways out of it with their cost, and setting it aside."""

from PySide6.QtCore import Qt, Signal, SignalInstance
from PySide6.QtWidgets import (
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from nafas.desk.review.reviewing import Reviewed
from nafas.desk.widgets.controls import Button, Tick, across
from nafas.desk.widgets.labels import Label, set_tip
from nafas.desk.widgets.scrolled import scrolled_column
from nafas.review.checks.finding import Finding
from nafas.suggest.finding_remedies import FindingRemedy
from nafas.timing.clock import clock


class FindingSide(QWidget):
    """Signals: apply: a remedy; set_aside: (key, reason), "" to take it up again; play, go: the finding; publishing:
    whether the session is to be published."""

    apply = Signal(object)
    set_aside = Signal(str, str)
    play = Signal(object)
    go = Signal(object)
    publishing = Signal(bool)

    def __init__(self) -> None:
        super().__init__()
        box = scrolled_column(self)
        box.addWidget(Label("Finding", objectName="section"))
        self.text = self._wrapped(box)
        self.where = self._wrapped(box, "muted")
        self.go_button, self.play_button = Button("Show in the score"), Button("Play from here")
        set_tip(self.go_button, "Its block on the page (Enter)")
        self.go_button.clicked.connect(lambda: self._send(self.go))
        self.play_button.clicked.connect(lambda: self._send(self.play))
        box.addLayout(across(self.go_button, self.play_button))
        self.ways = Label("Fixes", objectName="section")
        box.addWidget(self.ways)
        self.answers = QVBoxLayout()
        self.answers.setSpacing(6)
        box.addLayout(self.answers)
        self.aside_head = Label("Ignore", objectName="section")
        box.addWidget(self.aside_head)
        self.reason = QLineEdit()
        self.reason.setMaxLength(300)
        self.reason.setPlaceholderText("reason for ignoring it")
        self.reason.setAccessibleName("Reason for ignoring it")
        self.reason.returnPressed.connect(self._set_aside)
        self.reason.textChanged.connect(lambda: self._show_aside())
        box.addWidget(self.reason)
        self.aside_button = Button("Ignore", self._set_aside, tip="The reason is kept in the session's file")
        box.addWidget(self.aside_button)
        box.addStretch(1)
        self.publish = Tick(
            "This session is to be published", self.publishing, tip="Lines read by the narrator are then reported too"
        )
        box.addWidget(self.publish)
        self.note = self._wrapped(box, "muted")
        self.note.setText("These checks help. They do not replace licensed practice, or breathing it yourself.")
        self.remedies: list[tuple[FindingRemedy, QPushButton]] = []
        self._finding: Finding | None = None
        self.show_finding(None, None)

    def _send(self, signal: SignalInstance) -> None:
        if self._finding is not None:
            signal.emit(self._finding)

    def _wrapped(self, box: QVBoxLayout, name: str = "") -> Label:
        label = Label(objectName=name, wordWrap=True)
        label.setAlignment(Qt.AlignmentFlag.AlignTop)
        box.addWidget(label)
        return label

    def show_finding(self, finding: Finding | None, reviewed: Reviewed | None) -> None:
        """Show a finding and what can be done about it; None: nothing is chosen."""
        self._finding = finding
        for _, button in self.remedies:
            button.setParent(None)
        self.remedies = []
        chosen = finding is not None
        self.text.setText(finding.text if finding else "Select a finding to see how to fix it.")
        self.where.setText(finding.where if finding else "")
        for part in (self.where, self.go_button, self.play_button, self.aside_head, self.reason, self.aside_button):
            part.setVisible(chosen)
        self.ways.setVisible(bool(finding and finding.remedies and not finding.reason))
        if reviewed is not None:
            self.publish.setChecked(reviewed.subject.session.publishing)
        if finding is None:
            return
        self.go_button.setEnabled(finding.block is not None)
        self.play_button.setEnabled(finding.at is not None)
        self.reason.setText(finding.reason)
        self._show_aside()
        if not finding.reason and reviewed is not None:
            for remedy in finding.remedies:
                self._offer(remedy, reviewed)

    def _offer(self, remedy: FindingRemedy, reviewed: Reviewed) -> None:
        cost = remedy.cost(reviewed.subject.timeline, reviewed.spoken_length)
        size = f"{float(abs(cost)):.1f} s" if abs(cost) < 60 else clock(abs(cost))
        words = "no time" if not cost else f"{size} {'more' if cost > 0 else 'less'}"
        again = "\na sentence to be read again" if remedy.lines else ""
        button = Button(
            f"{remedy.title}\ncosts {words}{again}",
            lambda _=False, remedy=remedy: self.apply.emit(remedy),
            tip=remedy.title,
        )
        button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        button.setStyleSheet("text-align: left")
        self.answers.addWidget(button)
        self.remedies.append((remedy, button))

    def _show_aside(self) -> None:
        aside = bool(self._finding and self._finding.reason)
        reason = self.reason.text().strip()
        self.reason.setReadOnly(aside)
        self.aside_button.setText("Stop ignoring" if aside else "Ignore")
        self.aside_button.setEnabled(aside or bool(reason))

    def _set_aside(self) -> None:
        if self._finding is not None and self.aside_button.isEnabled():
            self.set_aside.emit(self._finding.key, "" if self._finding.reason else self.reason.text().strip())
