"""A recording looked at as bed: how long, how loud, where it loops, its tempo, and the counts that agree with it."""

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

from nafas.errors import InputError
from nafas.files import real_path
from nafas.script.model.beds import FileBed
from nafas.sound.beat.beat_grid import Agreement, agreements
from nafas.sound.beat.onsets import RATE
from nafas.sound.beat.tempo import Tempo, find_tempo
from nafas.sound.bed.file_bed import RecordedBed, recorded_bed
from nafas.sound.files.recording import Recording
from nafas.timing.clock import clock

_LISTENED = 48_000


@dataclass(frozen=True)
class BedFacts:
    """What is known of a recording as bed.

    Attributes:
        bed: the loop that is made of it.
        tempo: its tempo, or that there is none.
        ways: in which it and a count can agree; () without a tempo.
        count: that count's seconds.
    """

    bed: RecordedBed
    tempo: Tempo
    ways: tuple[Agreement, ...]
    count: Fraction

    @property
    def first_line(self) -> str:
        """Its length, format and level."""
        recording = self.bed.recording
        channels = {1: "mono", 2: "stereo"}.get(recording.channels, f"{recording.channels} channels")
        return (
            f"{clock(recording.seconds, tenths=True)}, {recording.file_rate} Hz, {channels}, "
            f"{self.bed.loudness:.1f} LUFS"
        )

    @property
    def lines(self) -> list[str]:
        """The rest, a line each."""
        loop_point = self.bed.seam
        return [
            f"{loop_point.words}, {loop_point.usual:.1f} where it ends",
            *tempo_lines(self.tempo, self.ways, self.count),
        ]

    def summary(self) -> dict[str, Any]:
        """The same, ready for JSON."""
        recording, loop_point, tempo = self.bed.recording, self.bed.seam, self.tempo
        return {
            "seconds": recording.seconds,
            "rate": recording.file_rate,
            "channels": recording.channels,
            "loudness_lufs": round(self.bed.loudness, 2),
            "loop": {
                "begin": loop_point.begin,
                "end": loop_point.end,
                "crossfade": loop_point.crossfade,
                "apart_db": round(loop_point.apart, 2),
            },
            "tempo": tempo.pulse and {"bpm": round(tempo.pulse.bpm, 3), "first_beat": round(tempo.pulse.first, 4)},
            "octaves": list(tempo.octaves),
            "confidence": round(tempo.confidence, 3),
            "wander_ms": round(1000 * tempo.wander, 1),
            "counts": [
                {"way": way.name, "count": float(way.count), "pace": way.pace and round(way.pace, 5)}
                for way in self.ways
            ],
        }


def tempo_lines(tempo: Tempo, ways: tuple[Agreement, ...], count: Fraction) -> list[str]:
    """What a tempo is and offers, in words."""
    if tempo.pulse is None:
        return [f"tempo: none (confidence {tempo.confidence:.0%}); any count length fits"]
    lines = [
        f"tempo: {tempo.pulse.bpm:.2f} bpm (confidence {tempo.confidence:.0%}), a beat at {tempo.pulse.first:.3f} s"
    ]
    if tempo.octaves:
        lines.append(f"it can also be counted at {' or '.join(f'{bpm:g}' for bpm in tempo.octaves)} bpm")
    if tempo.wanders:
        lines.append(
            f"its tempo wanders: beats lie {1000 * tempo.wander:.0f} ms from an even row, and it "
            f"{'slows' if tempo.drift < 0 else 'quickens'} by {abs(tempo.drift):.1%}; counts will not keep to it"
        )
    for way in ways:
        text = f"  {way.name}: counts of {float(way.count):g} s"
        if way.pace is not None and way.count != count:
            text += f"; or counts of {float(count):g} s and the bed {abs(way.pace - 1):.1%} "
            text += "faster" if way.pace > 1 else "slower"
        lines.append(text)
    return lines


def bed_facts(path: Path, choice: FileBed, count: Fraction, stopped: Callable[[], bool] = lambda: False) -> BedFacts:
    """Look at a recording.

    Args:
        path: the file.
        choice: what of it is used.
        count: seconds of the count it should agree with.
        stopped: asked now and then.

    Raises:
        InputError: it cannot be a bed.
        Cancelled: when `stopped` says so.
    """
    if not Fraction(1, 5) <= count <= 6:
        raise InputError("the count", f"{float(count):g} s is not a possible count", "write 0.2 to 6 s")
    bed = recorded_bed(real_path(path), choice, _LISTENED)
    tempo = find_tempo(Recording(real_path(path), RATE), choice.begin, choice.end, stopped)
    ways = agreements(tempo.pulse, count) if tempo.pulse is not None else ()
    return BedFacts(bed, tempo, ways, count)
