"""What is said between the sets of a recording: where, for how long, and in English a draft of the words.

The draft is PocketSphinx's, with the general English model of its wheel: some four words in five are right. It is good
enough to tell how fast someone talks and how many rounds are promised, and to begin a script with.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from nafas.parallel.shares import PerWorker, Tell, in_shares
from nafas.review.audit.decoder import QUIET
from nafas.review.audit.judge import AuditFinding
from nafas.review.checks.finding import Severity
from nafas.review.checks.listener import FASTEST
from nafas.script.performed import PerformedSet
from nafas.voice.recognition.decoder import FRAME, RATE, Tuning, run
from nafas.voice.segmentation.source import Source, sound
from nafas.voice.segmentation.utterances import band_levels, find_utterances

_JOIN, _PAUSE = 0.55, 0.35
"""Seconds of a pause inside what is heard in one go, and between two words of a sentence."""
_LONGEST, _SHORTEST = 24.0, 0.5
"""Seconds of what is taken for one sentence."""
_BEFORE, _AFTER = 0.15, 0.25
_CLEAR = 0.25
"""Seconds between counting and talk."""
_QUICKEST, _SLOWEST = 6.5, 0.7
"""Words a second between which it is talk, and no bell and no water."""
_LEAST_WORDS = 2
_STATES, _GAUSSIANS = 3000, 2
_TOLD_FROM, _APART = 12, 6.0
"""Words from which a pace is reported, and seconds of a pause that parts two stretches of talk."""
_NO_WORDS = "<[(+"


@dataclass(frozen=True)
class Sentence:
    """Something said outside the sets.

    Attributes:
        start, end: seconds.
        text: a draft of its words, with a full stop; "" where they are not known.
    """

    start: float
    end: float
    text: str

    @property
    def words(self) -> int:
        return len(self.text.split())


def pace_findings(talk: Sequence[Sentence]) -> list[AuditFinding]:
    """Talk that goes faster than guided practice does, by stretches of talk."""
    findings = []
    for stretch in _stretched(talk):
        words = sum(sentence.words for sentence in stretch)
        seconds = stretch[-1].end - stretch[0].start
        if words >= _TOLD_FROM and 60 * words / seconds > FASTEST:
            text = (
                f"Talk goes at about {60 * words / seconds:.0f} words a minute; guided practice is spoken at 90 to 120."
            )
            findings.append(AuditFinding("pace", Severity.SHOULD, stretch[0].start, text))
    return findings


def _stretched(talk: Sequence[Sentence]) -> list[list[Sentence]]:
    """Sentences that follow each other without a long pause."""
    groups: list[list[Sentence]] = []
    for sentence in talk:
        if not groups or sentence.start - groups[-1][-1].end > _APART:
            groups.append([])
        groups[-1].append(sentence)
    return groups


def talk_in(
    source: Source,
    sets: Sequence[PerformedSet],
    language: str,
    tuning: Tuning,
    progress: Callable[[float], None] = lambda done: None,
) -> list[Sentence]:
    """The sentences of a recording, in order of time.

    Args:
        source: the recording.
        sets: what was performed in it; nothing inside one is taken for talk.
        language: a code. In English only what yields words is talk; in others all that has the length of a sentence.
        tuning: of the recording.
        progress: called with 0.0 to 1.0; raises Cancelled to stop.
    """
    places = [stretch for begin, end in _outside(source, sets) for stretch in _stretches(source, begin, end)]
    if not tuning.gain or not places:
        return []
    if language.partition("-")[0] != "en":
        return [Sentence(begin, end, "") for begin, end in places if end - begin >= 2 * _SHORTEST]
    total = round(RATE * sum(end - begin for begin, end in places))
    decoder = PerWorker(_decoder)

    def read_one(stretch: tuple[float, float], tell: Tell) -> list[Sentence]:
        sentences = _read(decoder.mine, source, *stretch, tuning)
        tell(round(RATE * (stretch[1] - stretch[0])))
        return sentences

    read = in_shares(read_one, places, total, progress)
    return sorted((sentence for sentences in read for sentence in sentences), key=lambda each: each.start)


def _outside(source: Source, sets: Sequence[PerformedSet]) -> list[tuple[float, float]]:
    """Where no set is."""
    ends = [0.0, *(one.end + _CLEAR for one in sets)]
    begins = [*(one.start - _CLEAR for one in sets), source.seconds]
    return [(begin, end) for begin, end in zip(ends, begins) if end - begin >= _SHORTEST]


def _stretches(source: Source, begin: float, end: float) -> list[tuple[float, float]]:
    """From where to where something is said, of what stands out of the noise, in sentences by their pauses."""
    blocks = (sound(source, at, min(end, at + 60.0)) for at in np.arange(begin, end, 60.0))
    stretches: list[tuple[float, float]] = []
    for said in find_utterances(band_levels(blocks)):
        first, last = begin + said.start, min(end, begin + said.end)
        if stretches and first - stretches[-1][1] < _JOIN and last - stretches[-1][0] < _LONGEST:
            stretches[-1] = (stretches[-1][0], last)
        else:
            stretches.append((first, last))
    return [(first, last) for first, last in stretches if last - first >= _SHORTEST]


def _decoder() -> Any:
    from pocketsphinx import Decoder, get_model_path

    return Decoder(
        hmm=get_model_path("en-us/en-us"),
        lm=get_model_path("en-us/en-us.lm.bin"),
        dict=get_model_path("en-us/cmudict-en-us.dict"),
        loglevel="FATAL",
        maxhmmpf=_STATES,
        topn=_GAUSSIANS,
        bestpath=False,
    )


def _read(decoder: Any, source: Source, begin: float, end: float, tuning: Tuning) -> list[Sentence]:
    """The sentences of a stretch, parted where nothing is said for a while."""
    first = max(0.0, begin - _BEFORE)
    samples = sound(source, first, end + _AFTER)
    if not len(samples) or float(np.sqrt(np.mean(samples**2))) < QUIET:
        return []
    run(decoder, samples, tuning)
    parts: list[list[tuple[str, float, float]]] = []
    for segment in decoder.seg() or ():
        word = segment.word.split("(")[0]
        if word[:1] in _NO_WORDS:
            continue
        start, until = first + segment.start_frame * FRAME, first + (segment.end_frame + 1) * FRAME
        if not parts or start - parts[-1][-1][2] > _PAUSE:
            parts.append([])
        parts[-1].append((word, start, until))
    sentences = []
    for words in parts:
        start, until = words[0][1], words[-1][2]
        if len(words) >= _LEAST_WORDS and _SLOWEST <= len(words) / (until - start) <= _QUICKEST:
            text = " ".join(word for word, _, _ in words)
            sentences.append(Sentence(start, until, f"{text[:1].upper()}{text[1:]}."))
    return sentences
