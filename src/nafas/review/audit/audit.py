"""A recording put to the test: heard, measured, judged, and held against its session where there is one."""

import math
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np

from nafas.audio_files import sane
from nafas.errors import InputError
from nafas.plain_text import pluralize
from nafas.review.audit.against import Pair, align
from nafas.review.audit.damage import damage_in
from nafas.review.audit.decoder import Ear, tuned
from nafas.review.audit.draft import drafted
from nafas.review.audit.folded import folded
from nafas.review.audit.judge import AuditFinding, broken, drift_findings, judge_sets
from nafas.review.audit.promised import broken_promises
from nafas.review.audit.recogniser import hear
from nafas.review.audit.second_hearing import Judge, heard_twice, meant
from nafas.review.audit.speakers import speaker_findings
from nafas.review.audit.talk import Sentence, pace_findings, talk_in
from nafas.review.audit.vocabulary import Vocabulary, of_language, of_timeline
from nafas.review.checks.finding import Severity
from nafas.script.model.phase import PhaseKind
from nafas.script.performed import CountedWord, PerformedSet, performed
from nafas.sound.files.recording import Recording
from nafas.sound.meters.measure import Measured, measure
from nafas.sound.stereo import Stereo
from nafas.timing.clock import clock
from nafas.timing.timeline import Timeline
from nafas.voice.segmentation.source import Source

Progress = Callable[[str, float], None]
LONGEST = 3 * 3600.0
"""Seconds of a recording that is still put to the test."""
_STEP = 0.02
_OFF_TIME = 0.25
"""Seconds off its moment at which a word is reported."""
_TOLD = 8
_SILENCE = 60.0
_LOW_RATE = 16_000
_FEW, _BROKEN, _FEWER = 3, 0.05, 0.15
"""Words that break the order, and their part of all, in long sets and in short ones: with more the hearing is at fault,
and no slip is named."""
_ITS_SESSION = 0.6
"""Of all words of both that must be the same where a recording is of a session."""


@dataclass(frozen=True, eq=False)
class Audit:
    """What is known of a recording.

    Attributes:
        path, seconds, rate: of the file.
        language: a code: what was listened for.
        words: cues and numbers that were called and counted, with their felt beats.
        sets: what was performed.
        talk: what was said outside the sets, its words a draft.
        transcribed: whether talk was listened to.
        findings: what is wrong, in order of time.
        measured: loudness, range, true peak.
        noise_floor: LUFS of its quietest twentieth.
        voice_over_rest: LU of the words counted over what lies between them; nan where nothing was counted.
        pairs: each word with its moment of the session; () without one.
        offset: seconds by which the recording begins later than the session.
        limits: what could not be known, and why.
    """

    path: Path
    seconds: float
    rate: int
    language: str
    words: tuple[CountedWord, ...]
    sets: tuple[PerformedSet, ...]
    talk: tuple[Sentence, ...]
    transcribed: bool
    findings: tuple[AuditFinding, ...]
    measured: Measured
    noise_floor: float
    voice_over_rest: float
    pairs: tuple[Pair, ...]
    offset: float
    limits: tuple[str, ...]

    def figures(self) -> dict[str, Any]:
        """Everything, ready for JSON."""
        return {
            "file": str(self.path),
            "seconds": round(self.seconds, 3),
            "rate": self.rate,
            "language": self.language,
            "loudness_lufs": _finite(self.measured.loudness),
            "true_peak_dbtp": _finite(self.measured.true_peak),
            "loudness_range_lu": _finite(self.measured.range),
            "noise_floor_lufs": _finite(self.noise_floor),
            "voice_over_rest_lu": _finite(self.voice_over_rest),
            "words": [
                {"text": w.text, "at": round(w.beat, 3), "end": round(w.end, 3), "confidence": w.confidence}
                for w in self.words
            ],
            "sets": [_set_figures(one) for one in self.sets],
            "talk": [{"start": round(s.start, 3), "end": round(s.end, 3), "draft": s.text} for s in self.talk],
            "findings": [
                {"check": f.check, "severity": f.severity.value, "at": round(f.at, 3), "text": f.text}
                for f in self.findings
            ],
            "offset": round(self.offset, 3) if self.pairs else None,
            "limits": list(self.limits),
        }

    def labels(self) -> str:
        """The words and sentences as a label track: begin, end and text, tab-separated, a line each."""
        said: list[CountedWord | Sentence] = [*self.words, *self.talk]
        rows = sorted((each.start, each.end, each.text) for each in said)
        return "".join(f"{start:.6f}\t{end:.6f}\t{text or 'talk'}\n" for start, end, text in rows)


