"""Chapters: a block each, as podcasts' JSON, as lines for a description, and inside the files that can hold them."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from nafas.languages import handed
from nafas.script.edits.session_edits import block_name
from nafas.timing.clock import clock
from nafas.timing.timeline import Timeline

_LEAST = 5.0
"""Seconds of a chapter: shorter blocks belong to the one before."""


@dataclass(frozen=True)
class Chapter:
    """Seconds from and to, and its name."""

    start: float
    end: float
    title: str


def chapters_of(timeline: Timeline) -> list[Chapter]:
    """A chapter a block that has a name or is a set; the first begins at 0, the last ends with the session."""
    starts: list[tuple[float, str]] = []
    for timed in timeline.blocks:
        language = timeline.session.language
        name = block_name(timed.block, language) or (handed(language)["welcome"] if not starts else "")
        if name and (not starts or float(timed.start) - starts[-1][0] >= _LEAST):
            starts.append((0.0 if not starts else float(timed.start), name))
    ends = [*(start for start, _ in starts[1:]), float(timeline.length)]
    return [Chapter(start, end, name) for (start, name), end in zip(starts, ends)]


def podcast_json(chapters: Sequence[Chapter], title: str) -> str:
    """As the podcast namespace has them (JSON Chapters 1.2)."""
    rows = [{"startTime": round(c.start, 3), "endTime": round(c.end, 3), "title": c.title} for c in chapters]
    return json.dumps({"version": "1.2.0", "title": title, "chapters": rows}, indent=1, ensure_ascii=False) + "\n"


def plain_lines(chapters: Sequence[Chapter]) -> str:
    """A line each for a description: its time and its name."""
    return "".join(f"{clock(chapter.start)} {chapter.title}\n" for chapter in chapters)


def cue_sheet(chapters: Sequence[Chapter], audio: str, title: str, artist: str) -> str:
    """A cue sheet for a file that holds no chapters itself (WAV, FLAC); its frames are 1/75 s."""

    def quoted(text: str) -> str:
        return '"' + text.replace('"', "'") + '"'

    kind = "WAVE" if audio.lower().endswith((".wav", ".flac")) else "MP3"
    lines = [f"PERFORMER {quoted(artist)}"] if artist else []
    lines += [f"TITLE {quoted(title)}", f"FILE {quoted(audio)} {kind}"]
    for number, chapter in enumerate(chapters[:99], 1):
        frames = round(chapter.start * 75)
        at = f"{frames // 4500:02d}:{frames // 75 % 60:02d}:{frames % 75:02d}"
        lines += [f"  TRACK {number:02d} AUDIO", f"    TITLE {quoted(chapter.title)}", f"    INDEX 01 {at}"]
    return "\n".join(lines) + "\n"


def put_into(path: Path, chapters: Sequence[Chapter]) -> bool:
    """Put chapters into an MP3 (ID3 CHAP and CTOC) or an Ogg or Opus file (Vorbis comments); False where it holds none.

    The file must not be one that others read yet. Raises OSError where it cannot be written.
    """
    from mutagen import MutagenError

    try:
        if path.suffix.lower() == ".mp3":
            _into_mp3(path, chapters)
        elif path.suffix.lower() in (".ogg", ".opus", ".flac"):
            _into_comments(path, chapters)
        else:
            return False
    except MutagenError as error:
        raise OSError(str(error)) from error
    return True


def _into_mp3(path: Path, chapters: Sequence[Chapter]) -> None:
    from mutagen.id3 import CHAP, CTOC, ID3, TIT2, CTOCFlags, ID3NoHeaderError

    try:
        tags = ID3(path)
    except ID3NoHeaderError:
        tags = ID3()
    names = [f"chp{number}" for number in range(len(chapters))]
    flags = CTOCFlags.TOP_LEVEL | CTOCFlags.ORDERED
    tags.add(CTOC(element_id="toc", flags=flags, child_element_ids=names, sub_frames=[]))
    for name, chapter in zip(names, chapters):
        title = TIT2(encoding=3, text=[chapter.title])
        start, end = round(1000 * chapter.start), round(1000 * chapter.end)
        tags.add(CHAP(element_id=name, start_time=start, end_time=end, sub_frames=[title]))
    tags.save(path, v1=0, v2_version=4)
    _in_time(path)


def _in_time(path: Path) -> None:
    """Put the chapters of an ID3 tag, version 2.4, in order of time: mutagen writes them by size, and there are players
    that take them as they come. Only frames change places."""
    with path.open("r+b") as file:
        head = file.read(10)
        data = file.read(_synchsafe(head[6:10]))
        frames, at = list[tuple[int, bytes]](), 0
        while at + 10 <= len(data) and data[at]:
            end = at + 10 + _synchsafe(data[at + 4 : at + 8])
            frame = data[at:end]
            body = frame[10:].partition(b"\0")[2]  # after the chapter's name: its begin, in ms
            frames.append((int.from_bytes(body[:4]) if frame[:4] == b"CHAP" else -1, frame))
            at = end
        others = b"".join(frame for begin, frame in frames if begin < 0)
        chapters = b"".join(frame for begin, frame in sorted(frames, key=lambda each: each[0]) if begin >= 0)
        file.seek(10)
        file.write(others + chapters + data[at:])


def _synchsafe(data: bytes) -> int:
    """A size in seven bits a byte, as ID3 has them."""
    return sum(byte << shift for byte, shift in zip(data, (21, 14, 7, 0)))


def _into_comments(path: Path, chapters: Sequence[Chapter]) -> None:
    import mutagen

    file = mutagen.File(path)
    if file.tags is None:
        file.add_tags()
    for number, chapter in enumerate(chapters, 1):
        milliseconds = round(1000 * chapter.start)
        hours, rest = divmod(milliseconds, 3_600_000)
        at = f"{hours:02d}:{rest // 60_000:02d}:{rest // 1000 % 60:02d}.{rest % 1000:03d}"
        file.tags[f"CHAPTER{number:03d}"] = [at]
        file.tags[f"CHAPTER{number:03d}NAME"] = [chapter.title]
    file.save()
