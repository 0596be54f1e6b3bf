"""Write a take book: clips as files, the index last and whole.

Nothing that is in the book already is touched. One program writes a book at a time; what another added meanwhile is
read before the index is written, so that nothing drops out of it. Stopped or out of space, the index is as before and
the new files are taken away again; killed, they stay, and are found as recordings without a line.
"""

import contextlib
import io
import json
import re
import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Protocol

import numpy as np

from nafas.errors import InputError
from nafas.files import check_regular, digest_of, one_writer, sweep_parts, write_new, write_whole
from nafas.filters import butterworth
from nafas.voice.beat.felt_beat import find_beat
from nafas.voice.clip import Samples
from nafas.voice.level import sounding, speech_gain, tame_peaks
from nafas.voice.takebook.book import FORMAT, INDEX, Take, TakeBook, TakeIndex


class Line(Protocol):
    """A line to be said, as a call sheet has it."""

    @property
    def text(self) -> str: ...
    @property
    def language(self) -> str: ...


BEFORE, AFTER = 0.06, 0.14
"""Seconds kept around what was found, as safe tails."""


def open_or_new(folder: Path, title: str) -> TakeIndex:
    """The index of a take book, or a new one for a folder that holds none. Raises InputError."""
    if folder.exists() and not folder.is_dir():
        raise InputError(str(folder), "is a file", "choose a folder for the take book")
    holds = folder.exists() and any(not path.name.startswith(".") for path in folder.iterdir())
    # Looked for after the files: another import may be beginning this very book, and its index is its first file.
    if (folder / INDEX).exists():
        return TakeBook(folder).index
    if holds:
        raise InputError(str(folder), "holds files and is no take book", "choose an empty or a new folder")
    return TakeIndex(format=FORMAT, title=title)


def begin_book(folder: Path, title: str) -> bool:
    """Make a take book's folder with an empty index, where there is none: killed in the middle of the first import, it
    is a book with recordings that have no line, and no heap of files. True where it was made. Raises InputError."""
    index = open_or_new(folder, title)
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise InputError(str(folder), f"cannot be made ({error.strerror})", "choose another folder") from None
    sweep_parts(folder)
    if (folder / INDEX).exists():
        return False
    with one_writer(folder):
        if not (folder / INDEX).exists():
            write_index(folder, index)
            return True
    return False


def change_book(folder: Path, change: Callable[[TakeIndex], TakeIndex]) -> TakeIndex:
    """Change a book's index as it stands on the disk now, while no other program writes it. Raises InputError."""
    with one_writer(folder):
        index = change(TakeBook(folder).index)
        write_index(folder, index)
    return index


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
                check_regular(book.folder / name)
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
    data = flac_bytes(clip, rate)
    path = write_new(folder, file_stem(line.text), ".flac", data)
    return path, described(clip, rate, speech, line, origin, path.name, digest_of(data))


def described(
    clip: Samples, rate: int, speech: tuple[float, float], line: Line, origin: str, name: str, sha256: str
) -> Take:
    """What the index says of a clip: trims with safe tails, level, felt beat.

    Args:
        clip: the file's samples, shape (n,).
        speech: where the speech begins and ends in it, seconds.
    """
    low, high = max(0.0, speech[0] - BEFORE), min(len(clip) / rate, speech[1] + AFTER)
    part = clip[int(low * rate) : int(high * rate)]
    gain = speech_gain(part, rate)
    # As it will be heard: peaks eased, at its level.
    beat = find_beat(tame_peaks(part * np.float32(10 ** (gain / 20)), rate), rate)
    return Take(
        file=name, text=line.text, language=line.language, trim=(low, high),
        gain=gain, beat=min(beat.seconds, high - low), beat_confidence=round(beat.confidence, 3),
        sha256=sha256, origin=origin,
    )  # fmt: skip


def write_index(folder: Path, index: TakeIndex) -> None:
    """Write a take book's index whole, in the format of now. Raises InputError; the old one is then intact."""
    raw = {**index.model_dump(mode="json", exclude_defaults=True), "format": FORMAT}
    text = json.dumps(raw, ensure_ascii=False, indent=1)
    write_whole(folder / INDEX, (text + "\n").encode())


def cleaned(samples: Samples, rate: int) -> Samples:
    """A clip without rumble and offset: high-passed at 60 Hz, forwards and backwards, so that no beat moves."""
    if len(samples) < rate // 20:
        return samples
    return np.clip(butterworth(samples, rate, 2, above=60), -1, 1).astype(np.float32)


def flac_bytes(samples: Samples, rate: int) -> bytes:
    import soundfile

    out = io.BytesIO()
    soundfile.write(out, samples, rate, format="FLAC", subtype="PCM_24")
    return out.getvalue()


def file_stem(text: str) -> str:
    """A short plain file name for a line."""
    return re.sub(r"[^\w]+", "-", text.casefold()).strip("-")[:40] or "line"
