"""Render a mix to a master file, and to stems on request.

One pass mixes and measures; the gain that brings it to the target follows from that; a second pass mixes, amplifies and
writes. Only where the gain would push true peaks past the ceiling does a limiter work. The gain is foreseen then, and
what it comes to is measured before anything is written.
"""

import math
from collections.abc import Callable, Iterator, Sequence
from contextlib import ExitStack, contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from nafas.errors import InputError
from nafas.files import real_path, sweep_parts
from nafas.parallel.ahead import ahead
from nafas.parallel.shares import Tell, in_shares
from nafas.sound.files.encode import FULL_SCALE, AudioFile, publish
from nafas.sound.files.formats import encoding_of
from nafas.sound.master.foresight import GAIN_PLACES, Foresight
from nafas.sound.master.limiter import MasterStream
from nafas.sound.master.mono_downmix import MonoDownmix
from nafas.sound.meters.measure import BLOCK, Measured, Progress, measure
from nafas.sound.mix.mix import STEMS, Mix, Stems

CLOSE_ENOUGH = 0.03
"""LU from the target that ends the search for the gain."""
_MOST_LIMITING = 12.0  # dB; asking more of a limiter is no master but a fault
_TIMES_MEASURED = 4  # two are enough unless the limiter works far more than it should

_PART_SECONDS = 30


@dataclass(frozen=True)
class Mastered:
    """What a render made.

    Attributes:
        path: the master.
        also: the same master in other formats.
        stems: the stem files by name, "voice", "chimes", "bed"; empty when none were asked for.
        frames, rate: its length.
        gain: master gain in dB.
        limited: the most the limiter took away, in dB (0.0: it had nothing to do).
        measured: of the master, loudness and true peak.
        target: the loudness asked for, in LUFS.
        troubles: what of the mix could not sound as it is written.
    """

    path: Path
    also: tuple[Path, ...]
    stems: dict[str, Path]
    frames: int
    rate: int
    gain: float
    limited: float
    measured: Measured
    target: float
    troubles: tuple[str, ...] = ()

    @property
    def shortfall(self) -> float:
        """LU that the master misses its target by; 0.0 when it is met."""
        return _shortfall(self.measured, self.target)


def _shortfall(measured: Measured, target: float) -> float:
    missed = abs(measured.loudness - target)
    return missed if math.isfinite(missed) and missed > 0.1 else 0.0


class OutOfReach(InputError):  # noqa: N818 - the target is at fault, not the program
    """The loudness a session asks for cannot be had with as much limiting as leaves its sound whole."""

    def __init__(self, place: str, loudness: float, target: float) -> None:
        problem = f"{target:g} LUFS is out of reach: with {_MOST_LIMITING:g} dB of limiting it comes to {loudness:.1f}"
        super().__init__(place, problem, f"lower the target to {math.floor(loudness)} LUFS, or render it anyway")


def find_master(mix: Mix, progress: Progress = lambda done: None) -> tuple[MasterStream, float, Measured]:
    """The master of a mix: what to read it from, its gain in dB, and what it measures.

    Raises:
        Cancelled: when `progress` does.
    """
    session = mix.cast.timeline.session
    target, ceiling = session.master.loudness, session.master.ceiling
    heard = MonoDownmix(mix) if session.master.mono else mix
    plain = measure(heard, progress)
    if not math.isfinite(plain.loudness):
        return MasterStream(heard, 0.0, None), 0.0, plain  # silence, or too little sound to have a loudness
    gain = round(plain.gain_to(target), GAIN_PLACES)
    if plain.true_peak + gain <= ceiling:
        return MasterStream(heard, gain, None), gain, plain.at_gain(gain)
    most = ceiling - plain.true_peak + _MOST_LIMITING
    foresight, unforeseen = Foresight(heard, plain, ceiling, progress), 0.0
    for _ in range(_TIMES_MEASURED):
        gain = foresight.gain_to(target - unforeseen, most)
        master = MasterStream(heard, gain, ceiling)
        measured = measure(master, progress)
        missed = target - measured.loudness
        if abs(missed) <= CLOSE_ENOUGH or (gain >= most and missed > 0):
            break
        unforeseen = measured.loudness - foresight.loudness(gain)
    return master, gain, measured


