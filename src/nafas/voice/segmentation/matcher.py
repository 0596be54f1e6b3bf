"""Utterances of a recording matched to lines: first against the stand-in's readings, then against the reader's own.

The stand-in speaks with another voice, so its readings only roughly tell one word from another. What was matched with
confidence at first is a reading in the right voice, in the right room: the second time it is listened for as well.
"""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nafas.voice.segmentation.adaptation import adapted
from nafas.voice.segmentation.aligner import NOTHING, Candidates, Match, align, spans_of
from nafas.voice.segmentation.features import Features, by_reader, by_word, distances
from nafas.voice.segmentation.utterances import Utterance

# Set on the same practice recordings as `aligner`'s.
_TRUSTED = 0.75
_MOST_OWN = 4
_NOTHING_KNOWN = 0.42  # a cough is further from the reader's own words than from a stranger's
_BY_READER = 0.6  # how much the reader's usual sound says, against each word's own
_ADAPTED, _LEARNT, _FEWEST = (
    3,
    0.5,
    4,
)  # times the voice is learnt again, from matches so sure, of so many lines at least
_MOST_LEARNT = 120  # matches
_FEW_MATCHES, _SUPPORT = 6, 3  # matches, of which so many to either side must hold one up
_HELD, _HELD_THROUGHOUT, _HELD_SPREAD = 0.75, 0.65, 0.03  # how near to their lines, where the likest lines are at 1
_LIKE_IT, _UNLIKE = 2, 0.7  # lines nearer than its own from which order alone holds a match, and how sure it is then
_AROUND, _ALIKE_MIDDLE = (
    30,
    1.3,
)  # utterances to either side that similarity is judged among; the score between yes and no
_NAMED = 0.1  # what a line's name is worth that a recogniser hears
_OWN = 0.35  # how much the reader's own words say, against the stand-in's


def stretches(utterances: Sequence[Utterance], longest: float) -> list[tuple[int, int]]:
    """(first, last) of every stretch of neighbouring utterances that may be one line; `longest` in seconds."""
    starts = np.array([u.start for u in utterances])
    ends = np.array([u.end for u in utterances])
    return spans_of(starts, ends, longest)


def match_lines(
    utterances: Sequence[Utterance],
    spans: list[tuple[int, int]],
    heard: NDArray[np.float32],
    readings: Sequence[NDArray[np.float32]],
    lengths: NDArray[np.float64],
    ordered: bool = True,
    strange: NDArray[np.float64] | None = None,
    named: NDArray[np.float32] | None = None,
) -> list[Match]:
    """Say of every utterance which line it is, or that it is none.

    Args:
        utterances: in order.
        spans: of `stretches`.
        heard: cepstra of each span, shape (spans, FRAMES, d).
        readings: for each voice of the stand-in, cepstra of every line, shape (lines, FRAMES, d).
        lengths: seconds of each line in the stand-in's reading, shape (lines,).
        ordered: the lines were read in their order, more or less.
        strange: what it costs to take each utterance for speech, shape (utterances,).
        named: how likely a recogniser takes each span for each line, 0 to 1, shape (spans, lines).

    Returns:
        Matches in order that cover every utterance once.
    """
    if not spans or not len(lengths):
        return []
    seconds = np.array([utterances[last].end - utterances[first].start for first, last in spans])
    pauses = np.array([_longest_pause(utterances, first, last) for first, last in spans])
    single = np.array([first == last for first, last in spans])
    theirs, mine = by_reader(heard, heard[single]), by_word(heard)
    by_voice = [by_reader(reading, reading) for reading in readings]
    by_words = np.array([distances(mine, by_word(reading)) for reading in readings])
    heard = theirs
    alike = _alike(spans, theirs, len(utterances), strange)

    # Some words are heard in much that is said: only how much more often than usual says something.
    witness = 0.0 if named is None else _NAMED * (named - named.mean(axis=0))

    def costs(voices: Sequence[NDArray[np.float32]]) -> NDArray[np.float32]:
        by_sound = np.array([distances(theirs, voice) for voice in voices])
        return _centred(np.min(_BY_READER * by_sound + (1 - _BY_READER) * by_words, axis=0)) - witness

    rough = unlearnt = costs(by_voice)
    matches = align(Candidates(spans, rough, seconds, pauses, alike, strange), lengths, NOTHING, ordered)
    for _ in range(_ADAPTED):
        pairs = _pairs(matches, spans)
        if len({line for line, _ in pairs}) < _FEWEST:
            break
        rough = costs([adapted(voice, theirs, pairs) for voice in by_voice])
        matches = align(Candidates(spans, rough, seconds, pauses, alike, strange), lengths, NOTHING, ordered)
    own = _own_readings(matches, spans, heard)
    if not own:
        return _supported(matches, spans, unlearnt)
    finer = rough.copy()
    witnessed = np.zeros(rough.shape, bool)
    for line, places in own.items():
        near = distances(heard, heard[places])
        for column, index in enumerate(places):  # a reading is no witness for itself
            near[_overlapping(spans, spans[index]), column] = np.inf
        nearest = near.min(axis=1)
        known = np.isfinite(nearest)
        if known.sum() > 2:
            theirs = nearest[known] - float(np.median(nearest[known])) + 1.0
            finer[known, line] = (1 - _OWN) * rough[known, line] + _OWN * theirs
            witnessed[known, line] = True
    # A line read but once has no witness of the reader's: it must not look worse than those that have.
    where = {span: n for n, span in enumerate(spans)}
    sure = [m for m in matches if m.line is not None and m.confidence >= _TRUSTED]
    gains = [rough[at] - finer[at] for at in ((where[m.first, m.last], m.line) for m in sure) if witnessed[at]]
    if gains:
        finer[~witnessed] -= float(np.median(gains))
    result = align(Candidates(spans, finer, seconds, pauses, alike, strange), lengths, _NOTHING_KNOWN, ordered)
    return _supported(result, spans, unlearnt)


