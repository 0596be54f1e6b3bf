"""Prove a file: at once after it was written, or again later from the file alone."""

import math
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from nafas.audio_files import AudioReader
from nafas.errors import InputError
from nafas.files import digest_of, file_digest
from nafas.review.proof.decoded import Found, look_through, shift_of
from nafas.review.proof.faults import faults
from nafas.review.proof.levels import EXACT, LOSSY, compare, with_dropouts
from nafas.review.proof.proof import CueMatch, Proof
from nafas.review.proof.sought import Sought, sought
from nafas.script.file import session_text
from nafas.script.model.session import Session
from nafas.sound.files.formats import encoding_of
from nafas.sound.master.mono_downmix import MonoDownmix
from nafas.sound.master.render import find_master
from nafas.sound.meters.measure import Measured, Programme
from nafas.sound.mix.mix import Mix, build_mix
from nafas.voice.casting import cast_session

RATES = (44_100, 48_000, 88_200, 96_000)
"""Samples a second that a master can have."""
_FAINT = 0.25
"""Of the loudness of the others: what is found softer than that is another word that sounds a little alike."""

Progress = Callable[[float], None]


def prove(
    path: Path,
    mix: Mix,
    gain: float,
    expected: Measured,
    progress: Progress = lambda done: None,
    decoded: Path | None = None,
) -> Proof:
    """Decode a written file and hold it against its session.

    Args:
        path: the file, in any format that a master can have.
        mix: what was rendered; its cast and its timeline say what must be heard and when.
        gain: dB, of the master.
        expected: what the master measures.
        progress: called with 0.0 to 1.0; raises Cancelled to stop.
        decoded: its sound as WAV or FLAC, where it is coded in a way that is not read here; it is judged as coded.

    Raises:
        InputError: the file cannot be read, or breaks off.
        Cancelled: when `progress` does.
    """
    reader = AudioReader(decoded or path)
    session = mix.cast.timeline.session
    if reader.rate != mix.rate:
        raise InputError(str(path), f"has {reader.rate} Hz, not {mix.rate}", "give the file of this render")
    exact = decoded is None and encoding_of(path, rate=reader.rate).bits is not None
    tolerance = EXACT if exact else LOSSY
    wanted = sought(mix.cast, mix.chimes.sounds, (*mix.recordings, *mix.pacer))
    with ThreadPoolExecutor(1) as meanwhile:
        digest = meanwhile.submit(file_digest, path)
        due = None if exact else _coded_from(mix, reader.channels)
        power = float(expected.fine.mean()) / reader.channels / 10 ** (gain / 10) if len(expected.fine) else 0.0
        places, heard, holes = look_through(reader, wanted, 10 ** (gain / 20), progress, due, power)
    matches = _matches(mix, wanted, places)
    proof = Proof(
        path, digest.result(), reader.rate, reader.frames, reader.channels, tolerance, matches, (), heard,
        session.master.loudness, session.master.ceiling,
        digest_of(session_text(session).encode()), session.title,
    )  # fmt: skip
    channels = 1 if session.master.mono else 2
    late = None
    right = sum(cue.error is not None and abs(cue.error) <= proof.allowed(cue) for cue in proof.cues)
    if 2 * right < len(proof.cues):
        late = shift_of(reader, wanted)
    levels = with_dropouts(compare(heard, expected, tolerance), holes)
    return faults(proof, levels, expected, mix.length, channels, late)


def _coded_from(mix: Mix, channels: int) -> Programme | None:
    """The mix with the channels of its master; None where the file has others."""
    mono = mix.cast.timeline.session.master.mono
    if channels != (1 if mono else 2):
        return None
    return MonoDownmix(mix) if mono else mix


def prove_again(
    path: Path,
    session: Session,
    folder: Path,
    progress: Callable[[str, float], None] = lambda stage, done: None,
    decoded: Path | None = None,
) -> Proof:
    """Prove a file for a session, on any machine, from the two alone (and what the session uses).

    Args:
        path: the file.
        session, folder: what it should hold, and where the session file stands.
        progress: called with a stage and 0.0 to 1.0; raises Cancelled to stop.
        decoded: as `prove` takes it.

    Raises:
        InputError: the file, or something the session uses, cannot be read; or its rate is none of a master's.
        Cancelled: when `progress` does.
    """
    rate = AudioReader(decoded or path).rate
    if decoded is None:
        encoding_of(path)
    if rate not in RATES:
        raise InputError(str(path), f"has {rate} Hz, which no master has", "give the file as it was rendered")
    if not session.blocks:
        raise InputError(session.title or "the session", "has no blocks", "name the session the file was rendered from")
    progress("casting", 0.0)
    cast = cast_session(session, folder, rate)
    mix = build_mix(cast, folder)
    _, gain, expected = find_master(mix, lambda done: progress("measuring", done))
    return prove(path, mix, gain, expected, lambda done: progress("proving", done), decoded)


def _matches(mix: Mix, wanted: Sequence[Sought], places: Found) -> tuple[CueMatch, ...]:
    timeline = mix.cast.timeline
    ratios = sorted(index.ratio for each, index in zip(wanted, places) if index is not None and each.is_voice)
    usual = ratios[len(ratios) // 2] if ratios else 1.0
    matches = []
    for each, index in zip(wanted, places):
        address = timeline.address(each.moment)
        if index is None or index.ratio < _FAINT * usual or not math.isfinite(index.ratio):
            matches.append(CueMatch(each.moment, address, None, None))
            continue
        beat = each.start + index.late + each.beat
        error = float(beat - each.due)
        matches.append(CueMatch(each.moment, address, beat, error, index.spread, index.ratio / usual))
    return tuple(sorted(matches, key=lambda match: match.moment.at))