def _set_figures(one: PerformedSet) -> dict[str, Any]:
    return {
        "start": round(one.start, 3),
        "end": round(one.end, 3),
        "rounds": len(one.rounds),
        "pattern": [{"phase": kind.value, "counts": counts} for kind, counts in one.pattern],
        "count_length": None if one.count_length is None else round(one.count_length, 4),
        "count_lengths": [[round(at, 3), round(length, 4)] for at, length in one.count_lengths],
    }


def _finite(value: float) -> float | None:
    return round(value, 2) if math.isfinite(value) else None


class _Programme(Recording):
    """A recording at its own rate, to be measured."""

    def __init__(self, path: Path, rate: int) -> None:
        super().__init__(path, rate)
        self.length, self.channels = self.file_frames, 2

    def read(self, start: int, frames: int) -> Stereo:
        return sane(super().read(start, frames))


def audit(
    path: Path,
    timeline: Timeline | None = None,
    progress: Progress = lambda stage, done: None,
    vocabulary: Vocabulary | None = None,
    transcribe: bool = True,
) -> Audit:
    """Put a recording to the test.

    Args:
        path: WAV, FLAC, AIFF, MP3, Ogg or Opus.
        timeline: of the session it belongs to, or None.
        progress: called with a stage and 0.0 to 1.0; raises Cancelled to stop.
        vocabulary: what is listened for; None: what the session says, or else the usual English words.
        transcribe: whether talk is listened to as well, which takes longer.

    Raises:
        InputError: no recording of sound, or longer than `LONGEST`.
        Cancelled: when `progress` does.
    """
    source = Source(path)
    if source.seconds > LONGEST:
        raise InputError(str(path), f"lasts {source.seconds / 3600:.1f} h", "cut it into parts of at most 3 h")
    words_of = vocabulary or (of_language() if timeline is None else of_timeline(timeline))
    ear = Ear(words_of)
    limits = _limits(source, ear)
    tuning = tuned(source, ear)
    words = hear(source, ear, tuning, lambda done: progress("hearing", done))
    measured = measure(_Programme(path, source.rate), lambda done: progress("measuring", done))
    if words:
        words = meant(words, {number: text for text, number in words_of.numbers})
        words = heard_twice(words, Judge(source, ear, tuning))
    sets = performed(words)
    findings = judge_sets(sets)
    clear = broken(findings) <= max(_BROKEN * len(words), min(_FEW, _FEWER * len(words)))
    if not clear:
        said = {kind: text for text, kind in reversed(words_of.cues)}
        said.setdefault(PhaseKind.HOLD_EMPTY, said.get(PhaseKind.HOLD_FULL, ""))
        voted = tuple(folded(words, said, {number: text for text, number in words_of.numbers}))
        limits.append(_unclear(findings, words, bool(voted)))
        sets, findings = voted or sets, drift_findings(voted)
    talk: list[Sentence] = []
    if transcribe:
        talk = talk_in(source, sets, words_of.language, tuning, lambda done: progress("listening to talk", done))
        draft = drafted(path.stem, sets, talk, words_of.language)
        findings += [*pace_findings(talk), *(broken_promises(draft) if draft is not None else ())]
    pairs, offset = _held_against(timeline, words, words_of.texts) if timeline is not None else ([], 0.0)
    if pairs and sum(pair.same for pair in pairs) < _ITS_SESSION * len(pairs):
        limits.append("it is not of this session, or was changed a lot: what was heard is judged by itself")
        pairs, offset = [], 0.0
    findings += _against(pairs, offset) if clear else []
    if not words:
        limits.append("no cues and numbers stand by themselves in it: it may hold no counting, or be another language")
    findings += [*_levels(measured, words), *damage_in(path).findings(), *speaker_findings(source, words)]
    findings.sort(key=lambda each: each.at)
    floor, over = _floor(measured), _over_rest(measured, words)
    if math.isfinite(over) and over < 6:
        limits.append(f"the words stand only {over:.0f} LU over what sounds with them: places are less sure")
    return Audit(
        path, source.seconds, source.rate, words_of.language, tuple(words), sets, tuple(talk), transcribe,
        tuple(findings), measured, floor, over, tuple(pairs), offset, tuple(limits),
    )  # fmt: skip


