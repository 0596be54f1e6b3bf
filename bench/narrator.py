"""One session read by eSpeak, by the natural voice, and by the demo's takes: does it fit, is it even, and how fast.

Felt intervals are measured on the clips as cast: the time from word to word as each estimator feels them, against the
grid they are on. The estimators: the rise alone (Cummins and Port), rise and rhyme together (with Marcus), and one that
Nafas does not use (`human.outside_beat`). Loudness is BS.1770's of each word by itself (pyloudnorm).

Usage: python bench/narrator.py [all]    all: also every library entry, at its own counts
"""

import os
import sys
import tempfile
import time
from collections.abc import Callable
from itertools import pairwise

os.environ["NAFAS_CACHE"] = tempfile.mkdtemp(prefix="nafas-narrator-")

import numpy as np
import pyloudnorm
from human import outside_beat

from nafas.demo import SESSION
from nafas.library.own import shipped
from nafas.script import Session, load_session
from nafas.script.edits.session_edits import change
from nafas.script.model.voice import Voice
from nafas.timing import EventKind
from nafas.voice import Cast, cast_session
from nafas.voice.beat.felt_beat import felt_beat
from nafas.voice.clip import Clip, Samples
from nafas.voice.engines.narrator import Narrator

FOLDER = SESSION.parent


def intervals(cast: Cast, beat_of: Callable[[Samples, int], float]) -> float:
    """Standard deviation, ms, of felt intervals between neighbouring counts of a phase against their grid."""
    beats: dict[int, float] = {}
    errors = []
    counts = [p for p in cast.placements if p.moment.kind is EventKind.COUNT]
    for before, after in pairwise(counts):
        if before.moment[4:7] != after.moment[4:7]:
            continue
        felt = []
        for each in (before, after):
            key = id(each.clip)
            if key not in beats:
                beats[key] = beat_of(each.clip.samples, each.clip.rate)
            felt.append(each.start / each.clip.rate + beats[key])
        errors.append(felt[1] - felt[0] - float(after.moment.at - before.moment.at))
    return float(np.std(errors)) * 1000


def loudness(clip: Clip) -> float:
    samples = clip.samples[: max(clip.spoken, clip.rate // 10)]
    meter = pyloudnorm.Meter(clip.rate, block_size=len(samples) / clip.rate * 0.99)
    return float(meter.integrated_loudness(samples.astype(float)))


def spread(cast: Cast) -> float:
    """LU from the softest to the loudest word within a set, in the worst set."""
    sets: dict[str, set[Clip]] = {}
    for placement in cast.placements:
        if placement.moment.kind in (EventKind.COUNT, EventKind.CUE):
            sets.setdefault(placement.moment.block, set()).add(placement.clip)
    return max(float(np.ptp([loudness(clip) for clip in clips])) for clips in sets.values())


def talk_pace(cast: Cast) -> float:
    """Words a minute of talk, with the pauses between sentences of one paragraph."""
    words = seconds = 0.0
    for block in cast.timeline.blocks:
        said = [p for p in cast.of_block(block.block.id) if p.moment.kind is EventKind.TALK]
        for this, after in zip(said, [*said[1:], None]):
            words += len(this.moment.text.split())
            ends = this.end if after is None or after.start - this.end > 2 * this.clip.rate else after.start
            seconds += (ends - this.start) / this.clip.rate
    return words / seconds * 60


def tell(name: str, session: Session) -> None:
    begun = time.perf_counter()
    cast = cast_session(session, FOLDER)
    took = time.perf_counter() - begun
    audio = sum(clip.frames / clip.rate for clip in {p.clip for p in cast.placements})
    felt = intervals(cast, felt_beat)
    outside = intervals(cast, outside_beat)
    print(
        f"{name:10} misfits {len(cast.misfits)}, shortened {len(cast.shortened)}; felt intervals s.d. {felt:.0f} ms, "
        f"{outside:.0f} by an outside estimator; words within a set {spread(cast):.1f} LU; "
        f"talk {talk_pace(cast):.0f} words a minute; {float(cast.timeline.length):.0f} s; "
        f"cast in {took:.1f} s ({audio:.0f} s of clips)"
    )


def main(everything: bool) -> None:
    session = load_session(SESSION)
    tell("eSpeak", change(session, voice=Voice(narrator="espeak")))
    tell("joe", change(session, voice=Voice()))
    tell("demo takes", session)
    narrator = Narrator(Voice(), "en", FOLDER)
    begun = time.perf_counter()
    clip = narrator.clips("This is a line that nobody has read before, on the night boat.")[0]
    took = time.perf_counter() - begun
    print(
        f"a new line: {took:.2f} s until it sounds, {float(clip.seconds) / took:.1f} x real time (the voice is loaded)"
    )
    if everything:
        bad, entries = [], list(shipped())
        begun = time.perf_counter()
        for kept in entries:
            entry = kept.entry.session or Session(blocks=(kept.entry.block,))
            cast = cast_session(entry, FOLDER)
            told = [misfit for misfit in map(str, cast.misfits) if "before the session" not in misfit]
            bad += [f"{kept.entry.name}: {misfit}" for misfit in told]
        took = time.perf_counter() - begun
        print(f"{len(entries)} library entries in {took:.0f} s, {len(bad)} misfits", *bad[:10], sep="\n  ")


if __name__ == "__main__":
    main("all" in sys.argv[1:])
