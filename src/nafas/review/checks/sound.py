"""How it sounds: bed and chimes against the voice, sudden sounds, loudness, peaks, loops and fades."""

import math
from collections.abc import Iterator
from fractions import Fraction
from functools import partial

from nafas.review.checks.finding import Check, Finding, Severity, Subject
from nafas.review.checks.safety import is_sleep
from nafas.script.edits.session_edits import change
from nafas.sound.bed.file_bed import RecordedBed
from nafas.suggest.finding_remedies import tried, with_bed_under
from nafas.timing.clock import clock

_LEAST_OVER, _USUAL_OVER = 6.0, 9.0
"""LU of voice over bed: what can still be followed, and the least that is usual (common practice, no source)."""
_CHIMES_OVER = 3.0
"""LU over the speaking voice at which a chime startles (common practice, no source)."""
_JUMP, _JUMP_ASLEEP = 26.0, 20.0
"""LU by which a sound rises out of what was before it (common practice, no source)."""
_MONO_LOSS = 3.0
"""LU lost on one small loudspeaker past which something cancels itself out; see `mono_downmix`."""
_LIMITED = 6.0
"""dB over the ceiling past which a limiter is heard (common practice, no source)."""
_FADES = (("opening", "begins", "come", Fraction(1)), ("closing", "ends", "go", Fraction(4)))
_APART = 6.0
"""dB between the two sides of a loop's crossfade past which it is heard (`LoopPoints.apart`; our own)."""
_WHOLE = "the whole session"


def _over_bed(subject: Subject) -> Iterator[Finding]:
    measures, session = subject.measures, subject.session
    assert measures is not None
    if session.bed is None or not math.isfinite(measures.voice_over_bed):
        return
    offers = tried(("14 LU under the voice", partial(with_bed_under, session, 14.0), 0))
    if measures.worst_over_bed < _LEAST_OVER and measures.worst_block is not None:
        index = subject.places[measures.worst_block]
        over, name = measures.worst_over_bed, subject.named(index)
        text = f"The voice stands only {over:.1f} LU over the bed in {name}: words are lost."
        yield subject.finding("voice-over-bed", Severity.MUST, text, "least", index, remedies=offers)
    elif measures.voice_over_bed < _USUAL_OVER:
        text = f"The voice stands {measures.voice_over_bed:.1f} LU over the bed; 10 to 18 LU is usual."
        yield subject.finding("voice-over-bed", Severity.SHOULD, text, "usual", where=_WHOLE, remedies=offers)


def _chimes(subject: Subject) -> Iterator[Finding]:
    measures = subject.measures
    assert measures is not None
    over = measures.chimes_over_voice
    if over > _CHIMES_OVER:
        text = f"The loudest chime or bell is {over:.1f} LU over the speaking voice: it startles."
        yield subject.finding("chimes-over-voice", Severity.SHOULD, text, "", at=measures.chimes_at, where="the chimes")


def _jumps(subject: Subject) -> Iterator[Finding]:
    measures = subject.measures
    assert measures is not None
    if measures.jump_at is not None and measures.jump > (_JUMP_ASLEEP if is_sleep(subject) else _JUMP):
        when = clock(measures.jump_at)
        text = (
            f"At {when} a chime or the bed rises {measures.jump:.0f} LU over what was before: sudden for closed eyes."
        )
        yield subject.finding("sudden", Severity.SHOULD, text, "", at=measures.jump_at, where=when)


def _level(subject: Subject) -> Iterator[Finding]:
    measures, master = subject.measures, subject.session.master
    assert measures is not None
    if not math.isfinite(measures.loudness):
        text = "Nothing sounds: there is neither a voice nor a bed."
        yield subject.finding("level", Severity.MUST, text, "silent", where=_WHOLE)
    elif (over := measures.true_peak - master.ceiling) > _LIMITED:
        text = (
            f"At {master.loudness:g} LUFS its peaks are {over:.1f} dB over the ceiling of {master.ceiling:g} dBTP: the "
            "limiter will be heard."
        )
        yield subject.finding("level", Severity.SHOULD, text, "peaks", where=_WHOLE)


def _mono(subject: Subject) -> Iterator[Finding]:
    measures = subject.measures
    assert measures is not None
    if not subject.session.master.mono and measures.mono_loss > _MONO_LOSS:
        text = (
            f"On one small loudspeaker {measures.mono_loss:.1f} LU are lost: something in the bed cancels itself out."
        )
        yield subject.finding("mono", Severity.SHOULD, text, "", where=_WHOLE)


def _troubles(subject: Subject) -> Iterator[Finding]:
    assert subject.mix is not None
    for trouble in subject.mix.troubles:
        text = f"{trouble[:1].upper()}{trouble[1:].rstrip('.')}."
        yield subject.finding("sounds", Severity.MUST, text, trouble[:80], where="the bed or the chimes")


def _loops(subject: Subject) -> Iterator[Finding]:
    assert subject.mix is not None
    bed = subject.mix.bed
    for turn in bed.turns if bed is not None else ():
        sound = turn.sound
        if isinstance(sound, RecordedBed) and sound.seam.apart > _APART and subject.mix.length > sound.period:
            apart = f"the two sides of its loop are {sound.seam.apart:.0f} dB apart"
            text = f"The bed {sound.path.name} is heard to begin again: {apart}."
            at = Fraction(sound.period, sound.rate)
            yield subject.finding("loop", Severity.SHOULD, text, sound.path.name, at=at, where="the bed")


def _fades(subject: Subject) -> Iterator[Finding]:
    session = subject.session
    for field, verb, way, least in _FADES if session.bed is not None else ():
        now: Fraction = getattr(session, field)
        if now < least:
            text = f"The bed {verb} within {float(now):g} s: give it {float(least):g} s or more to {way}."
            longer = partial(change, session, **{field: least})
            offers = tried((f"{float(least):g} s", longer, 0))
            at = Fraction(0) if field == "opening" else subject.timeline.length
            yield subject.finding("fades", Severity.SHOULD, text, field, None, at, f"the {field}", offers)


CHECKS = (
    Check("voice-over-bed", "Sound", "the voice over the bed, block by block", _over_bed, needs="measures"),
    Check("chimes-over-voice", "Sound", "chimes and bell against the voice", _chimes, needs="measures"),
    Check("sudden", "Sound", "sudden sounds", _jumps, needs="measures"),
    Check("level", "Sound", "loudness and true peak at the target", _level, needs="measures"),
    Check("mono", "Sound", "what is lost in one channel", _mono, needs="measures"),
    Check("sounds", "Sound", "beds and chimes that cannot sound whole", _troubles, needs="mix"),
    Check("loop", "Sound", "how well recorded beds loop", _loops, needs="mix"),
    Check("fades", "Sound", "how the bed comes and goes", _fades),
)
