"""Whether one voice counts, or two: by the pitch of the words."""

from collections.abc import Sequence

import numpy as np

from nafas.review.audit.judge import AuditFinding
from nafas.review.checks.finding import Severity
from nafas.script.performed import CountedWord
from nafas.voice.pitch import median_pitch
from nafas.voice.segmentation.source import Source

_FEWEST, _SHARE = 12, 0.2
"""Words from which it can be known, and of them that each voice has at least."""
_APART, _WITHIN = 5.0, 2.2
"""Semitones between two voices, and standard deviation of each (our own; one voice's words lie within some 2)."""
_MOST = 240
"""Words that are looked at."""


def speaker_findings(source: Source, words: Sequence[CountedWord]) -> list[AuditFinding]:
    """A finding where the words lie in two pitches, as of two people. Two voices of one pitch are not told apart."""
    step = max(1, len(words) // _MOST)
    pitched = []
    for word in words[::step]:
        samples = source.read(round(word.start * source.rate), round((word.end - word.start) * source.rate))
        pitch = median_pitch(samples, source.rate)
        if pitch > 0:
            pitched.append((12 * float(np.log2(pitch / 100)), word.beat))
    if len(pitched) < _FEWEST:
        return []
    pitches = np.sort([semitones for semitones, _ in pitched])
    cuts = range(max(1, round(_SHARE * len(pitches))), round((1 - _SHARE) * len(pitches)))
    cut = min(cuts, key=lambda at: pitches[:at].var() * at + pitches[at:].var() * (len(pitches) - at))
    low, high = pitches[:cut], pitches[cut:]
    if high.mean() - low.mean() < _APART or max(low.std(), high.std()) > _WITHIN:
        return []
    middle = (low.mean() + high.mean()) / 2
    first = pitched[0][0] > middle
    at = next(beat for semitones, beat in pitched if (semitones > middle) != first)
    hertz = [100 * 2 ** (float(np.mean(part)) / 12) for part in (low, high)]
    text = f"Two voices seem to count, at about {hertz[0]:.0f} and {hertz[1]:.0f} Hz; words of both become takes."
    return [AuditFinding("two-voices", Severity.LOOK, at, text)]
