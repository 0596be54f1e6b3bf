"""A video of the guide: the page come alive, drawn by the code of the Rehearse view, in step with its master.

H.264, AAC and a track of captions in MP4, by PyAV (FFmpeg). Frame n shows the session at exactly n over the frame rate.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import asdict
from fractions import Fraction
from pathlib import Path
from typing import Any

from PySide6.QtGui import QFontMetricsF

from nafas import __version__
from nafas.audio_files import AudioReader
from nafas.drawing.guide.painter import GuidePainter
from nafas.drawing.guide.sizes import SIZES
from nafas.drawing.guide.video_parts import PART_SECONDS, make_parts, parts_folder
from nafas.drawing.page.lettering import opening_width, wrapped
from nafas.drawing.theme import NIGHT, Theme, font
from nafas.errors import InputError
from nafas.exchange.aac import BIT_RATE, put_chapters
from nafas.exchange.aac_pieces import sound_frames
from nafas.exchange.captions import Caption, escaped
from nafas.exchange.chapters import Chapter
from nafas.files import digest_of, part_path, reason
from nafas.languages import three_letters
from nafas.rehearsal.guide import Guide
from nafas.score.layout import lay_out
from nafas.script.file import session_text
from nafas.voice.casting import Cast

_PAGE = 760
_USUAL_SIZE = 16  # of FFmpeg's own captions: no player need change it
_DRAWN = 0.95  # share of the work that the picture takes, about


def write_video(
    cast: Cast,
    master: Path,
    path: Path,
    chapters: Sequence[Chapter] = (),
    captions: Sequence[Caption] = (),
    size: str = "1080p",
    rate: int = 30,
    colours: Theme = NIGHT,
    progress: Callable[[float], None] = lambda done: None,
) -> None:
    """Draw and encode a guide video. On any thread; a QGuiApplication must be there.

    Args:
        cast: of the session.
        master: its sound, as written: WAV or FLAC at 44,100 or 48,000 Hz.
        path: of the .mp4; it appears whole or not at all.
        chapters, captions: put into it; captions in order of time, none over the next.
        size, rate: one of `SIZES`, and frames a second, one of `RATES`.
        colours: of a theme.
        progress: called with 0.0 to 1.0; raises Cancelled to stop.

    Raises:
        InputError: the master cannot be read, the place or the cache cannot be written, or another process makes the
            same video.
        Cancelled: when `progress` does; the same video goes on where this one was.
    """
    width, height = SIZES[size]
    metrics = QFontMetricsF(font(11.5))
    layout = lay_out(cast.timeline, cast, _PAGE, lambda t, w: wrapped(t, w, metrics), measure=opening_width)
    guide = Guide(cast.timeline, layout)
    count = int(cast.timeline.length * rate) + 1
    part = part_path(path)
    try:
        with parts_folder(_key(cast, size, rate, colours)) as folder:
            parts = make_parts(
                lambda: GuidePainter(guide, width, height, colours), rate, count, folder,
                lambda done: progress(_DRAWN * done),
            )  # fmt: skip
            _join(cast, parts, AudioReader(master), part, chapters, captions, rate, progress)
            part.replace(path)
    except OSError as error:
        problem, remedy = f"cannot be written ({reason(error)})", "free some space there and in the cache"
        raise InputError(str(path), problem, remedy) from None
    finally:
        part.unlink(missing_ok=True)


def _key(cast: Cast, size: str, rate: int, colours: Theme) -> str:
    """Of what the picture shows: the session as it is timed and said, and how it is drawn."""
    said = [(placement.start, placement.said) for placement in cast.placements]
    shown = (session_text(cast.timeline.session), str(cast.timeline.length), said, size, rate, asdict(colours))
    return digest_of(repr((__version__, *shown)).encode())[:32]


def _join(
    cast: Cast,
    parts: Sequence[Path],
    reader: AudioReader,
    path: Path,
    chapters: Sequence[Chapter],
    captions: Sequence[Caption],
    rate: int,
    progress: Callable[[float], None],
) -> None:
    """The picture as it is in its parts, with sound, captions and chapters."""
    import av

    session = cast.timeline.session
    with av.open(str(path), "w", format="mp4", options={"movflags": "faststart"}) as out:
        for key, text in session.file_tags.items():
            if text:
                out.metadata[key] = text
        with av.open(str(parts[0])) as first:
            picture: Any = out.add_stream_from_template(first.streams.video[0])
        sound: Any = out.add_stream("aac", rate=reader.rate)
        sound.bit_rate, sound.layout = BIT_RATE, "stereo" if reader.channels == 2 else "mono"
        language = sound.metadata["language"] = three_letters(session.language)
        shown = _CaptionTrack(out, captions, language) if captions else None
        put_chapters(out, chapters)
        blocks = sound_frames(reader, sound.layout.name, reader.rate // 10)
        for number, each in enumerate(parts):
            begin = number * PART_SECONDS
            for at, packet in _packets(each, picture, begin):
                out.mux(packet)
                while (block := next(blocks, None)) is not None:
                    out.mux(sound.encode(block))
                    if block.pts / reader.rate > at:
                        break
                if shown is not None:
                    shown.until(at)
            progress(_DRAWN + (1 - _DRAWN) * (number + 1) / len(parts))
        for block in blocks:
            out.mux(sound.encode(block))
        out.mux(sound.encode(None))
        if shown is not None:
            shown.until(float("inf"))


def _packets(part: Path, picture: Any, begin: int) -> Iterator[tuple[float, Any]]:
    """The packets of a part that begins at so many seconds, each with the seconds at which it is decoded."""
    import av

    with av.open(str(part)) as source:
        for packet in source.demux(video=0):
            if packet.dts is None or packet.pts is None or packet.time_base is None:
                continue
            moved = begin / packet.time_base
            packet.pts, packet.dts = round(packet.pts + moved), round(packet.dts + moved)
            at = float(packet.dts * packet.time_base)
            packet.stream = picture
            yield at, packet


class _CaptionTrack:
    """The captions of a container that is being written, put in as the picture comes to them."""

    def __init__(self, out: Any, captions: Sequence[Caption], language: str) -> None:
        import pysubs2

        self._out, self._waiting = out, list(reversed(captions))
        self._stream = out.add_stream("mov_text")
        self._stream.metadata["language"] = language
        context = self._stream.codec_context
        context.time_base = self._stream.time_base = Fraction(1, 1000)
        styled = pysubs2.SSAFile()
        styled.styles["Default"].fontsize = _USUAL_SIZE
        context.subtitle_header = styled.to_string("ass").encode()

    def until(self, seconds: float) -> None:
        """Put in those that begin up to then."""
        from av.subtitles.subtitle import SubtitleSet

        while self._waiting and self._waiting[-1].start <= seconds:
            caption = self._waiting.pop()
            start, end = round(1000 * caption.start), round(1000 * caption.end)
            text = f"0,0,Default,,0,0,0,,{escaped(caption.text)}"
            packet = self._stream.codec_context.encode_subtitle(
                SubtitleSet.create(text.encode(), 0, end - start, start)
            )
            packet.pts = packet.dts = start
            packet.duration, packet.time_base, packet.stream = end - start, Fraction(1, 1000), self._stream
            self._out.mux(packet)
