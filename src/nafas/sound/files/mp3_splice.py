"""MP3 frames of two encoders that heard the same sound, joined without a seam: so that a file is encoded in pieces, on
every core.

A frame's data may begin in the frames before it, up to 511 bytes back (the bit reservoir, ISO/IEC 11172-3, 2.4.3.4).
Where the first encoder left at least as many bytes unused as the second one's next frame reaches back, those bytes are
laid over the unused ones, and the frames go on from there. The overlap of the transform cancels at that place if both
used windows of the same shape around it.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from nafas.audio_files.mp3_frames import frame_of

SAMPLES = 1152
"""Of a frame, at 32, 44.1 and 48 kHz."""
_HEAD = 4


@dataclass(frozen=True)
class Frame:
    """One frame.

    Attributes:
        data: all of its bytes.
        back: bytes that its data begin before it.
        windows: shape of the transform's windows, of each channel in the first half and then in the second.
    """

    data: bytes
    back: int
    windows: tuple[int, ...]

    @property
    def side(self) -> int:
        """Bytes of header and side information: what follows is room for data."""
        return _HEAD + (17 if self.data[3] >> 6 == 3 else 32)


def frames_of(data: bytes) -> list[Frame]:
    """The frames of MPEG-1 Layer III as an encoder writes them, without tags or checksums.

    Raises:
        ValueError: there is something else in between.
    """
    frames, at = [], 0
    while at < len(data):
        layout = frame_of(data[at : at + _HEAD])
        if layout is None:
            raise ValueError(f"no frame at byte {at}")
        frames.append(_frame(data[at : at + layout[0]]))
        at += layout[0]
    return frames


def _frame(data: bytes) -> Frame:
    mono = data[3] >> 6 == 3
    side = int.from_bytes(data[_HEAD : _HEAD + (17 if mono else 32)], "big")
    width = 8 * (17 if mono else 32)

    def bits(at: int, count: int) -> int:
        return side >> (width - at - count) & ((1 << count) - 1)

    first = 18 if mono else 20  # after what is shared by both halves
    # Of each half and channel, 59 bits: the 34th says whether its window is unusual, three more which one it is.
    places = range(first + 33, width, 59)
    return Frame(data, bits(0, 9), tuple(bits(at + 1, 3) if bits(at, 1) else 0 for at in places))


def seam(before: Sequence[Frame], after: Sequence[Frame], places: range) -> int | None:
    """Where frames of one encoder can be followed by those of another one.

    Args:
        before, after: frames of each; those at one place hold the same sound.
        places: that are asked. Where both wrote the same bytes is best; most encoders agree after two seconds.

    Returns:
        the first place that is taken from `after`; None where none can be.
    """
    for at in places:
        if before[at] == after[at] and before[at - 1].windows == after[at - 1].windows:
            return at
    for at in places:
        alike = before[at - 1].windows == after[at - 1].windows and before[at].windows == after[at].windows
        if alike and before[at].back >= after[at].back:
            return at
    return None


def joined(before: Sequence[Frame], after: Sequence[Frame], at: int) -> list[bytes]:
    """The frames before place `at` of one encoder, ready to be followed by those of the other from there on."""
    left = after[at].back
    room, place = b"", at
    while len(room) < left:
        place -= 1
        room = after[place].data[after[place].side :] + room
    frames, place = [frame.data for frame in before[:at]], at
    while left:
        place -= 1
        size = min(left, len(frames[place]) - before[place].side)
        end = len(room) - (after[at].back - left)
        frames[place] = frames[place][:-size] + room[end - size : end]
        left -= size
    return frames