def render(
    mix: Mix,
    path: Path,
    stems_folder: Path | None = None,
    progress: Callable[[str, float], None] = lambda stage, done: None,
    also: Sequence[Path] = (),
    bits: str = "24",
    anyway: bool = False,
) -> Mastered:
    """Write a mix's master, by the ending of `path`, and in other formats next to it in the same pass.

    Stems are written before the master gain and sum to the mix: each is the step from one rounded running sum to the
    next (voice, voice + chimes, all), so their 24-bit sum is the rounded mix exactly.

    Args:
        mix: what to render.
        path: the master's final name.
        stems_folder: where voice.wav, chimes.wav and bed.wav go; made when missing.
        progress: called with a stage ("measuring", "writing") and 0.0 to 1.0; raises Cancelled to stop.
        also: further files of the same master, each by its ending; every file is encoded on a thread of its own.
        bits: of a sample in WAV and FLAC, one of `formats.BITS`.
        anyway: write a master that misses its loudness, too.

    Raises:
        OutOfReach: the loudness asked for cannot be had; raised before anything is written.
        InputError: a place cannot be written; nothing is left there.
        Cancelled: when `progress` does; nothing is left.
    """
    paths = [path, *also]
    encodings = [encoding_of(index, bits, mix.rate) for index in paths]  # before any work
    if len({real_path(index) for index in paths}) < len(paths):
        raise InputError(str(path), "is given twice", "give each output a name of its own")
    for folder in {index.parent for index in paths}:
        sweep_parts(folder)
    channels = 1 if mix.cast.timeline.session.master.mono else 2
    tags = mix.cast.timeline.session.file_tags
    with ExitStack() as files:
        if stems_folder is not None:
            files.enter_context(_made_folder(stems_folder))
        outs = [
            files.enter_context(AudioFile(index, mix.rate, channels, mix.length, encoding, tags))
            for index, encoding in zip(paths, encodings)
        ]
        wanted = {name: stems_folder / f"{name}.wav" for name in STEMS} if stems_folder else {}
        stem_files = {
            name: files.enter_context(AudioFile(index, mix.rate, 2, mix.length)) for name, index in wanted.items()
        }
        master, gain, measured = find_master(mix, lambda done: progress("measuring", done))
        target = mix.cast.timeline.session.master.loudness
        if not anyway and _shortfall(measured, target):
            raise OutOfReach(str(path), measured.loudness, target)

        if not stem_files and all(out.anywhere for out in outs):
            _write_anywhere(master, outs, lambda done: progress("writing", done))
            publish(outs)
            return Mastered(
                path, tuple(also), {}, mix.length, mix.rate, gain, master.deepest, measured, target, mix.troubles
            )

        def make(start: int) -> tuple[int, dict[str, NDArray[np.int32]], NDArray[np.float32]]:
            frames = min(BLOCK, mix.length - start)
            steps = _stem_steps(mix.stems(start, frames)) if stem_files else {}
            return start + frames, steps, master.read(start, frames)

        for end, steps, loud in ahead(make, range(0, mix.length, BLOCK)):
            for name, file in stem_files.items():
                file.write(steps[name])
            for out in outs:
                out.write(loud)
            progress("writing", end / mix.length)
        publish([*stem_files.values(), *outs])
    return Mastered(
        path,
        tuple(also),
        wanted,
        mix.length,
        mix.rate,
        gain,
        master.deepest,
        measured,
        mix.cast.timeline.session.master.loudness,
        mix.troubles,
    )


def _write_anywhere(master: MasterStream, outs: Sequence[AudioFile], progress: Progress) -> None:
    """Write files whose parts need not come in order, several at once."""
    size = _PART_SECONDS * master.rate

    def part(start: int, tell: Tell) -> float:
        end = min(start + size, master.length)
        for at in range(start, end, BLOCK):
            block = master.read(at, min(BLOCK, end - at))
            for out in outs:
                out.write_at(at, block)
            tell(block.shape[1])
        return master.deepest

    starts = range(0, master.length, size)
    master.deepest = min(in_shares(part, starts, master.length, progress, master.forkable), default=0.0)


@contextmanager
def _made_folder(folder: Path) -> Iterator[None]:
    """A folder, made where it is missing; taken away again where the work in it failed and left nothing."""
    made = not folder.exists()
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise InputError(str(folder), f"cannot be made ({error.strerror})", "choose another place") from None
    sweep_parts(folder)
    try:
        yield
    except BaseException:
        with suppress(OSError):
            if made:
                folder.rmdir()
        raise


def _stem_steps(stems: Stems) -> dict[str, NDArray[np.int32]]:
    with_chimes = stems.voice + stems.chimes
    sums = [np.rint(part * np.float32(FULL_SCALE)) for part in (stems.voice, with_chimes, with_chimes + stems.bed)]
    voice, chimes, bed = sums[0], sums[1] - sums[0], sums[2] - sums[1]
    return {
        name: np.clip(s, -FULL_SCALE, FULL_SCALE - 1).astype(np.int32) for name, s in zip(STEMS, (voice, chimes, bed))
    }
