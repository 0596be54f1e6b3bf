"""The booth: a call sheet recorded line by line, each take heard, measured and put on the shelf before the next.

What comes in is whatever the microphone heard while a line was asked for: the line, perhaps twice, perhaps with a
cough before it. The last good reading is kept; a second try is meant to be better than the first.
"""

import contextlib
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from nafas.errors import InputError
from nafas.voice.call_sheet import Line
from nafas.voice.clip import Samples
from nafas.voice.engines.engine import Engine
from nafas.voice.recording.take_sound import TakeSound, remarks, take_sound
from nafas.voice.segmentation.aligner import length_cost
from nafas.voice.segmentation.features import by_word, distances, features
from nafas.voice.segmentation.matcher import stretches
from nafas.voice.segmentation.segment import readings_of
from nafas.voice.segmentation.source import at_rate
from nafas.voice.segmentation.utterances import RATE, band_levels, find_utterances
from nafas.voice.takebook.book import Take
from nafas.voice.takebook.editor import TakeBookEditor
from nafas.voice.takebook.writing import BEFORE, begin_book, write_take

_AS_GOOD = 0.1  # a later reading is taken that is this little worse than the best
_UNLIKE = 1.02  # a reading is doubted that is this far from the stand-in's: as far as another word
_ODD_LENGTH = 0.8  # as the logarithm of its length over the stand-in's: less than half of it, or more than twice
_LITTLE_ROOM = 12.0  # dB of speech over the noise, under which a take is called noisy
_CLIPPED = 4  # samples at full scale
_OTHERS = 12  # takes, the latest, that say how the book sounds


@dataclass(frozen=True)
class RecordedTake:
    """A take that was recorded: as shelved, and what a person should know of it."""

    take: Take
    remarks: tuple[str, ...]


@dataclass(frozen=True)
class Reading:
    """Where a line stands in what was heard, in seconds; how far it sounds from it (about 1 is another word); dB over
    the noise; and how long the stand-in takes for the line."""

    start: float
    end: float
    unlike: float
    over_noise: float
    usual_seconds: float

    @property
    def doubtful(self) -> bool:
        """Whether it may be something else."""
        odd = abs(float(np.log((self.end - self.start) / self.usual_seconds))) > _ODD_LENGTH
        return odd or self.unlike > _UNLIKE


class Booth:
    """Records a call sheet into a take book.

    Args:
        lines: the call sheet.
        tended: the take book; takes are added to it as they are made.
        engine: the stand-in, which knows what each line sounds like.
    """

    def __init__(self, lines: Sequence[Line], tended: TakeBookEditor, engine: Engine) -> None:
        self.lines = list(lines)
        self.edited = tended
        self._engine = engine
        self._sounds: dict[str, TakeSound] = {}

    def takes(self, line: Line) -> tuple[Take, ...]:
        """What there is of a line."""
        return self.edited.book.takes(line.text, line.language) if self.edited.book else ()

    def wanting(self) -> list[int]:
        """Places of the lines that have fewer takes than wanted."""
        return [index for index, line in enumerate(self.lines) if len(self.takes(line)) < line.wanted]

    def record(self, line: Line, samples: Samples, rate: int) -> RecordedTake:
        """Shelve a line as it was heard.

        Args:
            samples: mono, shape (n,), with some of the room before and after.
            rate: samples a second.

        Raises:
            InputError: no speech in it, or the book cannot be written. A recording that is on the disk by then stays
                there, as one without a line.
        """
        reading = best_reading(samples, rate, line, self._engine)
        begin = max(0, int((reading.start - 0.4) * rate))
        end = min(len(samples), int((reading.end + 0.5) * rate))
        folder = self.edited.folder
        begin_book(folder, self.edited.index.title)
        speech = (reading.start - begin / rate, reading.end - begin / rate)
        _, take = write_take(folder, samples[begin:end], rate, speech, line, "recorded line by line")
        if reading.doubtful:
            take = take.replace(confidence=0.3)
        self.edited.add(take, f"record {line.text[:30]!r}")
        said = _remarks(samples[begin:end], reading, take, line)
        said += self._beside_the_others(samples[int(reading.start * rate) : int(reading.end * rate)], rate, take)
        return RecordedTake(take, tuple(said))

    def _beside_the_others(self, samples: Samples, rate: int, take: Take) -> list[str]:
        """What sets a take apart from the book's others, by level, distance, pace and what pops."""
        book = self.edited.book
        sound = take_sound(samples, rate)
        others = [each for each in (book.index.takes if book else ()) if each != take and not each.aside]
        for each in others[-_OTHERS:]:
            if book is not None and each.file not in self._sounds:
                with contextlib.suppress(InputError):
                    whole, its_rate = book.sound(each)
                    begin, end = (int(at * its_rate) for at in each.trim)
                    self._sounds[each.file] = take_sound(whole[begin:end], its_rate)
        usual = [self._sounds[each.file] for each in others[-_OTHERS:] if each.file in self._sounds]
        same = [each.seconds for each in others if (each.text, each.language) == (take.text, take.language)]
        return remarks(sound, usual, take.seconds / float(np.median(same)) if same else None)

    def drop(self, take: Take) -> None:
        """Set a take aside: the last one was not good. Its file is kept."""
        self.edited.replace(take, take.replace(aside=True), "set a take aside")


def _remarks(samples: Samples, reading: Reading, take: Take, line: Line) -> list[str]:
    remarks_ = []
    if int((np.abs(samples) >= 0.999).sum()) >= _CLIPPED:
        remarks_.append("clipped: turn the microphone down, or step back")
    if reading.over_noise < _LITTLE_ROOM:
        remarks_.append("noisy: the voice hardly stands over the room")
    over = reading.end - reading.start + BEFORE - take.beat - (line.room or 0.0)  # as its trim begins before it
    if line.room is not None and over > 0:
        remarks_.append(f"too long by {over:.2f} s: say it faster")
    if reading.doubtful:
        remarks_.append("does not sound like this line: listen to it")
    return remarks_


def best_reading(samples: Samples, rate: int, line: Line, engine: Engine) -> Reading:
    """The reading of a line in what was heard, by sound and length; of two as good, the last.

    Raises:
        InputError: nothing was said.
    """
    heard = at_rate(samples, rate)
    utterances = find_utterances(band_levels([heard])) if len(heard) else []
    if not utterances:
        raise InputError(f"the microphone, for {line.text[:40]!r}", "heard nothing", "check it and say the line again")
    voices, lengths = readings_of([line], engine, lambda stage, done: None)
    spans = stretches(utterances, 3.0 * float(lengths[0]))
    sounds = np.array(
        [features(heard[int(utterances[a].start * RATE) : int(utterances[b].end * RATE)]) for a, b in spans]
    )
    unlike = np.min([distances(sounds, by_word(voice))[:, 0] for voice in voices], axis=0)
    seconds = np.array([utterances[b].end - utterances[a].start for a, b in spans])
    cost = unlike + length_cost(seconds, lengths[:1])
    good = [best for best, each in enumerate(cost) if each <= cost.min() + _AS_GOOD]
    best = max(good, key=lambda p: (spans[p][1], -cost[p]))
    first, last = spans[best]
    over = max(u.over_noise for u in utterances[first : last + 1])
    return Reading(utterances[first].start, utterances[last].end, float(unlike[best]), over, float(lengths[0]))
