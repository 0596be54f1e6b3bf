"""What a recording is listened for: cue words and numbers of a language, or all that a session calls and counts."""

from dataclasses import dataclass
from functools import cached_property

from nafas.script.model.phase import PhaseKind
from nafas.script.words.lexicon import count_word, lexicon_of
from nafas.script.words.wording import Wording
from nafas.timing.timeline import EventKind, Timeline
from nafas.voice.recognition.pronunciation import phones

USUALLY_COUNTED = 12
"""Numbers are heard up to here where no session says otherwise: the more there are, the less sure each is."""
MOST_COUNTED, _BEYOND = 60, 2
"""The largest number that is listened for, and how many more than a session has: one too many is heard too."""
_MOST_CUES = 40
_SPOKEN = (EventKind.COUNT, EventKind.CUE)
_ENGLISH = {
    "inhale": PhaseKind.INHALE,
    "breathe in": PhaseKind.INHALE,
    "exhale": PhaseKind.EXHALE,
    "breathe out": PhaseKind.EXHALE,
    "hold": PhaseKind.HOLD_FULL,
    "rest": PhaseKind.HOLD_EMPTY,
}


@dataclass(frozen=True)
class Vocabulary:
    """Words to be listened for.

    Attributes:
        language: their language's code.
        cues: cue words and the phase each begins; of one that begins two kinds, the first: "hold" after an exhale is a
            hold empty.
        numbers: number words and their numbers.
    """

    language: str
    cues: tuple[tuple[str, PhaseKind], ...]
    numbers: tuple[tuple[str, int], ...]
    languages: tuple[tuple[str, str], ...] = ()
    """Of those words that are in another language, by word."""

    @cached_property
    def kinds(self) -> dict[str, PhaseKind]:
        return dict(self.cues)

    @cached_property
    def values(self) -> dict[str, int]:
        return dict(self.numbers)

    @cached_property
    def texts(self) -> tuple[str, ...]:
        """All of them, cues last."""
        return tuple(dict.fromkeys([*self.values, *self.kinds]))

    def dictionary(self, known: bytes) -> str:
        """The words as a pronouncing dictionary for the recogniser: word k is named "wk", its other ways "wk(2)".

        Args:
            known: the CMU dictionary.
        """
        lines, languages = [], dict(self.languages)
        for index, text in enumerate(self.texts):
            for way, said in enumerate(phones(text, languages.get(text, self.language), known)):
                lines.append(f"w{index}{f'({way + 1})' if way else ''} {said}")
        return "\n".join(lines) + "\n"


def of_language(language: str = "en", counts: int = USUALLY_COUNTED) -> Vocabulary:
    """The usual cue words of a language, and its numbers up to `counts`."""
    lexicon = lexicon_of(language, Wording())
    cues = _ENGLISH if language == "en" else {lexicon.kind(kind): kind for kind in reversed(PhaseKind)}
    return Vocabulary(language, tuple(cues.items()), _numbers(language, counts))


def of_timeline(timeline: Timeline) -> Vocabulary:
    """What a session calls and counts, in its own words, and the numbers up to a little more than its longest phase."""
    language = timeline.session.language
    spoken = [moment for moment in timeline.spoken if moment.kind in _SPOKEN]
    longest = max((moment.count for moment in spoken), default=0)
    most = min(MOST_COUNTED, max(4, longest) + _BEYOND)
    values, cues, languages = dict[str, int](), dict[str, PhaseKind](), dict[str, str]()
    for each in dict.fromkeys([language, *(block.language for block in timeline.blocks)]):
        for text, number in _numbers(each, most):
            if values.setdefault(text, number) == number and each != language:
                languages.setdefault(text, each)
    for moment in spoken:
        text = plain(moment.text)
        if timeline.speaking_at(moment).language != language:
            languages.setdefault(text, timeline.speaking_at(moment).language)
        if text not in values and moment.phase_kind is not None and len(cues) < _MOST_CUES:
            cues.setdefault(text, moment.phase_kind)
    for text, kind in of_language(language).cues:  # a slip of the tongue may be any of them
        if text not in values and len(cues) < _MOST_CUES:
            cues.setdefault(text, kind)
    return Vocabulary(language, tuple(cues.items()), tuple(values.items()), tuple(languages.items()))


def plain(text: str) -> str:
    """A word as it is listened for."""
    return text.lower().strip(" .,;:!?…")


def _numbers(language: str, most: int) -> tuple[tuple[str, int], ...]:
    return tuple((plain(count_word(number, language)), number) for number in range(1, most + 1))
