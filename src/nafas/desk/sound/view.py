"""The middle of the Sound view: figures, the loudness curve, chimes and bed to be heard. Choices stand at the right."""

import math

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from nafas.desk.audition import Audition
from nafas.desk.sound.loudness_view import LoudnessView
from nafas.desk.sound.measuring import Findings, Measuring
from nafas.script import PhaseKind
from nafas.sound import Mix
from nafas.sound.chimes import bell, chime, tick
from nafas.timing.clock import clock
from nafas.voice.level import SPEECH_LEVEL

_RATE = 48_000
_CHIMES = (
    (PhaseKind.INHALE, "In"), (PhaseKind.HOLD_FULL, "Hold full"), (PhaseKind.EXHALE, "Out"),
    (PhaseKind.HOLD_EMPTY, "Hold empty"),
)  # fmt: skip
_LISTENING = 9.0  # dB, about what a master gets
_SEAM = 3.0  # seconds heard before and after a seam


class SoundView(QWidget):
    """Signals: seek: seconds; said: words for the status line."""

    seek = Signal(float)
    said = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Sound")
        self.measuring = Measuring(self)
        self.audition = Audition(self)
        self.mix: Mix | None = None
        box = QVBoxLayout(self)
        box.setContentsMargins(14, 6, 14, 8)
        box.setSpacing(8)
        box.addWidget(QLabel("Loudness", objectName="section"))
        self.figures = QLabel()
        self.figures.setWordWrap(True)
        self.figures.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        box.addWidget(self.figures)
        self.curve = LoudnessView()
        self.curve.seek.connect(self.seek)
        box.addWidget(self.curve, 1)
        self.balance = QLabel()
        self.balance.setWordWrap(True)
        box.addWidget(self.balance)
        self.buttons: dict[str, QPushButton] = {}
        rows = (
            ("Chimes", [(text, lambda kind=kind: self.play_chime(kind)) for kind, text in _CHIMES]
             + [("Tick", lambda: self.play_chime(None)), ("End bell", self.play_bell)]),
            ("Bed", [("Hear the bed alone", self.play_bed), ("Hear its seam", self.play_seam)]),
        )  # fmt: skip
        for name, buttons in rows:
            row = QHBoxLayout()
            row.setSpacing(6)
            label = QLabel(name, objectName="muted")
            label.setMinimumWidth(52)
            row.addWidget(label)
            for text, does in buttons:
                button = QPushButton(text, objectName="small")
                button.clicked.connect(lambda _=False, does=does: does())
                row.addWidget(button)
                self.buttons[text] = button
            if name == "Bed":
                self.seam = QLabel(objectName="muted")
                row.addWidget(self.seam, 1)
            row.addStretch(0 if name == "Bed" else 1)
            box.addLayout(row)
        self.measuring.found.connect(self._show)
        self.measuring.progress.connect(self._show_progress)

    def show_mix(self, mix: Mix) -> None:
        """Measure and show a mix."""
        if mix is self.mix:
            return
        self.mix = mix
        findings = self.measuring.findings
        self.curve.show_findings(findings if findings is not None and findings.mix is mix else None)
        self.measuring.measure(mix)
        bed = self._recorded
        seam = bed.seam if bed is not None else None
        self.buttons["Hear the bed alone"].setEnabled(mix.bed is not None)
        self.buttons["Hear its seam"].setVisible(seam is not None)
        self.seam.setText(
            f"loop {clock(seam.begin)} to {clock(seam.end, tenths=True)}, {seam.crossfade:.1f} s over; its sides are "
            f"{seam.apart:.1f} dB apart" if seam is not None else ""
        )  # fmt: skip

    def _show_progress(self, done: float) -> None:
        findings = self.measuring.findings
        if findings is None or findings.mix is not self.mix:
            self.figures.setText(f"Being measured, {done:.0%}")

    def _show(self, findings: Findings) -> None:
        measured = findings.measured
        if not math.isfinite(measured.loudness):
            self.figures.setText("There is too little sound to have a loudness.")
        else:
            missed = abs(measured.loudness - findings.mix.cast.timeline.session.master.loudness)
            facts = [
                f"<b>{_signed(measured.loudness)} LUFS</b>",
                f"true peak <b>{_signed(measured.true_peak)} dBTP</b>",
                f"range <b>{measured.range:.1f} LU</b>",
                f"short-term max {_signed(measured.short_term_max)}",
                f"momentary max {_signed(measured.momentary_max)}",
                f"gain {_signed(findings.gain)} dB",
            ]
            if missed > 0.1:
                facts.insert(1, f"{missed:.1f} LU off its target")
            if findings.limited < 0:
                facts.append(f"the limiter takes up to {-findings.limited:.1f} dB")
            self.figures.setText(" &nbsp;·&nbsp; ".join(facts))
        self.curve.show_findings(findings)
        self.balance.setText(_balance_words(findings))

    # -- heard

    def play_chime(self, kind: PhaseKind | None) -> None:
        """The chime of a phase kind as the session has it; the tick for None."""
        if self.mix is None:
            return
        levels = self.mix.cast.timeline.session.chimes
        if kind is None:
            self._play(tick(_RATE), levels.tick)
        else:
            self._play(chime(kind, _RATE, None, levels.family), levels.phase)

    def play_bell(self) -> None:
        if self.mix is not None:
            self._play(bell(_RATE), self.mix.cast.timeline.session.chimes.bell)

    def _play(self, sound: np.ndarray, level: float) -> None:
        gain = np.float32(10 ** ((SPEECH_LEVEL + level + _LISTENING) / 20))
        self.audition.play((sound.mean(axis=0) * gain).astype(np.float32), _RATE)

    def play_bed(self) -> None:
        """Twelve seconds of the bed, at its level without the voice."""
        if self.mix is not None and self.mix.bed is not None:
            turn = next((turn for turn in self.mix.bed.turns if turn.sound is not None), None)
            if turn is not None and turn.sound is not None:
                sound = turn.sound.read(0, 12 * self.mix.rate).mean(axis=0)
                self._listen(sound, float(turn.level.levels.max()))

    def play_seam(self) -> None:
        """The recording going over into its beginning, with a little before and after."""
        if self.mix is None or self.mix.bed is None:
            return
        bed, rate = self.mix.bed.bed, self.mix.rate
        period = getattr(bed, "period", 0)
        if period:
            around = round(_SEAM * rate)
            across = round(bed.seam.crossfade * rate)
            sound = bed.read(max(0, period - around), 2 * around + across).mean(axis=0)
            self._listen(sound, float(self.mix.bed.level.levels.max()))
            self.said.emit(f"The seam begins after {_SEAM:g} s and lasts {across / rate:.1f} s")

    def _listen(self, sound: np.ndarray, level: float) -> None:
        assert self.mix is not None
        gain = np.float32(10 ** ((level + _LISTENING) / 20))
        self.audition.play((sound * gain).astype(np.float32), self.mix.rate)

    def close_down(self) -> None:
        """Stop what runs."""
        self.audition.stop()
        self.measuring.stop()


def _signed(value: float) -> str:
    return f"{value:.1f}".replace("-", "\N{MINUS SIGN}")


def _balance_words(findings: Findings) -> str:
    over = findings.balance
    if math.isnan(over.overall):
        return "Nothing is spoken."
    if math.isinf(over.overall) or over.where is None:
        return "There is no bed under the voice."
    moment = over.where.moment
    return (
        f"While it speaks the voice is <b>{over.overall:.1f} LU</b> over the bed; least at {clock(moment.at)} "
        f"({moment.text[:40]!r}), <b>{over.worst:.1f} LU</b>."
    )
