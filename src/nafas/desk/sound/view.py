"""The middle of the Sound view: figures, the loudness curve, the bed, chimes and voice. Choices stand at the right."""

import math
from pathlib import Path

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from nafas.desk.audio.audition import Audition
from nafas.desk.audio.feeder import Read
from nafas.desk.document import Document
from nafas.desk.sound.bed_panel import BedPanel
from nafas.desk.sound.form import SoundForm
from nafas.desk.sound.heard import LISTENING, HeardRow
from nafas.desk.sound.loudness_view import LoudnessView
from nafas.desk.sound.measuring import Findings, Measuring
from nafas.desk.widgets.controls import fill
from nafas.desk.widgets.labels import Label, RichLabel, escape
from nafas.sound import Mix
from nafas.sound.master.mono_downmix import fold_loss
from nafas.timing.clock import clock

_ALONE = 12  # seconds of the bed that are heard
_SEAM = 3.0  # seconds heard before and after a seam


class SoundView(QWidget):
    """The view, and at its `side` the form of its choices.

    Signals: seek: seconds; said: words for the status line.
    """

    seek = Signal(float)
    said = Signal(str)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.setAccessibleName("Sound")
        self.form = SoundForm(document)
        self.side = QScrollArea()
        self.side.setWidgetResizable(True)
        self.side.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.side.setAccessibleName("Sound settings")
        self.side.setWidget(self.form)
        self.measuring = Measuring(self)
        self.audition = Audition(self)
        self.mix: Mix | None = None
        page, scroll, outer = QWidget(), QScrollArea(), QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.addWidget(scroll)
        scroll.setWidgetResizable(True)  # on a small window the lower part is scrolled to
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(page)
        self.figures = RichLabel()
        self.figures.setWordWrap(True)
        self.figures.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.curve = LoudnessView()
        self.curve.seek.connect(self.seek)
        self.balance = RichLabel()
        self.balance.setWordWrap(True)
        self.troubles = Label(objectName="fault", wordWrap=True)
        self.bed = BedPanel(self.form)
        self.bed.said.connect(self.said)
        self.bed.hear_bed.connect(self.play_bed)
        self.bed.hear_loop_point.connect(self.play_loop_point)
        self.heard = HeardRow(self.audition)
        self.heard.said.connect(self.said)
        self.form.hear_voice.connect(self.heard.play_voice)
        fill(
            QVBoxLayout(page),
            self.figures,
            (self.curve, 1),
            self.balance,
            self.troubles,
            self.bed,
            self.heard,
            spacing=6,
            margins=(14, 8, 14, 8),
        )
        self.measuring.found.connect(self._show)
        self.measuring.failed.connect(lambda why: self.figures.setText(escape(f"Loudness cannot be measured: {why}")))
        self.measuring.progress.connect(self._show_progress)

    def show_block(self, block: int) -> None:
        """Show what a block does with the bed, and its bed where it brings one; -1 for none."""
        self.form.show_block(block)
        self.bed.refresh()

    def show_mix(self, mix: Mix, folder: Path) -> None:
        """Measure and show a mix; `folder` is where its session's paths start."""
        if mix is self.mix:
            return
        self.mix = mix
        findings = self.measuring.findings
        self.curve.show_findings(findings if findings is not None and findings.mix is mix else None)
        self.measuring.measure(mix)
        self.bed.show_mix(mix)
        self.heard.show_mix(mix, folder)
        self.troubles.setText(" ".join(mix.troubles))
        self.troubles.setVisible(bool(mix.troubles))

    def _show_progress(self, done: float) -> None:
        findings = self.measuring.findings
        if findings is None or findings.mix is not self.mix:
            self.figures.setText(f"Being measured, {done:.0%}")

    def _show(self, findings: Findings) -> None:
        measured = findings.measured
        if not math.isfinite(measured.loudness):
            self.figures.setText("There is too little sound to measure loudness.")
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
        self.balance.setText(" ".join(filter(None, (_balance_words(findings), _fold_words(findings)))))

    # -- heard

    def play_bed(self) -> None:
        """Twelve seconds of the bed, at its level without the voice."""
        turn = self.bed.turn
        if self.mix is not None and turn is not None and turn.sound is not None:
            self._listen(turn.sound.read, 0, _ALONE * self.mix.rate, float(turn.level.levels.max()))

    def play_loop_point(self) -> None:
        """The recording going over into its beginning, with a little before and after."""
        bed, turn = self.bed.recorded, self.bed.turn
        if bed is None or turn is None:
            return
        around = round(_SEAM * bed.rate)
        across = round(bed.seam.crossfade / bed.pace * bed.rate)
        begin = max(0, bed.period - around)
        self._listen(bed.read, begin, bed.period - begin + around + across, float(turn.level.levels.max()))
        after, lasts = (bed.period - begin) / bed.rate, across / bed.rate
        self.said.emit(f"The seam begins after {after:g} s and lasts {lasts:.1f} s")

    def _listen(self, read: Read, begin: int, frames: int, level: float) -> None:
        """Hear a stretch of a bed as it is read: another pace of it may take seconds to be made."""
        assert self.mix is not None
        gain = np.float32(10 ** ((level + LISTENING) / 20))
        self.audition.play_from(lambda at, number: read(begin + at, number) * gain, frames, self.mix.rate)

    def close_down(self) -> None:
        """Stop what runs."""
        self.audition.stop()
        self.measuring.stop()
        self.bed.study.stop()


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
        f"(“{escape(moment.text[:40])}”), <b>{over.worst:.1f} LU</b>."
    )


def _fold_words(findings: Findings) -> str:
    if not len(findings.measured.mids):
        return ""
    lost, worst, where = fold_loss(findings.measured)
    return f"Folded down to mono it loses {lost:.1f} LU, at most {max(0.0, worst):.1f}, at {clock(where)}."