def _limits(source: Source, ear: Ear) -> list[str]:
    limits = []
    if source.rate < _LOW_RATE:
        limits.append(f"it has a rate of {source.rate} Hz: hissing sounds are missing, and words are less sure")
    if ear.vocabulary.language.partition("-")[0] != "en":
        limits.append("its language is heard through an English ear: more words are missed or misheard than of English")
    missing = [text for text in ear.vocabulary.texts if text not in ear.names]
    if missing:
        limits.append(f"these words cannot be listened for, their sound is not known: {', '.join(missing)}")
    return limits


def _unclear(findings: Sequence[AuditFinding], words: Sequence[CountedWord], voted: bool) -> str:
    """Why no slips are named where too many words break the order: it is the hearing that slips, not the speaker."""
    text = (
        f"it was not heard well enough: {broken(findings)} of {len(words)} words break the order, so no slips are named"
    )
    return f"{text}; its sets are what most of their rounds say" if voted else f"{text}, and its sets may be wrong"


def _held_against(timeline: Timeline, words: list[CountedWord], texts: Collection[str]) -> tuple[list[Pair], float]:
    """The words on the session's moments, and by how much the recording begins later."""
    offset, pairs = 0.0, align(timeline, words, texts)
    for _ in range(2):
        apart = [p.word.beat - float(p.moment.at) for p in pairs if p.same and p.word and p.moment]
        if not apart:
            return pairs, 0.0
        offset = float(np.median(apart))
        pairs = align(timeline, words, texts, offset)
    return pairs, offset


def _against(pairs: list[Pair], offset: float) -> list[AuditFinding]:
    findings: list[AuditFinding] = []
    off_time: list[tuple[float, AuditFinding]] = []
    for pair in pairs:
        moment, word = pair.moment, pair.word
        if moment is not None and word is None:
            at = float(moment.at) + offset
            findings.append(
                AuditFinding("not-heard", Severity.SHOULD, at, f"“{moment.text}” was due and was not heard.")
            )
        elif moment is None and word is not None:
            findings.append(AuditFinding("added", Severity.SHOULD, word.beat, f"“{word.text}” is not in the session."))
        elif moment is not None and word is not None and not pair.same:
            text = f"“{word.text}” is heard where “{moment.text}” was due."
            findings.append(AuditFinding("other-word", Severity.MUST, word.beat, text))
        elif moment is not None and word is not None:
            late = word.beat - offset - float(moment.at)
            if abs(late) > _OFF_TIME:
                way = "late" if late > 0 else "early"
                text = f"“{word.text}” is {abs(late):.2f} s {way}."
                off_time.append((abs(late), AuditFinding("off time", Severity.SHOULD, word.beat, text)))
    if len(off_time) > _TOLD:
        _, worst = max(off_time, key=lambda each: each[0])
        text = f"{pluralize(len(off_time), 'word lies', 'words lie')} more than {_OFF_TIME} s off the session's time."
        return [*findings, AuditFinding("off time", Severity.SHOULD, off_time[0][1].at, text), worst]
    return [*findings, *(finding for _, finding in off_time)]


def _levels(measured: Measured, words: list[CountedWord]) -> list[AuditFinding]:
    findings: list[AuditFinding] = []
    if measured.true_peak > 0:
        text = f"Its true peak is {measured.true_peak:.1f} dBTP: over full scale, it distorts in players."
        findings.append(AuditFinding("true-peak", Severity.MUST, 0.0, text))
    for before, after in pairwise(words):
        if after.start - before.end > _SILENCE:
            text = f"No cue and no count for {clock(after.start - before.end)}, up to {clock(after.start)}."
            findings.append(AuditFinding("silence", Severity.LOOK, before.end, text))
    return findings


def _floor(measured: Measured) -> float:
    fine = measured.fine
    quiet = float(np.quantile(fine, 0.05)) if len(fine) else 0.0
    return -0.691 + 10 * math.log10(quiet) if quiet > 0 else -math.inf


def _over_rest(measured: Measured, words: list[CountedWord]) -> float:
    """LU of the words over what lies between words of a set."""
    fine = measured.fine
    said = [fine[int(word.start / _STEP) : int(word.end / _STEP)] for word in words]
    gaps = [
        fine[int((before.end + 0.1) / _STEP) : int((after.start - 0.05) / _STEP)]
        for before, after in pairwise(words)
        if 0.2 < after.start - before.end < 3
    ]
    voice, rest = (np.concatenate(parts) if parts else np.zeros(0) for parts in (said, gaps))
    if not len(voice) or not len(rest) or rest.mean() <= 0 or voice.mean() <= 0:
        return math.nan
    return 10 * math.log10(float(voice.mean() / rest.mean()))