def _supported(matches: list[Match], spans: list[tuple[int, int]], unlearnt: NDArray[np.float32]) -> list[Match]:
    """The matches, less sure where they and those around them are not much nearer to their lines than to others: there
    order alone holds them up, and where it is wrong it is wrong for a whole stretch.

    How near is the standard score of a line among all lines; it is held against that of the likest line of all.
    """
    places = {span: index for index, span in enumerate(spans)}
    matched = [index for index, match in enumerate(matches) if match.line is not None]
    if len(matched) < _FEW_MATCHES or unlearnt.shape[1] < _FEWEST:
        return matches
    rows = unlearnt[[places[matches[index].first, matches[index].last] for index in matched]]
    scores = (np.median(rows, axis=1, keepdims=True) - rows) / (rows.std(axis=1, keepdims=True) + 1e-6)
    theirs = scores[np.arange(len(matched)), [matches[index].line or 0 for index in matched]]
    likest = scores.max(axis=1)
    unlike = (scores > theirs[:, None]).sum(axis=1) >= _LIKE_IT

    def support(around: slice, least: float) -> float:
        held = theirs[around].mean() / (likest[around].mean() + 1e-6)
        return float(1 / (1 + np.exp(-(held - least) / _HELD_SPREAD)))

    throughout = support(slice(None), _HELD_THROUGHOUT)
    supported = list(matches)
    for n, index in enumerate(matched):
        near = support(slice(max(0, n - _SUPPORT), n + _SUPPORT + 1), _HELD)
        held = near * throughout * (_UNLIKE if unlike[n] else 1.0)
        supported[index] = replace(matches[index], confidence=matches[index].confidence * held)
    return supported


def _pairs(matches: Sequence[Match], spans: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """(line, span) of what is matched well enough to learn the reader's voice from."""
    places = {span: index for index, span in enumerate(spans)}
    sure = [match for match in matches if match.line is not None and match.confidence >= _LEARNT]
    best = sorted(sure, key=lambda match: -match.confidence)[:_MOST_LEARNT]
    return [(match.line, places[match.first, match.last]) for match in best if match.line is not None]


def _alike(
    spans: list[tuple[int, int]], heard: NDArray[np.float32], number: int, strange: NDArray[np.float64] | None
) -> NDArray[np.float64]:
    """How much each utterance sounds like the one before it: standard scores over how alike any two of the recording
    are; 0 where there are too few to say, and for what is no speech."""
    values = np.zeros(number)
    places = {span: index for index, span in enumerate(spans)}
    # What is no speech stands between a word and its second reading, and is none of the two.
    speech = [n for n in range(number) if (n, n) in places and (strange is None or not strange[n])]
    if len(speech) < 6:
        return values
    near = heard[[places[n, n] for n in speech]]
    for at in range(1, len(speech)):
        around = np.arange(max(0, at - _AROUND), min(len(speech), at + _AROUND + 1))
        around = around[around != at]
        apart = distances(near[at : at + 1], near[around])[0]
        middle = float(np.median(apart))
        spread = 1.4826 * float(np.median(np.abs(apart - middle))) + 1e-3
        before = float(apart[around == at - 1][0])
        values[speech[at]] = (middle - before) / spread - _ALIKE_MIDDLE
    return values


def strangeness(
    matches: Sequence[Match],
    spans: list[tuple[int, int]],
    heard: NDArray[np.float32],
    readings: Sequence[NDArray[np.float32]],
) -> float:
    """How unlike the stand-in's readings the matched utterances are on the whole: about 0.75 for the same lines in
    another voice, near 1 for something else. 1 where nothing was matched."""
    places = {span: index for index, span in enumerate(spans)}
    matched = [(places[m.first, m.last], m.line) for m in matches if m.line is not None]
    if not matched:
        return 1.0
    rows, lines = (np.array(column) for column in zip(*matched))
    every = np.min([distances(by_word(heard[rows]), by_word(reading)) for reading in readings], axis=0)
    return float(np.median(every[np.arange(len(rows)), lines]))


def _centred(distance: NDArray[np.float32]) -> NDArray[np.float32]:
    """Some lines are a little like everything: what they have in common with all utterances says nothing."""
    return (distance - np.median(distance, axis=0) + 1.0).astype(np.float32)


def _own_readings(matches: list[Match], spans: list[tuple[int, int]], heard: Features) -> dict[int, list[int]]:
    places = {span: index for index, span in enumerate(spans)}
    readings: dict[int, list[int]] = {}
    for match in sorted(matches, key=lambda m: -m.confidence):
        if match.line is not None and match.confidence >= _TRUSTED:
            mine = readings.setdefault(match.line, [])
            if len(mine) < _MOST_OWN:
                mine.append(places[match.first, match.last])
    return readings


def _overlapping(spans: list[tuple[int, int]], span: tuple[int, int]) -> NDArray[np.bool_]:
    return np.array([first <= span[1] and last >= span[0] for first, last in spans])


def _longest_pause(utterances: Sequence[Utterance], first: int, last: int) -> float:
    return max((utterances[n + 1].start - utterances[n].end for n in range(first, last)), default=0.0)
