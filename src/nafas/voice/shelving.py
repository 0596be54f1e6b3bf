"""Put what was cut out of a recording into a take book: clips as files, the index written last and whole.

Nothing that is in the book already is touched. Stopped or out of space, the index is as before and the new files are
taken away again.
"""

import contextlib
import hashlib
import io
import json
import shutil
from collections.abc import Callable
from pathlib import Path

import numpy as np

from nafas.errors import InputError
from nafas.files import write_whole
from nafas.voice.beat import find_beat
from nafas.voice.callsheet import Line, file_stem
from nafas.voice.clip import Samples
from nafas.voice.cutting import CutUp
from nafas.voice.level import sounding, speech_gain, tame_peaks
from nafas.voice.source import Source
from nafas.voice.takebook import FORMAT, INDEX, Take, TakeBook, TakeIndex, checked

BEFORE, AFTER = 0.06, 0.14
"""Seconds kept around what was found, as safe tails."""
_MARGIN = 0.25  # and more of the room in the file itself, for trims to be moved into


def open_or_new(folder: Path, title: str) -> TakeIndex:
    """The index of a take book, or a new one for a folder that holds none. Raises InputError."""
    if (folder / INDEX).exists():
        return TakeBook(folder).index
    if folder.exists() and not folder.is_dir():
        raise InputError(str(folder), "is a file", "choose a folder for the take book")
    if folder.exists() and any(folder.iterdir()):
        raise InputError(str(folder), "holds files and is no take book", "choose an empty or a new folder")
    return TakeIndex(format=FORMAT, title=title)


def shelve(
    source: Source,
    found: CutUp,
    folder: Path,
    title: str,
    progress: Callable[[str, float], None] = lambda stage, done: None,
) -> list[Take]:
    """Write every cut into a take book, sure ones before unsure ones of the same line.

    Args:
        source, found: a recording, and what was found in it.
        folder: the take book's; made where it is missing.
        title: of a new take book.

    Returns:
        the takes that were added.

    Raises:
        InputError: a file cannot be written; the book is then as it was.
        Cancelled: when `progress` does; likewise.
    """
    index = open_or_new(folder, title)
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise InputError(str(folder), f"cannot be made ({error.strerror})", "choose another folder") from None
    written: list[Path] = []
    takes: list[Take] = []
    try:
        for number, cut in enumerate(sorted(found.cuts, key=lambda cut: (cut.line, -cut.confidence))):
            progress("writing", number / max(1, len(found.cuts)))
            line = found.lines[cut.line]
            begin = max(0.0, cut.start - BEFORE - _MARGIN)
            end = min(source.seconds, cut.end + AFTER + _MARGIN)
            samples = source.read(int(begin * source.rate), int((end - begin) * source.rate))
            speech = (cut.start - begin, cut.end - begin)
            path, take = write_take(folder, samples, source.rate, speech, line, source.place(cut.start))
            written.append(path)
            takes.append(checked(take, confidence=round(cut.confidence, 3)))
        write_index(folder, index.model_copy(update={"takes": (*index.takes, *takes)}))
    except BaseException:
        for path in written:
            with contextlib.suppress(OSError):
                path.unlink()
        raise
    return takes


def copy_book(book: TakeBook, folder: Path) -> None:
    """Copy a take book's index and the files it names into an empty or a new folder; the index last.

    Raises:
        InputError: the folder holds something, or there is no room; what was copied is taken away again.
    """
    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise InputError(str(folder), "is not empty", "choose an empty or a new folder for the copy")
    written: list[Path] = []
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for name in dict.fromkeys(take.file for take in book.index.takes):
            if name not in book.absent:
                written.append(folder / name)
                shutil.copyfile(book.folder / name, folder / name)
        write_index(folder, book.index)
    except BaseException as error:
        for path in written:
            with contextlib.suppress(OSError):
                path.unlink()
        if isinstance(error, OSError):
            reason = f"cannot be written ({error.strerror})"
            raise InputError(str(folder), reason, "free some space or choose another folder") from None
        raise


def write_take(
    folder: Path, samples: Samples, rate: int, speech: tuple[float, float], line: Line, origin: str
) -> tuple[Path, Take]:
    """Write one clip as a file of a take book, cleaned, and describe it: trims with safe tails, level, felt beat.

    The book's index is not written.

    Args:
        samples: the clip with the room around it, shape (n,).
        speech: where the speech begins and ends in it, seconds.

    Raises:
        InputError: the file cannot be written.
    """
    clip = cleaned(samples, rate)
    begin, end = (min(len(clip), int(t * rate)) for t in speech)
    over = begin + sounding(clip[begin:end], rate)  # the noise after a word is no part of it
    speech = (speech[0], max(speech[0] + 0.05, over / rate))
    data = _flac(clip, rate)
    path = _free(folder, file_stem(line.text))
    write_whole(path, data)
    low, high = max(0.0, speech[0] - BEFORE), min(len(clip) / rate, speech[1] + AFTER)
    part = clip[int(low * rate) : int(high * rate)]
    gain = speech_gain(part, rate)
    # As it will be heard: peaks eased, at its level.
    beat = find_beat(tame_peaks(part * np.float32(10 ** (gain / 20)), rate), rate)
    take = Take(
        file=path.name, text=line.text, language=line.language, trim=(low, high),
        gain=gain, beat=min(beat.seconds, high - low), beat_confidence=round(beat.confidence, 3),
        sha256=hashlib.sha256(data).hexdigest(), origin=origin,
    )  # fmt: skip
    return path, take


def write_index(folder: Path, index: TakeIndex) -> None:
    """Write a take book's index whole, in the format of now. Raises InputError; the old one is then intact."""
    raw = {**index.model_dump(mode="json", exclude_defaults=True), "format": FORMAT}
    text = json.dumps(raw, ensure_ascii=False, indent=1)
    write_whole(folder / INDEX, (text + "\n").encode())


def cleaned(samples: Samples, rate: int) -> Samples:
    """A clip without rumble and offset: high-passed at 60 Hz, forwards and backwards, so that no beat moves."""
    from scipy import signal

    if len(samples) < rate // 20:
        return samples
    sos = signal.butter(2, 60.0, "highpass", fs=rate, output="sos")
    return np.clip(signal.sosfiltfilt(sos, samples), -1, 1).astype(np.float32)


def _flac(samples: Samples, rate: int) -> bytes:
    import soundfile

    out = io.BytesIO()
    soundfile.write(out, samples, rate, format="FLAC", subtype="PCM_24")
    return out.getvalue()


def _free(folder: Path, stem: str) -> Path:
    number = 1
    while (folder / f"{stem}-{number}.flac").exists():
        number += 1
    return folder / f"{stem}-{number}.flac"
