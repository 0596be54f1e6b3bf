"""Where each word of a known row is said: forced alignment by PocketSphinx, with words that may be left out.

The row is a chain of states, a word between two of them, each of which may be skipped at a price. Words of any language
are pronounced as `review.audit.pronunciation` says.
"""

from collections.abc import Sequence
from typing import Any

from nafas.voice.recognition.decoder import FRAME, Tuning, known_words, make_decoder, run
from nafas.voice.recognition.pronunciation import phones
from nafas.voice.segmentation.source import Source, sound

_STATES, _GAUSSIANS = 1500, 4
_LEFT_OUT = 1e-4
"""How likely a word is that is left out."""


class Aligner:
    """Aligns rows of words, each of which has its own name to the recogniser, so that none is taken for its fellow.

    Args:
        texts: every word that is due.
        language: a code of eSpeak's.
    """

    def __init__(self, texts: Sequence[str], language: str) -> None:
        known = known_words()
        ways = {text: phones(text, language, known) for text in dict.fromkeys(texts)}
        lines = []
        for index, text in enumerate(texts):
            for way, said in enumerate(ways[text]):
                lines.append(f"p{index}{f'({way + 1})' if way else ''} {said}")
        self._known = [bool(ways[text]) for text in texts]
        self._decoder: Any = make_decoder("\n".join(lines) + "\n", _STATES, _GAUSSIANS) if lines else None

    def align(
        self, places: Sequence[int], source: Source, begin: float, end: float, tuning: Tuning
    ) -> dict[int, tuple[float, float]]:
        """From where to where words are said, in seconds of the recording, by their place; those that are not, are not
        in it.

        Args:
            places: of the words that are due between two times, in order.
            source, begin, end: where they are looked for.
            tuning: of the recording.
        """
        samples = sound(source, max(0.0, begin), end)
        if self._decoder is None or not len(samples):
            return {}
        steps: list[tuple[int, int, float] | tuple[int, int, float, str]] = []
        for state, index in enumerate(places):
            if self._known[index]:
                steps.append((state, state + 1, 1 - _LEFT_OUT, f"p{index}"))
            steps.append((state, state + 1, _LEFT_OUT))
        name = f"row-{places[0]}"
        self._decoder.add_fsg(name, self._decoder.create_fsg(name, 0, len(places), steps))
        self._decoder.activate_search(name)
        run(self._decoder, samples, tuning)
        spans: dict[int, tuple[float, float]] = {}
        for segment in self._decoder.seg() or ():
            word = segment.word.split("(")[0]
            if word[:1] == "p" and word[1:].isdecimal():
                first, last = segment.start_frame * FRAME, (segment.end_frame + 1) * FRAME
                spans[int(word[1:])] = max(0.0, begin) + first, max(0.0, begin) + last
        return spans
