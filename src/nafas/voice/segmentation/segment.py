"""Cut a recording of a call sheet up: what was said where, which line it is, and how sure that is.

The recording is read twice, in blocks: once to find the utterances, once to listen to each. It is never altered.
"""

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from threading import Lock

import numpy as np
from numpy.typing import NDArray

from nafas.errors import InputError
from nafas.parallel.shares import Tell, in_shares
from nafas.plain_text import pluralize
from nafas.voice.call_sheet import Line
from nafas.voice.engines.engine import Engine
from nafas.voice.level import speech_bounds
from nafas.voice.pitch import voiced_seconds
from nafas.voice.recognition.named_lines import LineRecogniser
from nafas.voice.segmentation.aligner import Match
from nafas.voice.segmentation.features import cepstra
from nafas.voice.segmentation.labels import Label
from nafas.voice.segmentation.matcher import match_lines, strangeness, stretches
from nafas.voice.segmentation.source import Source, at_rate
from nafas.voice.segmentation.utterances import RATE, Utterance, band_levels, find_utterances
from nafas.voice.takebook.book import SURE, line_key

Progress = Callable[[str, float], None]
_Compared = tuple[NDArray[np.float32], NDArray[np.float32], bool]
"""Of a span: its cepstra, how likely it is each line, and whether it has no voice in it."""
READER_PACE = 130
_VARIANTS = ("", "+f2", "+m3")
"""Voices of the stand-in that a line is compared with: none of them is the reader, together they are less wrong."""
_THROATS = (1.0, 0.87)
"""Sizes of throat each of them is heard with, as `features.cepstra` warps it."""
_ELSEWHERE = {"es": "es-419", "en": "en-us"}
"""Voices of the same language as it is spoken on another continent."""
_CLIPPED = 0.002
_STRANGE, _AGREED = 0.96, 0.35  # unlikeness past which, and recognised part under which it is another sheet
_NOT_THIS_SHEET = 0.5  # how sure its matches are then
_VOICED, _UNVOICED = 0.02, 0.5  # seconds of voice in the shortest word; what it costs to take less for one
_COMPARED = 16  # spans that one process compares at a go
_TUNED_BY = 40
"""Utterances by which the recogniser is tuned."""
_MOST_UTTERANCES = 20_000


@dataclass(frozen=True)
class Cut:
    """A stretch of a recording taken for a line. `line` is its place on the call sheet; times in seconds."""

    line: int
    start: float
    end: float
    confidence: float


@dataclass(frozen=True)
class Segmentation:
    """Everything found in a recording.

    Attributes:
        lines: the call sheet it was held against.
        cuts: in order of time.
        unmatched: utterances that are no line: coughs, slips, talk between.
        notes: what a person should know about the recording.
    """

    lines: tuple[Line, ...]
    cuts: tuple[Cut, ...]
    unmatched: tuple[Utterance, ...]
    notes: tuple[str, ...]

    @property
    def missing(self) -> list[Line]:
        """Lines of which nothing was found that is sure."""
        found_lines = {cut.line for cut in self.cuts if cut.confidence >= SURE}
        return [line for index, line in enumerate(self.lines) if index not in found_lines]

    @property
    def repeated(self) -> list[tuple[Line, int]]:
        """Lines found more often than wanted, and how often."""
        times = Counter(cut.line for cut in self.cuts)
        return [(line, times[index]) for index, line in enumerate(self.lines) if times[index] > line.wanted]

    @property
    def unsure(self) -> list[Cut]:
        """Cuts to be listened to, the least sure first."""
        return sorted((cut for cut in self.cuts if cut.confidence < SURE), key=lambda cut: cut.confidence)


