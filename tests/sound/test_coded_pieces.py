"""MP3 and AAC that are encoded in pieces: as long as what was written, as near to it at the seams as one encoder comes,
and read alike by two decoders (mpg123 in libsndfile, FFmpeg)."""

import av
import numpy as np
import pytest
import soundfile
from hypothesis import given, settings
from hypothesis import strategies as st

from nafas.exchange import aac_pieces
from nafas.exchange.aac import decode, write_m4a
from nafas.exchange.aac_pieces import coded
from nafas.sound.files import mp3_file
from nafas.sound.files.encode import AudioFile
from nafas.sound.files.mp3_file import Mp3File
from nafas.sound.files.mp3_splice import SAMPLES, Frame, frames_of, joined, seam


def sound(rate, channels, seconds, seed=3):
    """Words over a bed, as far as an encoder can tell: bursts with sharp beginnings, a tone and noise."""
    draw = np.random.default_rng(seed)
    t = np.arange(int(seconds * rate)) / rate
    bursts = np.exp(-((t * 1.7) % 1) * 9) * np.sin(2 * np.pi * (180 + 400 * np.sin(t)) * t)
    noise = np.cumsum(draw.standard_normal((channels, len(t))), axis=1) * 0.02
    noise -= np.array([np.convolve(row, np.ones(64) / 64, "same") for row in noise])
    return (0.4 * bursts + 0.1 * np.sin(2 * np.pi * 220 * t) + 0.3 * noise).astype(np.float32)


def written(path, block, rate, step=30_000):
    file = Mp3File(path, rate, len(block))
    for at in range(0, block.shape[1], step):
        file.write(block[:, at : at + step])
    file.finish()
    file.close()
    return soundfile.read(path, dtype="float32", always_2d=True)[0].T


def missed(heard, block):
    """RMS of what is wrong in each frame's time, shape (frames,)."""
    n = block.shape[1] // SAMPLES * SAMPLES
    wrong = (heard[:, :n] - block[:, :n]).reshape(len(block), -1, SAMPLES)
    return np.sqrt((wrong**2).mean(axis=(0, 2)))


