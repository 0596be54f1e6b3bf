"""A video of the guide: the page come alive, drawn by the code of the Rehearse view, in step with its master.

H.264 and AAC in MP4, by PyAV (FFmpeg). Frame n shows the session at exactly n over the frame rate.
"""

from collections.abc import Callable, Iterator, Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtGui import QFontMetricsF, QImage, QPainter

from nafas.audio_files import AudioReader
from nafas.desk.rehearse.guide_painter import GuidePainter
from nafas.desk.score.lettering import opening_width, wrapped
from nafas.desk.theme import NIGHT, Theme, font
from nafas.errors import InputError
from nafas.exchange.aac import BIT_RATE, put_chapters, sound_frames
from nafas.exchange.chapters import Chapter
from nafas.files import part_beside, reason
from nafas.rehearsal.guide import Guide
from nafas.score.layout import lay_out
from nafas.voice.casting import Cast

SIZES = {"1080p": (1920, 1080), "720p": (1280, 720), "square": (1080, 1080)}
RATES = (25, 30, 60)
_QUALITY = {"preset": "superfast", "crf": "20", "tune": "animation"}
_PAGE = 760


def write_video(
    cast: Cast,
    master: Path,
    path: Path,
    chapters: Sequence[Chapter] = (),
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
        chapters: put into it.
        size, rate: one of `SIZES`, and frames a second, one of `RATES`.
        colours: of a theme.
        progress: called with 0.0 to 1.0; raises Cancelled to stop.

    Raises:
        InputError: the master cannot be read, or the place cannot be written.
        Cancelled: when `progress` does; nothing is left.
    """
    import av

    width, height = SIZES[size]
    metrics = QFontMetricsF(font(11.5))
    layout = lay_out(cast.timeline, cast, _PAGE, lambda t, w: wrapped(t, w, metrics), measure=opening_width)
    painter = GuidePainter(Guide(cast.timeline, layout), width, height, colours)
    reader = AudioReader(master)
    part = part_beside(path)
    many = int(cast.timeline.length * rate) + 1
    try:
        with av.open(str(part), "w", format="mp4", options={"movflags": "faststart"}) as out:
            out.metadata["title"] = cast.timeline.session.title
            picture: Any = out.add_stream("libx264", rate=rate, options=_QUALITY)
            picture.width, picture.height, picture.pix_fmt = width, height, "yuv420p"
            picture.codec_context.thread_count, picture.codec_context.thread_type = 0, "AUTO"
            picture.time_base = Fraction(1, rate)
            sound: Any = out.add_stream("aac", rate=reader.rate)
            sound.bit_rate, sound.layout = BIT_RATE, "stereo" if reader.channels == 2 else "mono"
            put_chapters(out, chapters)
            blocks = sound_frames(reader, sound.layout.name, reader.rate // 10)
            for number, frame in enumerate(_frames(painter, many, rate)):
                out.mux(picture.encode(frame))
                while (block := next(blocks, None)) is not None:
                    out.mux(sound.encode(block))
                    if block.pts / reader.rate > (number + 1) / rate:
                        break
                progress(number / many)
            for block in blocks:
                out.mux(sound.encode(block))
            out.mux(picture.encode(None))
            out.mux(sound.encode(None))
        part.replace(path)
    except OSError as error:
        raise InputError(str(path), f"cannot be written ({reason(error)})", "free some space") from None
    finally:
        part.unlink(missing_ok=True)


def _frames(painter: GuidePainter, many: int, rate: int) -> Iterator[Any]:
    """Every frame, as PyAV wants it."""
    import av

    image = QImage(painter.width, painter.height, QImage.Format.Format_RGB32)
    for number in range(many):
        brush = QPainter(image)
        painter.paint(brush, painter.guide.at(number / rate))
        brush.end()
        pixels = np.frombuffer(image.constBits(), np.uint8).reshape(painter.height, image.bytesPerLine() // 4, 4)
        frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(pixels[:, : painter.width]), format="bgra")
        frame = frame.reformat(format="yuv420p")
        frame.pts, frame.time_base = number, Fraction(1, rate)
        yield frame
