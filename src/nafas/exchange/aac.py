"""AAC in an MP4 container, by PyAV (FFmpeg): a finished master as M4A with its chapters and tags, and what is in such a
file as a player has it."""

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np

from nafas.audio_files import AudioReader
from nafas.errors import InputError
from nafas.exchange.aac_pieces import coded
from nafas.exchange.chapters import Chapter
from nafas.files import part_path, reason, sweep_parts
from nafas.state.folder import cache_folder, made

CONTAINERS = (".m4a", ".mp4")
BIT_RATE = 192_000
_RATES = (44_100, 48_000)


def write_m4a(
    master: Path,
    path: Path,
    chapters: Sequence[Chapter],
    tags: dict[str, str],
    progress: Callable[[float], None] = lambda done: None,
) -> None:
    """Encode a master.

    Args:
        master: WAV or FLAC, 44,100 or 48,000 Hz.
        path: of the .m4a; it appears whole or not at all.
        chapters: of the session.
        tags: title, artist, album, comment, track.
        progress: called with 0.0 to 1.0; raises Cancelled to stop.

    Raises:
        InputError: the master cannot be read, or the place cannot be written.
        Cancelled: when `progress` does; nothing is left.
    """
    import av

    reader = AudioReader(master)
    if reader.rate not in _RATES or reader.channels > 2:
        raise InputError(str(master), "cannot become AAC as it is", "render it at 44100 or 48000 Hz")
    part = part_path(path)
    try:
        with av.open(str(part), "w", format="ipod") as out:
            for name, text in tags.items():
                if text:
                    out.metadata[name] = text
            stream: Any = out.add_stream("aac", rate=reader.rate)
            stream.bit_rate = BIT_RATE
            layout = stream.layout = "stereo" if reader.channels == 2 else "mono"
            put_chapters(out, chapters)
            for packet in coded(master, layout, BIT_RATE, progress):
                packet.stream = stream
                out.mux(packet)
        part.replace(path)
    except OSError as error:
        raise InputError(str(path), f"cannot be written ({reason(error)})", "free some space") from None
    finally:
        part.unlink(missing_ok=True)


def decode(path: Path, into: Path, progress: Callable[[float], None] = lambda done: None) -> None:
    """Write the sound of an MP4 container as a WAV file of 24 bits (RF64), without the encoder's delay.

    Args:
        path: of the .m4a or .mp4.
        into: of the WAV file.
        progress: called with 0.0 to 1.0; raises Cancelled to stop.

    Raises:
        InputError: it holds no sound, cannot be decoded, or the place cannot be written.
        Cancelled: when `progress` does.
    """
    import av
    import soundfile

    try:
        with av.open(str(path)) as container:
            if not container.streams.audio:
                raise InputError(str(path), "holds no sound", "copy or export it again")
            stream: Any = container.streams.audio[0]
            length = max(1.0, float((stream.duration or 0) * stream.time_base * stream.rate))
            planar = av.AudioResampler("fltp")  # whatever the codec gives
            frames: Iterator[Any] = (frame for coded in container.decode(stream) for frame in planar.resample(coded))
            with soundfile.SoundFile(into, "w", stream.rate, stream.channels, "PCM_24", format="RF64") as out:
                for frame in frames:
                    block = frame.to_ndarray().T
                    at = out.tell() if frame.pts is None else round(frame.pts * frame.time_base * stream.rate)
                    if at > out.tell():
                        out.write(np.zeros((at - out.tell(), stream.channels), np.float32))
                    out.write(block[max(0, out.tell() - at) :])
                    progress(min(1.0, out.tell() / length))
    except av.FFmpegError as error:
        raise InputError(str(path), f"cannot be decoded ({error})", "copy or export it again") from None
    except (OSError, soundfile.LibsndfileError) as error:
        raise InputError(str(into), f"cannot be written ({error})", "free some space") from None


@contextmanager
def decoded(path: Path, progress: Callable[[float], None] = lambda done: None) -> Iterator[Path | None]:
    """Inside, the sound of an M4A or MP4 file as a WAV file; None for a file of another kind. Raises as `decode`."""
    if path.suffix.lower() not in CONTAINERS:
        yield None
        return
    # In the cache, since /tmp may itself be in memory: four hours are 4 GB. What a killed process left goes first.
    folder = made(cache_folder())
    sweep_parts(folder)
    sound = part_path(folder / "decoded.wav")
    try:
        decode(path, sound, progress)
        yield sound
    finally:
        sound.unlink(missing_ok=True)


def put_chapters(out: Any, chapters: Sequence[Chapter]) -> None:
    """Chapters of an open container of PyAV's, in milliseconds."""
    out.set_chapters(
        [
            {
                "id": number,
                "start": round(1000 * chapter.start),
                "end": round(1000 * chapter.end),
                "time_base": Fraction(1, 1000),
                "metadata": {"title": chapter.title},
            }
            for number, chapter in enumerate(chapters)
        ]
    )