def segment(
    source: Source,
    lines: Sequence[Line],
    engine: Engine,
    labels: Sequence[Label] = (),
    progress: Progress = lambda stage, done: None,
    ordered: bool = True,
) -> Segmentation:
    """Find the lines of a call sheet in a recording.

    Args:
        source: the recording.
        lines: the call sheet, in the order it was read.
        engine: the stand-in, which reads every line for comparison.
        labels: of a label file, if there is one: what they say is believed, and doubted where it sounds otherwise.
        progress: called with a stage and 0.0 to 1.0; raises Cancelled to stop.
        ordered: the lines were read in the call sheet's order, more or less; a folder of clips is in no order.

    Raises:
        InputError: no speech in it, or the call sheet is empty.
    """
    if not lines:
        raise InputError("the call sheet", "has no lines", "write talk or a breath set into the session first")
    total = max(1, int(source.seconds * RATE))
    levels = band_levels(source.blocks(RATE), lambda seen: progress("listening", min(1.0, seen / total)))
    utterances = find_utterances(levels)
    if not utterances:
        raise InputError(str(source.path), "holds silence only", "check the microphone and record again")
    if len(utterances) > _MOST_UTTERANCES:
        raise InputError(str(source.path), f"holds {len(utterances)} separate sounds", "choose a recording of speech")
    notes = _notes(source, utterances)
    readings, lengths = readings_of(lines, engine, progress)
    spans = stretches(utterances, 2.2 * float(lengths.max()))
    heard, strange, named = _heard(source, lines, utterances, spans, progress)
    matches = match_lines(utterances, spans, heard, readings, lengths, ordered, strange, named)
    late = [label for label in labels if label.start >= source.seconds]
    if late:
        index = f"the label {late[0].text[:40]!r} at {late[0].start:.1f} s"
        raise InputError(index, f"begins after the recording's end ({source.seconds:.1f} s)", "choose its own labels")
    matched = sum(match.line is not None for match in matches)
    strange_sheet = strangeness(matches, spans, heard, readings) > _STRANGE and _agreed(matches, spans, named) < _AGREED
    elsewhere = matched < 0.4 * len(utterances) or strange_sheet
    doubt = _NOT_THIS_SHEET if elsewhere else 1.0
    cuts = [
        Cut(m.line, utterances[m.first].start, utterances[m.last].end, doubt * m.confidence)
        for m in matches
        if m.line is not None
    ]
    unmatched = [utterances[m.first] for m in matches if m.line is None]
    if labels:
        cuts, more = _as_labelled(cuts, labels, lines, utterances)
        notes += more
    if elsewhere:
        notes.append("most of what is said is on no line of this call sheet: is it another session's, or music?")
    return Segmentation(tuple(lines), tuple(cuts), tuple(unmatched), tuple(notes))


def _agreed(matches: Sequence[Match], spans: list[tuple[int, int]], named: NDArray[np.float32]) -> float:
    """How likely a recogniser takes what is matched for its lines, 0 to 1, on the whole."""
    places = {span: index for index, span in enumerate(spans)}
    likely = [named[places[m.first, m.last], m.line] for m in matches if m.line is not None]
    return float(np.mean(likely)) if likely else 0.0


def _notes(source: Source, utterances: Sequence[Utterance]) -> list[str]:
    notes = []
    if source.clipped > _CLIPPED * sum(u.seconds for u in utterances) / max(source.seconds, 1e-9):
        notes.append("parts of it are clipped: record again with more room above the voice")
    over = float(np.median([u.over_noise for u in utterances]))
    if over < 14:
        notes.append(f"the voice stands only {over:.0f} dB over the noise: weak beginnings may be cut late")
    return notes


def readings_of(
    lines: Sequence[Line], engine: Engine, progress: Progress
) -> tuple[list[NDArray[np.float32]], NDArray[np.float64]]:
    """The stand-in's readings of every line, in each of its voices, and their lengths in the first."""
    readings: list[NDArray[np.float32]] = []
    lengths = np.zeros(len(lines))
    elsewhere = any(line.language in _ELSEWHERE for line in lines)
    voices = [(False, variant) for variant in _VARIANTS] + [(True, variant) for variant in _VARIANTS[:2] if elsewhere]
    for number, (abroad, variant) in enumerate(voices):
        sounds = []
        for index, line in enumerate(lines):
            progress("reading the call sheet", (number * len(lines) + index) / (len(voices) * len(lines)))
            language = _ELSEWHERE.get(line.language, line.language) if abroad else line.language
            samples = at_rate(*engine.read(line.text, language + variant, READER_PACE))
            begin, end = speech_bounds(samples, RATE, below_peak=30.0, margin=0.0)
            if not readings:
                lengths[index] = max(0.1, (end - begin) / RATE)
            sounds.append([cepstra(samples[begin:end], throat) for throat in _THROATS])
        readings += list(np.array(sounds).swapaxes(0, 1))
    return readings, lengths


