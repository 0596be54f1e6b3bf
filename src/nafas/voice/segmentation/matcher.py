"""Utterances of a recording matched to lines: first against the stand-in's readings, then against the reader's own.

The stand-in speaks with another voice, so its readings only roughly tell one word from another. What was matched with
confidence at first is a reading in the right voice, in the right room: the second time it is listened for as well.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from nafas.voice.segmentation.aligner import NOTHING, Candidates, Match, align, spans_of
from nafas.voice.segmentation.features import Features, distances
from nafas.voice.segmentation.utterances import Utterance

# Set on the same practice recordings as `aligner`'s.
_TRUSTED = 0.75
_MOST_OWN = 4
_NOTHING_KNOWN = 0.3  # a cough is further from the reader's own words than from a stranger's
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
) -> list[Match]:
    """Say of every utterance which line it is, or that it is none.

    Args:
        utterances: in order.
        spans: of `stretches`.
        heard: features of each span, shape (spans, FRAMES, d).
        readings: for each voice of the stand-in, features of every line, shape (lines, FRAMES, d).
        lengths: seconds of each line in the stand-in's reading, shape (lines,).
        ordered: the lines were read in their order, more or less.

    Returns:
        Matches in order that cover every utterance once.
    """
    if not spans or not len(lengths):
        return []
    seconds = np.array([utterances[last].end - utterances[first].start for first, last in spans])
    pauses = np.array([_longest_pause(utterances, first, last) for first, last in spans])
    rough = _centred(np.min([distances(heard, reading) for reading in readings], axis=0))
    matches = align(Candidates(spans, rough, seconds, pauses), lengths, NOTHING, ordered)
    own = _own_readings(matches, spans, heard)
    if not own:
        return matches
    finer = rough.copy()
    witnessed = np.zeros(rough.shape, bool)
    for line, places in own.items():
        near = distances(heard, heard[places])
        for column, place in enumerate(places):  # a reading is no witness for itself
            near[_overlapping(spans, spans[place]), column] = np.inf
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
    return align(Candidates(spans, finer, seconds, pauses), lengths, _NOTHING_KNOWN, ordered)


def strangeness(
    matches: Sequence[Match],
    spans: list[tuple[int, int]],
    heard: NDArray[np.float32],
    readings: Sequence[NDArray[np.float32]],
) -> float:
    """How unlike the stand-in's readings the matched utterances are on the whole: about 0.75 for the same lines in
    another voice, near 1 for something else. 1 where nothing was matched."""
    places = {span: place for place, span in enumerate(spans)}
    matched = [(places[m.first, m.last], m.line) for m in matches if m.line is not None]
    if not matched:
        return 1.0
    rows, lines = (np.array(column) for column in zip(*matched))
    every = np.min([distances(heard[rows], reading) for reading in readings], axis=0)
    return float(np.median(every[np.arange(len(rows)), lines]))


def _centred(distance: NDArray[np.float32]) -> NDArray[np.float32]:
    """Some lines are a little like everything: what they have in common with all utterances says nothing."""
    return (distance - np.median(distance, axis=0) + 1.0).astype(np.float32)


def _own_readings(matches: list[Match], spans: list[tuple[int, int]], heard: Features) -> dict[int, list[int]]:
    places = {span: place for place, span in enumerate(spans)}
    found: dict[int, list[int]] = {}
    for match in sorted(matches, key=lambda m: -m.confidence):
        if match.line is not None and match.confidence >= _TRUSTED:
            mine = found.setdefault(match.line, [])
            if len(mine) < _MOST_OWN:
                mine.append(places[match.first, match.last])
    return found


def _overlapping(spans: list[tuple[int, int]], span: tuple[int, int]) -> NDArray[np.bool_]:
    return np.array([first <= span[1] and last >= span[0] for first, last in spans])


def _longest_pause(utterances: Sequence[Utterance], first: int, last: int) -> float:
    return max((utterances[n + 1].start - utterances[n].end for n in range(first, last)), default=0.0)