@pytest.mark.parametrize(("rate", "channels"), [(48_000, 2), (44_100, 2), (48_000, 1), (32_000, 2)])
def test_pieces_sound_as_one_encoder_does(tmp_path, monkeypatch, rate, channels):
    block = sound(rate, channels, 22.3)
    one = written(tmp_path / "one.mp3", block, rate)
    monkeypatch.setattr(mp3_file, "PIECE", 200)
    pieces = written(tmp_path / "pieces.mp3", block, rate)
    assert one.shape == pieces.shape == block.shape
    before, after = missed(one, block), missed(pieces, block)
    assert after.max() <= 1.05 * before.max() and after.mean() == pytest.approx(before.mean(), rel=0.02)
    around = np.concatenate([np.arange(200 * n - 40, 200 * n + 40) for n in range(1, len(before) // 200)])
    assert (after[around] <= 1.5 * before[around] + 3e-4).all()
    with av.open(str(tmp_path / "pieces.mp3")) as container:
        heard = sum(frame.samples for frame in container.decode(audio=0))
    assert 0 <= heard - block.shape[1] < 2 * SAMPLES  # FFmpeg leaves the end of the last frame in, LAME's delay out


def test_where_two_encoders_never_agree_one_goes_through_both(tmp_path, monkeypatch):
    block = sound(48_000, 2, 22.3)
    monkeypatch.setattr(mp3_file, "PIECE", 200)
    monkeypatch.setattr(mp3_file, "seam", lambda before, after, places: None)
    assert missed(written(tmp_path / "a.mp3", block, 48_000), block).max() < 0.05


@pytest.mark.parametrize(("rate", "channels"), [(48_000, 2), (44_100, 1)])
def test_pieces_of_aac_sound_as_one_encoder_does(tmp_path, monkeypatch, rate, channels):
    block = sound(rate, channels, 40.3)
    soundfile.write(tmp_path / "a.wav", block.T, rate, subtype="PCM_24")
    heard = []
    for piece in (10**6, 400):
        monkeypatch.setattr(aac_pieces, "PIECE", piece)
        done = []
        write_m4a(tmp_path / "a.wav", tmp_path / "a.m4a", (), {}, done.append)
        decode(tmp_path / "a.m4a", tmp_path / "b.wav")
        heard.append(soundfile.read(tmp_path / "b.wav", dtype="float32", always_2d=True)[0].T)
        assert done[-1] == 1 and 0 <= heard[-1].shape[1] - block.shape[1] < aac_pieces.SAMPLES
    before, after = (missed(each, block) for each in heard)
    assert len(done) == 5 and after.mean() == pytest.approx(before.mean(), rel=0.05)
    assert after.max() < 1.5 * before.max() and np.isfinite(after).all()


def test_where_two_encoders_of_aac_never_agree_one_goes_through_both(tmp_path, monkeypatch):
    block = sound(48_000, 2, 22)
    soundfile.write(tmp_path / "a.wav", block.T, 48_000, subtype="PCM_24")
    monkeypatch.setattr(aac_pieces, "_seam", lambda before, after: None)
    files = []
    for piece in (10**6, 400):
        monkeypatch.setattr(aac_pieces, "PIECE", piece)
        packets = coded(tmp_path / "a.wav", "stereo", 192_000, lambda done: None)
        files.append(b"".join(bytes(packet) for packet in packets))
    assert files[0] == files[1]


@pytest.mark.parametrize("frames", [1, 1151, 60_000])
def test_the_shortest_are_whole(tmp_path, frames):
    block = sound(48_000, 2, 2)[:, :frames]
    assert written(tmp_path / "a.mp3", block, 48_000).shape == block.shape


def test_it_does_not_depend_on_how_it_is_written_or_on_the_cores(tmp_path, monkeypatch):
    block = sound(48_000, 2, 12)
    monkeypatch.setattr(mp3_file, "PIECE", 150)
    files = []
    for step, cores in ((4_000, 1), (100_000, 4)):
        monkeypatch.setattr(mp3_file, "cores", lambda cores=cores: cores)
        written(tmp_path / "a.mp3", block, 48_000, step)
        files.append((tmp_path / "a.mp3").read_bytes())
    assert files[0] == files[1]


def test_one_that_is_given_up_leaves_nothing(tmp_path):
    with pytest.raises(KeyError), AudioFile(tmp_path / "a.mp3", 48_000, 2, 10**8) as out:
        out.write(sound(48_000, 2, 2))
        raise KeyError
    assert not list(tmp_path.iterdir())


@settings(max_examples=60)
@given(st.lists(st.integers(200, 400), min_size=4, max_size=8), st.data())
def test_what_a_frame_reaches_back_for_is_laid_over_what_was_unused(sizes, data):
    """Bytes are followed, not sound: what the second encoder's frame needs is where a decoder looks for it."""
    head = bytes([0xFF, 0xFB, 0xB4, 0x44]) + bytes(32)
    other = data.draw(st.permutations(sizes))
    before = [Frame(head + bytes([65 + n]) * size, 500, ()) for n, size in enumerate(sizes)]
    after = [Frame(head + bytes([97 + n]) * size, 0, ()) for n, size in enumerate(other)]
    at = len(sizes) - 1
    back = data.draw(st.integers(0, min(500, sum(sizes[:at]), sum(other[:at]))))
    after[at] = Frame(after[at].data, back, ())
    frames = joined(before, after, at)
    assert [len(frame) for frame in frames] == [36 + size for size in sizes[:at]]
    room = b"".join(frame[36:] for frame in frames)
    wanted = b"".join(frame.data[36:] for frame in after[:at])
    assert room[len(room) - back :] == wanted[len(wanted) - back :]
    kept = b"".join(frame.data[36:] for frame in before[:at])
    assert room[: len(room) - back] == kept[: len(room) - back]


def test_a_seam_needs_room_and_windows_of_one_shape():
    def frame(back, windows=(0, 0), octet=b"a"):
        return Frame(octet, back, windows)

    assert seam([frame(9), frame(3)], [frame(9), frame(4, octet=b"b")], range(1, 2)) is None
    assert seam([frame(9), frame(4)], [frame(9), frame(4, octet=b"b")], range(1, 2)) == 1
    assert seam([frame(9, (1, 0)), frame(4)], [frame(9), frame(4, octet=b"b")], range(1, 2)) is None
    assert seam([frame(9), frame(4, (0, 2))], [frame(9), frame(4, octet=b"b")], range(1, 2)) is None
    with pytest.raises(ValueError, match="no frame at byte 0"):
        frames_of(b"ID3 is no frame")
