"""The practice microphone performing a session: each word off its count as a person's would be, by a known time."""

from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from nafas.timing.timeline import EventKind, Timeline
from nafas.voice.beat.felt_beat import find_beat
from nafas.voice.clip import Samples
from nafas.voice.engines.engine import Engine
from nafas.voice.recording.practice import RATE, Manners, practice_line, room

_SAID = (EventKind.COUNT, EventKind.CUE, EventKind.CALL, EventKind.STROKE)


@dataclass(frozen=True, eq=False)
class PracticePerformance:
    """What was performed: mono samples at `RATE`, and (time due, seconds late, words) of each word on a count."""

    samples: Samples
    truth: tuple[tuple[float, float, str], ...]


def practice_performance(
    engine: Engine,
    timeline: Timeline,
    begin: float,
    end: float,
    manners: Manners,
    seed: int,
    spread: float = 0.06,
    lag: float = 0.12,
) -> PracticePerformance:
    """Perform a stretch of a session.

    Args:
        engine: that reads.
        timeline: of the session.
        begin, end: in seconds of the session; the samples begin at `begin`.
        manners: how the reader behaves; skips lines as often as they say.
        seed: the same one, the same performance.
        spread: standard deviation of the words off their counts, in seconds.
        lag: constant seconds by which all is late.
    """
    draw = np.random.default_rng(seed)
    made = np.zeros(int((end - begin) * RATE) + RATE, np.float32)
    truth = []
    for moment in timeline.spoken:
        if not Fraction(begin) <= moment.at <= Fraction(end) or draw.random() < manners.skip:
            continue
        sound = practice_line(engine, moment.text, manners, draw)
        on_count = moment.kind in _SAID
        late = float(np.clip(draw.normal(0, spread), -0.25, 0.25)) if on_count else 0.0
        beat = find_beat(sound, RATE).seconds if on_count else 0.0
        first = max(0, round((float(moment.at) - begin + lag + late - beat) * RATE))
        part = made[first : first + len(sound)]
        part += sound[: len(part)]
        if on_count:
            truth.append((float(moment.at), late, moment.text))
    return PracticePerformance(made + room(len(made), manners, draw), tuple(truth))
