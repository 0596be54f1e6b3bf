"""The picture of a guide video in parts that stay in the cache until the whole is written: a video that was stopped, or
whose machine was, goes on where it was.

A part's name holds the sum of its first frame as it is drawn now. What was made by other drawing code, or of another
session, is never taken up.
"""

import hashlib
import os
import shutil
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtGui import QImage, QPainter

from nafas.drawing.guide.painter import GuidePainter
from nafas.files import one_writer, part_path, sweep_parts
from nafas.parallel.shares import PerWorker, Tell, in_shares
from nafas.state.folder import cache_folder, made

PART_SECONDS = 20
_FOLDER = "guide-video"
_KEPT = 14 * 86_400.0  # seconds after which parts that nobody went on with are swept
_BT709, _STUDIO = 1, 1  # as ITU-T H.273 numbers them
_QUALITY = {"preset": "superfast", "crf": "20", "tune": "animation"}


def picture_stream(out: Any, width: int, height: int, rate: int) -> Any:
    """The H.264 stream of a container that is being written; its colours are those of ITU-R BT.709, studio range."""
    stream = out.add_stream("libx264", rate=rate, options=_QUALITY)
    stream.width, stream.height, stream.pix_fmt = width, height, "yuv420p"
    stream.codec_context.thread_count = 1  # every core has a part of its own
    stream.time_base = Fraction(1, rate)
    context = stream.codec_context
    context.colorspace = context.color_primaries = context.color_trc = _BT709
    context.color_range = _STUDIO
    return stream


def make_parts(
    painter: Callable[[], GuidePainter], rate: int, count: int, folder: Path, progress: Callable[[float], None]
) -> list[Path]:
    """Every part of a video in its order, several at once; those that are there are not made again.

    Args:
        painter: makes what draws the frames, for one worker.
        rate: frames a second.
        count: frames of the whole.
        folder: of the parts.
        progress: called with 0.0 to 1.0.

    Raises:
        OSError: the cache cannot be written.
        Whatever `progress` raises; parts that are complete stay.
    """
    drawing = PerWorker(lambda: _Parts(painter(), rate, count, folder))

    def part(number: int, tell: Tell) -> Path:
        return drawing.mine.part(number, tell)

    return in_shares(part, range(-(-count // (PART_SECONDS * rate))), count, progress)


class _Parts:
    """The parts of one video, as one worker makes them."""

    def __init__(self, painter: GuidePainter, rate: int, count: int, folder: Path) -> None:
        self.painter, self.rate, self.count, self.folder = painter, rate, count, folder
        self._image = QImage(painter.width, painter.height, QImage.Format.Format_RGB32)

    def part(self, number: int, tell: Tell) -> Path:
        import av

        step = PART_SECONDS * self.rate
        begin, end = number * step, min(self.count, (number + 1) * step)
        seen = hashlib.sha256(self._drawn(begin).tobytes()).hexdigest()[:16]
        path = self.folder / f"{number:05d}-{seen}.mp4"
        if path.is_file():
            tell(end - begin)
            return path
        part = part_path(path)
        try:
            with av.open(str(part), "w", format="mp4") as out:
                stream = picture_stream(out, self.painter.width, self.painter.height, self.rate)
                for at in range(begin, end):
                    frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(self._drawn(at)), format="bgra")
                    frame = frame.reformat(format="yuv420p", dst_colorspace=_BT709, dst_color_range=_STUDIO)
                    frame.pts, frame.time_base = at - begin, Fraction(1, self.rate)
                    out.mux(stream.encode(frame))
                    tell(1)
                out.mux(stream.encode(None))
            with part.open("rb") as file:
                os.fsync(file)  # a part that is there is whole, whatever happens to the machine
            part.replace(path)
        finally:
            part.unlink(missing_ok=True)
        return path

    def _drawn(self, number: int) -> NDArray[np.uint8]:
        """Frame `number`, (height, width, 4) as blue, green, red and nothing; it lasts until the next is drawn."""
        brush = QPainter(self._image)
        self.painter.paint(brush, self.painter.guide.at(number / self.rate))
        brush.end()
        lines = self._image.bytesPerLine() // 4
        whole = np.frombuffer(self._image.constBits(), np.uint8).reshape(self.painter.height, lines, 4)
        return whole[:, : self.painter.width]


@contextmanager
def parts_folder(key: str) -> Iterator[Path]:
    """The folder of a video's parts, which this process alone uses; it is gone when all went well.

    Args:
        key: of what the video shows.

    Raises:
        InputError: it cannot be made, or another process makes the same video.
    """
    above = made(cache_folder() / _FOLDER)
    for old in above.iterdir():
        with suppress(OSError):
            if old.name != key and time.time() - old.stat().st_mtime > _KEPT:
                shutil.rmtree(old, ignore_errors=True)
    folder = made(above / key)
    with one_writer(folder, wait=0.5):
        sweep_parts(folder)
        yield folder
        shutil.rmtree(folder, ignore_errors=True)
