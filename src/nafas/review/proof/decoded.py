"""One pass over a written file as a player decodes it: what it measures, and where the sounds sought lie in it.

Parts of half a minute are looked at side by side, so memory does not grow with length.
"""

from bisect import bisect_left
from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
import soxr
from numpy.typing import NDArray

from nafas.audio_files import AudioReader
from nafas.parallel.shares import Tell, in_shares
from nafas.review.proof.dropouts import CONTEXT, dropouts
from nafas.review.proof.matcher import Place, Template, find, mono, output, template
from nafas.review.proof.sought import Sought
from nafas.sound.meters.loudness import SETTLED
from nafas.sound.meters.measure import Measured, Part, Programme, joined, measure_part
from nafas.sound.meters.true_peak import Highest

PART = 30
"""Seconds looked at at once."""
_AROUND = 2.0  # seconds on either side of a part, for sounds that begin in it and their surroundings
_ASKED, _SHIFTED = 9, 20.0  # words, and seconds, that a shift is looked for with
_COARSE, _FINE = 6, 0.01  # of the rate; seconds around the place that was found so
_PLAIN = 12.0  # standard deviations: noise comes to 6 over so many places

Found = list[Place | None]
Spans = list[tuple[float, float]]


class _Stretch:
    """A stretch of the file in memory, read as a programme."""

    def __init__(self, reader: AudioReader, start: int, end: int) -> None:
        self.rate, self.channels, self.length = reader.rate, reader.channels, reader.frames
        self.start = max(0, start)
        self.sound = np.ascontiguousarray(reader.read(self.start, end - self.start).T)

    def read(self, start: int, frames: int) -> NDArray[np.float32]:
        part = self.sound[:, max(0, start - self.start) : max(0, start + frames - self.start)]
        missing = frames - part.shape[1]
        return part if not missing else np.pad(part, ((0, 0), (0, missing)))


def look_through(
    reader: AudioReader,
    wanted: Sequence[Sought],
    gain: float,
    progress: Callable[[float], None],
    due: Programme | None = None,
    power: float = 0.0,
) -> tuple[Found, Measured, Spans]:
    """Find what is sought, measure the file, and find its drop-outs, in one pass.

    Args:
        reader: the file, at the rate of what is sought.
        wanted: in order of their start.
        gain: linear, what the mix was amplified by.
        progress: called with 0.0 to 1.0; raises Cancelled to stop.
        due: what the file was coded from, with its channels; None: drop-outs are not looked for.
        power: mean square of one channel of `due`.

    Returns:
        the place of each, None where it was not found; what the file measures; and its drop-outs, from and to in
        seconds.

    Raises:
        InputError: the file breaks off or is broken somewhere.
        Cancelled: when `progress` does.
    """
    size = PART * reader.rate
    starts = [each.start for each in wanted]
    templates = _Templates(wanted, reader.rate)
    known = Highest()

    def part(begin: int, tell: Tell) -> tuple[Found, Part, Spans]:
        end = min(begin + size, reader.frames)
        around = round(_AROUND * reader.rate)
        first = 0 if not begin else bisect_left(starts, begin)
        last = bisect_left(starts, begin + size) if end < reader.frames else len(starts)
        long = (each for each in wanted[first:last] if each.samples.shape[-1] > around)
        latest = max((each.start + templates.of(each).end for each in long), default=end)  # what they are known by
        stretch = _Stretch(reader, begin - around, max(end, latest) + around)
        places = _found(stretch, templates, wanted, first, last, gain)
        measured = measure_part(stretch, begin, end - begin, known=known)
        holes = [] if due is None else _holes(stretch, due, begin, end, power)
        tell(end - begin)
        return places, measured, holes

    parts = in_shares(part, range(0, reader.frames, size), reader.frames, progress)
    return (
        [place for places, _, _ in parts for place in places],
        joined([measured for _, measured, _ in parts]),
        [hole for _, _, holes in parts for hole in holes],
    )


def _holes(stretch: _Stretch, due: Programme, begin: int, end: int, power: float) -> Spans:
    """Drop-outs that begin in a part."""
    context = round(CONTEXT * due.rate)
    first, last = max(0, begin - context), min(end + context, due.length)
    if last <= first:
        return []
    spans = dropouts(stretch.read(first, last - first), due.read(first, last - first), due.rate, power)
    moved = [(first / due.rate + span[0], first / due.rate + span[1]) for span in spans]
    return [span for span in moved if begin <= span[0] * due.rate < end]


