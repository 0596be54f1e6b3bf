"""A folder of clips, read as one recording: clip after clip, a silence between, each name a label of what it says."""

import re
from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np

from nafas.errors import InputError
from nafas.voice.call_sheet import Line
from nafas.voice.clip import Samples
from nafas.voice.segmentation.labels import Label
from nafas.voice.segmentation.source import LONGEST, Source
from nafas.voice.takebook.writing import file_stem

SOUND_ENDINGS = frozenset((".wav", ".flac", ".aif", ".aiff", ".mp3", ".ogg", ".opus"))
_PAUSE = 1.5
_MOST = 5000


class ClipFolder(Source):
    """The clips of a folder (or `only` some of them), in the order of their names (2 before 10), at the highest rate
    among them.

    Attributes:
        clips: each clip, and where it begins, in samples.

    Raises:
        InputError: no clip in it, too many, or one that cannot be read.
    """

    def __init__(self, folder: Path, only: Sequence[Path] | None = None) -> None:
        try:
            there = folder.iterdir() if only is None else iter(only)
            clips = (p for p in there if p.suffix.lower() in SOUND_ENDINGS and not p.name.startswith("."))
            paths = sorted(clips, key=_natural)
        except OSError as error:
            raise InputError(str(folder), f"cannot be read ({error.strerror})", "choose a folder of clips") from None
        if not paths:
            raise InputError(
                str(folder), "holds no audio", "choose a folder of WAV, FLAC, AIFF, MP3, Ogg or Opus clips"
            )
        if len(paths) > _MOST:
            raise InputError(str(folder), f"holds {len(paths)} clips", f"choose a folder of at most {_MOST}")
        self.path = folder
        sources = [Source(path) for path in paths]
        self.rate = max(source.rate for source in sources)
        self.channels, self.clipped = 1, 0.0
        self.clips: list[tuple[Source, int]] = []
        pause = round(_PAUSE * self.rate)
        at = pause - pause // 2
        for source in sources:
            self.clips.append((source, at))
            at += self._length(source) + pause
        self.frames = at
        if self.seconds > LONGEST:
            raise InputError(str(folder), f"lasts {self.seconds / 3600:.1f} h", "choose fewer clips at once")

    def _length(self, source: Source) -> int:
        return int(-(-source.frames * self.rate // source.rate))

    def read(self, start: int, frames: int) -> Samples:
        """See `Source.read`."""
        start = max(0, start)
        out = np.zeros(max(0, min(frames, self.frames - start)), np.float32)
        for source, at in self.clips:
            if at < start + len(out) and at + self._length(source) > start:
                clip = self._whole(source)
                begin, end = max(at, start), min(at + len(clip), start + len(out))
                out[begin - start : end - start] = clip[begin - at : end - at]
        return out

    def _whole(self, source: Source) -> Samples:
        clip = source.read(0, source.frames)
        if source.rate == self.rate:
            return clip
        import soxr

        samples: Samples = soxr.resample(clip, source.rate, self.rate, quality="HQ").astype(np.float32)
        return samples[: self._length(source)]

    def blocks(self, rate: int) -> Iterator[Samples]:
        """See `Source.blocks`."""
        import soxr

        stream = soxr.ResampleStream(self.rate, rate, 1, dtype="float32", quality="HQ")
        pause = np.zeros(round(_PAUSE * self.rate), np.float32)
        loud, half = 0, len(pause) // 2
        for source, _ in self.clips:
            clip = np.zeros(self._length(source), np.float32)
            whole = self._whole(source)
            clip[: len(whole)] = whole
            loud += int((np.abs(clip) >= 0.999).sum())
            quiet = _room_of(clip, self.rate, len(pause))
            yield stream.resample_chunk(np.concatenate([quiet[half:], clip, quiet[:half]]), last=False)
        yield stream.resample_chunk(pause[half:], last=True)
        self.clipped = loud / self.frames

    def place(self, seconds: float) -> str:
        """See `Source.place`: the clip's own name."""
        at = seconds * self.rate
        return next((s.path.name for s, begin in reversed(self.clips) if begin - self.rate // 2 <= at), self.path.name)

    def labels(self, lines: list[Line]) -> list[Label]:
        """What the clips' names say: those that are a line's own, with a number before it, a number or letter after."""
        stems = {file_stem(line.text): line.text for line in lines}
        labels_ = []
        for source, at in self.clips:
            stem = file_stem(source.path.stem)
            bare = re.sub(r"^\d+[-_. ]*(?=\D)", "", stem)
            tries = (stem, bare, *(re.sub(r"-?(\d+|-[a-z])$", "", each) for each in (stem, bare)))
            text = next((stems[each] for each in tries if each in stems), None)
            if text is not None:
                labels_.append(Label(at / self.rate, (at + self._length(source)) / self.rate, text))
        return labels_


def _room_of(clip: Samples, rate: int, frames: int) -> Samples:
    """Silence with the noise of a clip's own room, so that the clip stands out of it as it would in a recording.

    The clip's quietest tenth of a second, over and over; nothing where even that is speech.
    """
    size = rate // 10
    parts = clip[: len(clip) // size * size].reshape(-1, size) if len(clip) >= 3 * size else np.zeros((1, size))
    power = (parts.astype(float) ** 2).mean(axis=1)
    quietest = parts[int(np.argmin(np.where(power > 0, power, np.inf)))]
    if power.max() < 1000 * float((quietest.astype(float) ** 2).mean()):
        return np.zeros(frames, np.float32)
    both = np.concatenate([quietest, quietest[::-1]])  # there and back, without a seam
    return np.resize(both, frames).astype(np.float32)


def _natural(path: Path) -> list[tuple[int, str]]:
    return [(int(part), "") if part.isdigit() else (-1, part) for part in re.split(r"(\d+)", path.stem.casefold())]


def open_source(path: Path) -> Source:
    """A recording, or a folder of clips. Raises InputError."""
    return ClipFolder(path) if path.is_dir() else Source(path)
