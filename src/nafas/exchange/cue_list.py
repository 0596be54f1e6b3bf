"""Every event of a session for other programs: a table, a label track, and MIDI."""

import csv
import io
from fractions import Fraction

from nafas.plain_text import cell
from nafas.script.edits.session_edits import block_name
from nafas.script.model.blocks import BreathSet
from nafas.script.model.phase import PhaseKind
from nafas.timing.timeline import EventKind, Timeline
from nafas.voice.casting import Cast

_COLUMNS = (
    "seconds",
    "sample",
    "length",
    "kind",
    "block",
    "round",
    "phase",
    "count",
    "breath",
    "side",
    "words",
    "where",
)


def cue_list(timeline: Timeline, rate: int) -> str:
    """Every event as CSV: its time in seconds and as a sample at `rate`, its length, its address, its words."""
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(_COLUMNS)
    for moment in timeline.moments:
        row = (
            f"{float(moment.at):.6f}", moment.sample(rate), f"{float(moment.length):.6f}", moment.kind.value,
            moment.block, moment.round or "", moment.phase or "", moment.count or "",
            moment.phase_kind.value if moment.phase_kind is not None else "",
            moment.side.value if moment.side is not None else "", cell(moment.text), timeline.address(moment),
        )  # fmt: skip
        table.writerow(row)
    return out.getvalue()


def labels(cast: Cast) -> str:
    """All that is said as a label track: begin, end and words between tabs, a line each."""
    rows = sorted((max(0, p.start) / cast.rate, p.said / cast.rate, p.moment.text) for p in cast.placements)
    return "".join(f"{start:.6f}\t{end:.6f}\t{' '.join(text.split())}\n" for start, end, text in rows)


TICKS = 960
"""A beat of the MIDI file."""
_NOTES = {PhaseKind.INHALE: 72, PhaseKind.HOLD_FULL: 67, PhaseKind.EXHALE: 60, PhaseKind.HOLD_EMPTY: 55}
_COUNT_NOTE, _CHIME_NOTE, _BELL_NOTE = 76, 84, 96
_MICRO = 1_000_000


def midi(timeline: Timeline) -> bytes:
    """Words, counts, chimes and phases as a standard MIDI file of type 1, a beat a count: the tempo of each set is that
    of its counts, blocks are markers, all that is said stands as lyrics. Elsewhere a beat is a second.

    Times are rounded to a 960th of a beat against the tempo map in force, which is exact in microseconds a beat.
    """
    import mido

    file = mido.MidiFile(type=1, ticks_per_beat=TICKS)
    tempo, phases, counts, chimes, words = (mido.MidiTrack() for _ in range(5))
    file.tracks.extend((tempo, phases, counts, chimes, words))
    tempo.append(mido.MetaMessage("track_name", name=_latin(timeline.session.title)))
    clock = TempoClock(timeline)
    events: list[tuple[int, object]] = []
    for at, micro in clock.changes:
        events.append((clock.tick(at), mido.MetaMessage("set_tempo", tempo=micro)))
    for timed in timeline.blocks:
        name = _latin(block_name(timed.block, timeline.session.language) or timed.block.id)
        events.append((clock.tick(timed.start), mido.MetaMessage("marker", text=name)))
    _put(tempo, events)
    for track, name, channel, kinds in (
        (phases, "Phases", 0, (EventKind.PHASE,)),
        (counts, "Counts", 1, (EventKind.COUNT, EventKind.STROKE, EventKind.TICK)),
        (chimes, "Chimes", 2, (EventKind.CHIME, EventKind.BELL)),
    ):
        track.append(mido.MetaMessage("track_name", name=name))
        notes: list[tuple[int, object]] = []
        for moment in timeline.moments:
            if moment.kind not in kinds:
                continue
            note = _note(moment.kind, moment.phase_kind)
            start = clock.tick(moment.at)
            length = moment.length or Fraction(1, 4)
            end = max(start + 1, clock.tick(moment.at + length) - 1)
            notes.append((start, mido.Message("note_on", note=note, velocity=90, channel=channel)))
            notes.append((end, mido.Message("note_off", note=note, velocity=0, channel=channel)))
        _put(track, notes)
    words.append(mido.MetaMessage("track_name", name="Words"))
    said = [(clock.tick(m.at), mido.MetaMessage("lyrics", text=_latin(m.text))) for m in timeline.spoken]
    _put(words, [*said])
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


class TempoClock:
    """Ticks of a session's times: a beat is a count inside a set, else a second."""

    def __init__(self, timeline: Timeline) -> None:
        self.changes: list[tuple[Fraction, int]] = [(Fraction(0), _MICRO)]
        for timed in timeline.blocks:
            if isinstance(timed.block, BreathSet) and timed.count_length is not None:
                begin = next((timed.at(e) for e in timed.body.events if e.kind is EventKind.PHASE), timed.start)
                self._change(begin, round(timed.count_length * _MICRO))
                self._change(timed.end, _MICRO)
        self._ticks = [0]
        for (start, micro), (end, _) in zip(self.changes, self.changes[1:]):
            self._ticks.append(self._ticks[-1] + round((end - start) * _MICRO * TICKS / micro))

    def _change(self, at: Fraction, micro: int) -> None:
        if self.changes[-1][0] == at:
            self.changes.pop()
        if not self.changes or self.changes[-1][1] != micro:
            self.changes.append((at, micro))

    def tick(self, at: Fraction) -> int:
        """The tick of a time of the session."""
        nearest = max(k for k, (start, _) in enumerate(self.changes) if start <= at)
        start, micro = self.changes[nearest]
        return self._ticks[nearest] + round((at - start) * _MICRO * TICKS / micro)


def _note(kind: EventKind, phase: PhaseKind | None) -> int:
    if kind is EventKind.PHASE and phase is not None:
        return _NOTES[phase]
    return {EventKind.CHIME: _CHIME_NOTE, EventKind.BELL: _BELL_NOTE}.get(kind, _COUNT_NOTE)


def _put(track: "list[object]", events: list[tuple[int, object]]) -> None:
    now = 0
    for tick, message in sorted(events, key=lambda each: each[0]):
        message.time = tick - now  # type: ignore[attr-defined]
        track.append(message)
        now = tick


def _latin(text: str) -> str:
    """Text as MIDI holds it: what is not Latin-1 becomes a question mark."""
    return text.encode("latin-1", "replace").decode("latin-1")