def _heard(
    source: Source,
    lines: Sequence[Line],
    utterances: Sequence[Utterance],
    spans: Sequence[tuple[int, int]],
    progress: Progress,
) -> tuple[NDArray[np.float32], NDArray[np.float64], NDArray[np.float32]]:
    """Cepstra of each span; what it costs to take each utterance for speech: what has no voice in it is none; and what
    a recogniser takes each span for."""

    def sound(first: int, last: int) -> NDArray[np.float32]:
        start = int(utterances[first].start * source.rate)
        return at_rate(source.read(start, int(utterances[last].end * source.rate) - start), source.rate)

    some = np.unique(np.linspace(0, len(utterances) - 1, _TUNED_BY).astype(int))
    recogniser = LineRecogniser(lines, [sound(each, each) for each in some])
    one_at_a_time = Lock()  # a decoder holds the state of what it hears; forked processes have one each

    def compare(
        part: Sequence[tuple[int, int]], tell: Tell
    ) -> list[tuple[NDArray[np.float32], NDArray[np.float32], bool]]:
        compared = []
        for first, last in part:
            samples = sound(first, last)
            with one_at_a_time:
                likely = recogniser.likeness(samples)
            silent = first == last and voiced_seconds(samples, RATE) < _VOICED
            compared.append((cepstra(samples), likely, silent))
            tell(1)
        return compared

    parts = [spans[first : first + _COMPARED] for first in range(0, len(spans), _COMPARED)]
    shares = in_shares(compare, parts, len(spans), partial(progress, "comparing"))
    heard, named, silent = zip(*(each for share in shares for each in share))
    strange = np.zeros(len(utterances))
    strange[[first for (first, _), voiceless in zip(spans, silent) if voiceless]] = _UNVOICED
    return np.array(heard), strange, np.array(named)


def _as_labelled(
    cuts: list[Cut], labels: Sequence[Label], lines: Sequence[Line], utterances: Sequence[Utterance]
) -> tuple[list[Cut], list[str]]:
    """Cuts that lie under a label take its line; where the sound says otherwise, that is doubted. What was taken for no
    line still begins and ends where it sounds, not where its label does."""
    places = {line.key: index for index, line in enumerate(lines)}
    language = lines[0].language
    result: list[Cut] = []
    doubted, unknown = [], []
    for label in labels:
        index = places.get(line_key(label.text, language))
        if index is None:
            unknown.append(label.text[:40])
            continue
        under: list[Cut | Utterance] = [cut for cut in cuts if _lies_under(cut, label)]
        agreeing = next((c for c in under if isinstance(c, Cut) and c.line == index), None)
        if agreeing is not None:
            result.append(Cut(index, agreeing.start, agreeing.end, max(agreeing.confidence, 0.9)))
        else:
            under = under or [each for each in utterances if _lies_under(each, label)]
            start, end = (under[0].start, under[-1].end) if under else (label.start, label.end)
            result.append(Cut(index, start, end, 0.2))
            doubted.append(label.text[:40])
    notes = []
    if doubted:
        text = pluralize(len(doubted), "label sounds", "labels sound")
        notes.append(f"{text} unlike what is written, such as {doubted[0]!r}: listen there")
    if unknown:
        notes.append(
            f"{pluralize(len(unknown), 'label is', 'labels are')} no line of this session, such as {unknown[0]!r}"
        )
    return sorted(result, key=lambda cut: cut.start), notes


def _lies_under(sound: Cut | Utterance, label: Label) -> bool:
    return min(sound.end, label.end) - max(sound.start, label.start) > 0.5 * (sound.end - sound.start)