def shift_of(reader: AudioReader, wanted: Sequence[Sought]) -> int | None:
    """Samples that everything lies late by, where that is plain within 20 s; else None. Words come again and again:
    only at one shift do those from all over the session lie right together.

    They are looked for at a sixth of the rate first, and from there on to the sample.
    """
    words = [each for each in wanted if each.is_voice]
    asked = words[:: max(1, len(words) // _ASKED)][:_ASKED]
    if not asked:
        return None
    rate, low = reader.rate, reader.rate / _COARSE
    reach = round((_SHIFTED + 2) * rate)
    total = np.zeros(1, np.float32)
    for each in asked:
        stretch = _Stretch(reader, each.start - reach, each.start + reach)
        coarse = replace(each, samples=_lower(mono(each.samples[..., :]), rate))
        at = round((each.start - stretch.start) / _COARSE)
        total = total + output(_lower(mono(stretch.sound), rate), at, template(coarse, round(low)), _SHIFTED)
    best = int(total.argmax())
    if float(total[best]) <= _PLAIN * np.sqrt(len(asked)) or not float(total.std()):
        return None
    late = round((best - len(total) // 2) * _COARSE)
    fine = np.zeros(1, np.float32)
    for each in asked:
        stretch = _Stretch(reader, each.start + late - rate, each.start + late + 2 * rate)
        fine = fine + output(mono(stretch.sound), each.start + late - stretch.start, template(each, rate), _FINE)
    return late + int(fine.argmax()) - len(fine) // 2


def _lower(samples: NDArray[np.float32], rate: int) -> NDArray[np.float32]:
    """At a sixth of the rate, each sound at its time."""
    lower: NDArray[np.float32] = soxr.resample(samples, rate, rate / _COARSE, "LQ")
    return lower


class _Templates:
    """What each sound is looked for by; that of a sound which comes more than once is made once."""

    def __init__(self, wanted: Sequence[Sought], rate: int) -> None:
        self._rate = rate
        seen: set[tuple[int, float]] = set()
        again: set[tuple[int, float]] = set()
        for each in wanted:
            key = self._key(each)
            (again if key in seen else seen).add(key)
        self._again = again
        self._made: dict[tuple[int, float], Template] = {}

    @staticmethod
    def _key(each: Sought) -> tuple[int, float]:
        return id(each.samples), each.gain

    def of(self, each: Sought) -> Template:
        key = self._key(each)
        made = self._made.get(key)
        if made is None:
            made = template(each, self._rate)
            if key in self._again:
                self._made[key] = made
        return made


def _found(
    stretch: _Stretch, templates: _Templates, wanted: Sequence[Sought], first: int, last: int, gain: float
) -> Found:
    """Where sounds `first` to `last` lie. Chimes are looked for in what is left once the voice that was found, at its
    place and its level, is taken out: they sound on the same beat, and are softer."""
    heard, mine = mono(stretch.sound), wanted[first:last]
    places: Found = [None] * len(mine)

    def look(voice: bool) -> None:
        numbers = [number for number, each in enumerate(mine) if each.is_voice is voice]
        sounds = [(mine[number].start - stretch.start, templates.of(mine[number])) for number in numbers]
        for number, place in zip(numbers, find(heard, sounds, gain)):
            places[number] = place

    look(voice=True)
    if not all(each.is_voice for each in mine):
        heard = heard.copy() if heard.base is not None else heard
        for each, place in zip(mine, places):
            if each.is_voice and place is not None:
                _take_out(heard, each, each.start - stretch.start + place.late)
        look(voice=False)
    return places


def _take_out(rest: NDArray[np.float32], each: Sought, at: int) -> None:
    """Take a sound that was found out of what is heard, at the level that leaves least."""
    sound = mono(each.samples[..., :])
    begin, end = max(0, at), min(len(rest), at + len(sound))
    if begin < end:
        part, here = sound[begin - at : end - at], rest[begin:end]
        here -= part * np.float32(np.dot(here, part) / max(float(np.dot(part, part)), 1e-12))


assert _AROUND > SETTLED
