"""The bed in the Sound view: its loop, its tempo, the ways in which it and the count can agree, and how far they do."""

import contextlib
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from nafas.desk.sound.beats_view import BeatsView
from nafas.desk.sound.bed_wave import BedWave
from nafas.desk.sound.study import Studied, Study
from nafas.desk.widgets.controls import Button, across, fill
from nafas.desk.widgets.fields import Choice
from nafas.desk.widgets.labels import Label
from nafas.script.model.beds import BeatGrid, FileBed
from nafas.sound.beat.beat_grid import Agreement, CountsAgainstBeats, agreements, beat_offsets, beat_offsets_heard
from nafas.sound.beat.tempo import LOOKED
from nafas.sound.bed.file_bed import RecordedBed
from nafas.sound.bed.track import BedRegion
from nafas.sound.mix.bed_counts import agreement_words, counted_in, region_end
from nafas.sound.mix.mix import Mix
from nafas.state.permissions import NotPermitted, asset_path, whole_path
from nafas.suggest.beat_snap import begin_on_beats

if TYPE_CHECKING:
    from nafas.desk.sound.form import SoundForm


class BedPanel(QWidget):
    """What is known of the bed whose fields are shown.

    Signals:
        said: words for the status line.
        hear_bed: hear it alone.
        hear_loop_point: hear it go over into its beginning.
    """

    said = Signal(str)
    hear_bed = Signal()
    hear_loop_point = Signal()

    def __init__(self, form: "SoundForm") -> None:
        super().__init__()
        self._form = form
        self._mix: Mix | None = None
        self.counts: CountsAgainstBeats | None = None
        self.study = Study(self)
        self.study.found.connect(lambda _: self.refresh())
        self.wave = BedWave()
        self.wave.used.connect(self._use)
        self.alone = Button("Hear the bed alone", self.hear_bed, kind="small")
        self.loop_point_button = Button("Hear its seam", self.hear_loop_point, kind="small")
        self.loop = Label(objectName="muted", wordWrap=True)
        self.tempo_row = QWidget()
        self.tempo = tempo = Label(wordWrap=True)
        self.study.failed.connect(lambda why: tempo.setText(f"cannot be found: {why}"))
        self.agree = Choice("Ways to match counts and beats")
        self.agree.setSizeAdjustPolicy(Choice.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.agree.setMinimumContentsLength(24)
        self.agree.chose.connect(self._agree)
        fill(QHBoxLayout(self.tempo_row), _name("Tempo"), (self.tempo, 1), self.agree, spacing=6, margins=(0, 0, 0, 0))
        self.beats = BeatsView()
        self.kept_row = QWidget()
        self.kept = Label(objectName="muted", wordWrap=True)
        self.set_on_beats = Button(
            "Begin every set on a beat",
            self._begin_on_beats,
            kind="small",
            tip="What comes before a set pauses for less than a beat longer",
        )
        fill(QHBoxLayout(self.kept_row), (self.kept, 1), self.set_on_beats, margins=(0, 0, 0, 0))
        fill(
            QVBoxLayout(self),
            self.wave,
            across(_name("Bed"), self.alone, self.loop_point_button, (self.loop, 20), None, spacing=6),
            self.tempo_row,
            self.beats,
            self.kept_row,
            spacing=6,
            margins=(0, 0, 0, 0),
        )

    # -- what it is about

    @property
    def turn(self) -> BedRegion | None:
        """The turn of the bed whose fields are shown, in the mix; None where it has none."""
        if self._mix is None or self._mix.bed is None:
            return None
        mix, turns, block = self._mix, self._mix.bed.turns, self._form.bed_block
        turn_ = turns[0]
        if 0 <= block < len(mix.cast.timeline.blocks):
            begin = float(mix.cast.timeline.blocks[block].start) * mix.rate
            turn_ = min(turns[1:], key=lambda turn: abs(turn.begin - begin), default=turns[0])
        return turn_ if turn_.sound is not None else None

    @property
    def recorded(self) -> RecordedBed | None:
        """Its sound, where it is a recording."""
        turn = self.turn
        return turn.sound if turn is not None and isinstance(turn.sound, RecordedBed) else None

    def show_mix(self, mix: Mix | None) -> None:
        """Show the bed of a mix; None: as it is chosen, without its sound."""
        self._mix = mix
        self.refresh()

    def refresh(self) -> None:
        """Show the bed as it is now."""
        bed, recorded = self._form.recording, self.recorded
        self.alone.setEnabled(self.turn is not None)
        for part in (self.wave, self.tempo_row):
            part.setVisible(bed is not None)
        self.loop_point_button.setVisible(recorded is not None)
        self.loop.setVisible(recorded is not None)
        self.counts = None
        if bed is not None:
            with contextlib.suppress(NotPermitted):
                self.study.look(asset_path(bed.file, self._form.document.folder), bed.begin, bed.end)
            self._show_recording(bed, recorded)
        self.beats.setVisible(self.counts is not None)
        self.kept_row.setVisible(self.counts is not None)

    def _show_recording(self, bed: FileBed, recorded: RecordedBed | None) -> None:
        studied, pulse = self._studied(bed), bed.pulse
        loop_point = recorded.seam if recorded is not None else None
        self.wave.show_bed(studied, bed.begin, bed.end, loop_point, pulse)
        if loop_point is not None:
            self.loop.setText(loop_point.words)
        self.tempo.setText(_tempo_words(studied, pulse))
        beats = pulse or (studied.tempo.pulse if studied is not None and studied.tempo is not None else None)
        self._fill_ways(beats, bed)
        turn = self.turn
        if recorded is not None and recorded.beat is not None and turn is not None and self._mix is not None:
            self._count(bed, turn, recorded)

    def _studied(self, bed: FileBed) -> Studied | None:
        studied = self.study.studied
        path = whole_path(bed.file, self._form.document.folder)
        if studied is None or studied.question.path != path:
            return None
        return studied

    def _count(self, bed: FileBed, turn: BedRegion, recorded: RecordedBed) -> None:
        """The counts while this bed sounds, against its beats: as tracked where they wander, else an even row."""
        assert self._mix is not None and self._mix.bed is not None and recorded.beat is not None
        mix = self._mix
        at, end, offset = counted_in(mix, turn), region_end(mix, turn), turn.offset / mix.rate
        studied = self._studied(bed)
        if studied is not None and studied.tempo is not None and studied.tempo.wanders:
            span = (offset + turn.begin / mix.rate, offset + end / mix.rate)
            offsets = beat_offsets_heard(at, recorded.heard(studied.tempo.beats, *span) - offset)
        else:
            offsets = beat_offsets(at, recorded.beat, offset)
        self.counts = offsets
        self.beats.show_counts(offsets, mix.length / mix.rate)
        self.kept.setText(agreement_words(offsets))
        self.set_on_beats.setVisible(offsets.agreeing < 1)

    def _begin_on_beats(self) -> None:
        recorded, turn, mix = self.recorded, self.turn, self._mix
        if recorded is None or recorded.beat is None or turn is None or mix is None:
            return
        timeline = mix.cast.timeline
        if timeline.session is not self._form.document.session:
            return  # another edit is being prepared; what is shown now is not it
        made = begin_on_beats(timeline, recorded.beat, turn.begin / mix.rate, region_end(mix, turn) / mix.rate)
        self._form.take(lambda: made.session, "sets on beats", "on beats")
        words = f"The session is {float(made.longer):.2f} s longer" if made.longer else "No pause had to be longer"
        if made.left:
            words += "; these follow another set without a pause and are not changed: " + ", ".join(made.left)
        self.said.emit(words)

    # -- what is chosen of it

    def _use(self, begin: float, end: float) -> None:
        studied = self.study.studied
        whole = studied is not None and end >= studied.seconds - 0.005
        self._form.change_bed({"begin": begin, "end": None if whole else end})

    def _fill_ways(self, pulse: BeatGrid | None, bed: FileBed) -> None:
        count = self._form.document.session.count_length
        ways = agreements(pulse, count) if pulse is not None else ()
        options: list[tuple[object, str]] = [(None, "counts and beats do not match")]
        now: object = None
        for way in ways:
            same = way.count == count
            options.append((("count", way), f"{way.name}: counts of {float(way.count):g} s"))
            if same and bed.pulse is not None and bed.pace == 1:
                now = options[-1][0]
            if way.pace is not None and not same:
                how = f"{abs(way.pace - 1):.1%} {'faster' if way.pace > 1 else 'slower'}"
                options.append((("pace", way), f"{way.name}: the bed {how}"))
                if bed.pulse is not None and abs(bed.pace - way.pace) < 1e-6:
                    now = options[-1][0]
        if bed.pulse is not None and now is None:
            now = "set"
            options.append((now, "as set on the right"))
        self.agree.set_options(*options)
        self.agree.show_value(now)
        self.agree.setEnabled(len(options) > 1)

    def _agree(self, choice: object) -> None:
        bed, studied = self._form.recording, self.study.studied
        if bed is None or choice == "set":
            return
        if choice is None:
            self._form.change_bed({"pulse": None, "pace": 1.0})
            return
        assert isinstance(choice, tuple)
        kind, way = choice
        assert isinstance(way, Agreement)
        pulse = bed.pulse or (studied.tempo.pulse if studied is not None and studied.tempo is not None else None)
        if pulse is not None:
            fields = {"pulse": pulse, "pace": way.pace if kind == "pace" else 1.0, "on_counts": True}
            self._form.agree(fields, way.count if kind == "count" else None)


def _name(text: str) -> Label:
    label = Label(text, objectName="muted")
    label.setMinimumWidth(52)
    return label


def _tempo_words(studied: Studied | None, pulse: BeatGrid | None) -> str:
    if studied is None or studied.tempo is None:
        return "searching…"
    tempo = studied.tempo
    if tempo.pulse is None:
        none = f"no beat to count by (confidence {tempo.confidence:.0%})"
        return none if pulse is None else f"{pulse.bpm:.1f} bpm as set; {none}"
    words = f"{tempo.pulse.bpm:.1f} bpm, confidence {tempo.confidence:.0%}"
    if pulse is not None and abs(pulse.bpm - tempo.pulse.bpm) > 0.05:
        words = f"{pulse.bpm:.1f} bpm as set; {words} as heard"
    if studied.seconds > tempo.looked + 1 and tempo.looked >= LOOKED:
        words += f" in its first {LOOKED / 60:.0f} min"
    if tempo.wanders:
        words += f"; it wanders by {1000 * tempo.wander:.0f} ms"
    return words
