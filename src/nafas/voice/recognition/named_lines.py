"""Which line of a call sheet a recogniser takes a sound for: a witness next to how alike two readings sound.

The recogniser knows people's English; words of other languages are given to it in the English phones nearest. It hears
each sound as one of the lines, with nothing known of their order.
"""

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nafas.voice.call_sheet import Line
from nafas.voice.clip import Samples
from nafas.voice.recognition.decoder import LEVEL, RATE, Tuning, known_words, make_decoder, run, tuning
from nafas.voice.recognition.pronunciation import phones

_STATES, _GAUSSIANS = 600, 2
_AROUND = 0.08
"""Seconds of silence that a sound is heard with on either side."""
_MOST_WAYS = 50
"""Alternatives that are looked at, the likeliest first."""
_SCALE = 0.05
"""Loss of likelihood, in the recogniser's unit, at which an alternative is worth 1/e of the likeliest."""
_LONGEST = 12.0
"""Seconds; longer sounds are sentences, which are told apart by their length and sound."""


class LineRecogniser:
    """Hears sounds as lines.

    Args:
        lines: the call sheet; lines of which no sound is known are never heard.
        sounds: some of what will be heard, each shape (n,) at `RATE`, by which it is tuned.
    """

    def __init__(self, lines: Sequence[Line], sounds: Sequence[Samples]) -> None:
        self._number = len(lines)
        known, dictionary, arcs, state = known_words(), list[str](), list[tuple[int, int, float, str]](), 2
        for number, line in enumerate(lines):
            words = [phones(word, line.language, known) for word in line.text.split()]
            words = [ways for ways in words if ways]
            before = 0
            for place, ways in enumerate(words):
                name = f"l{number}w{place}"
                dictionary += [f"{name}{f'({way + 1})' if way else ''} {sound}" for way, sound in enumerate(ways)]
                last = place == len(words) - 1
                arcs.append((before, 1 if last else state, 1 / len(lines) if place == 0 else 1.0, name))
                before, state = state, state + (not last)
        self._decoder: Any = make_decoder("\n".join(dictionary) + "\n", _STATES, _GAUSSIANS) if arcs else None
        self._tuning = Tuning(1.0, "")
        if self._decoder is not None:
            self._decoder.add_fsg("lines", self._decoder.create_fsg("lines", 0, 1, arcs))
            self._decoder.activate_search("lines")
            peak = max((float(np.abs(sound).max(initial=0.0)) for sound in sounds), default=0.0)
            self._tuning = tuning(self._decoder, sounds, LEVEL / max(peak, 1e-6))

    def likeness(self, samples: Samples) -> NDArray[np.float32]:
        """How likely a sound is each line, shape (lines,): 1 for what is heard, less for its alternatives, 0 for all
        others. All 0 where nothing is heard."""
        values = np.zeros(self._number, np.float32)
        if self._decoder is None or not RATE // 20 < len(samples) < _LONGEST * RATE:
            return values
        pad = np.zeros(round(_AROUND * RATE), np.float32)
        run(self._decoder, np.concatenate([pad, samples, pad]), self._tuning)
        best = None
        for way, heard in enumerate(self._decoder.nbest() or ()):
            if way >= _MOST_WAYS or heard is None:
                break
            line, score = heard.hypstr.partition("w")[0].lstrip("l"), float(np.log(max(heard.best_score, 1e-300)))
            if not line.isdigit():
                continue
            best = score if best is None else max(best, score)
            likely = float(np.exp((score - best) / _SCALE))
            values[int(line)] = max(values[int(line)], likely)
        return values
