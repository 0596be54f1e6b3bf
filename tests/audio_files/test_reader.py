"""Every format gives, at any place and in any order, the samples that reading it from the start gives."""

from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import given, settings
from hypothesis import strategies as st

from nafas.audio_files import AudioReader
from nafas.audio_files.mp3_frames import mp3_frames
from nafas.errors import InputError
from nafas.sound.files.recording import Recording

RATE, SECONDS = 48_000, 9
KINDS = {
    "wav": ("WAV", "PCM_24", {}),
    "float.wav": ("WAV", "FLOAT", {}),
    "flac": ("FLAC", "PCM_16", {}),
    "aiff": ("AIFF", "PCM_16", {}),
    "ogg": ("OGG", "VORBIS", {}),
    "opus": ("OGG", "OPUS", {}),
    "mp3": ("MP3", "MPEG_LAYER_III", {"bitrate_mode": "CONSTANT", "compression_level": 0.45}),
    "vbr.mp3": ("MP3", "MPEG_LAYER_III", {"bitrate_mode": "VARIABLE", "compression_level": 0.5}),
}
NAMES = [*KINDS, "headless.mp3", "headless-vbr.mp3", "tagged.mp3"]


def music() -> np.ndarray:
    """Notes, noise and silences, so that the frames of a codec differ in size."""
    rng, t = np.random.default_rng(1), np.arange(SECONDS * RATE) / RATE
    tone = np.sin(2 * np.pi * 220 * 2 ** (np.floor(3 * t) % 7 / 12) * t) * (np.floor(2 * t) % 3 > 0)
    both = np.stack([tone, np.roll(tone, 999)], 1) * 0.3 + rng.standard_normal((len(t), 2)) * 0.05 * (t > 5)[:, None]
    return both.astype(np.float32)


def without_header(data: bytes) -> bytes:
    """An MP3 without its first frame, which says how many there are."""
    size = 144_000 * (0, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320)[data[2] >> 4] // RATE
    return data[size + (data[2] >> 1 & 1) :]


@pytest.fixture(scope="module")
def files(tmp_path_factory) -> Path:
    folder = tmp_path_factory.mktemp("sound")
    for name, (container, subtype, options) in KINDS.items():
        with soundfile.SoundFile(folder / name, "w", RATE, 2, subtype, format=container, **options) as file:
            for part in np.array_split(music(), 20):
                file.write(part)
    whole, vbr = (folder / "mp3").read_bytes(), (folder / "vbr.mp3").read_bytes()
    (folder / "headless.mp3").write_bytes(without_header(whole))
    (folder / "headless-vbr.mp3").write_bytes(without_header(vbr))
    tag = b"ID3\x04\x00\x00\x00\x00\x0f\x00" + bytes(0x0F << 7)
    (folder / "tagged.mp3").write_bytes(tag + without_header(whole) + b"TAG" + bytes(125))
    return folder


def from_the_start(path: Path) -> np.ndarray:
    reader = AudioReader(path)
    blocks = [reader.read(at, 5000) for at in range(0, reader.frames, 5000)]
    return np.concatenate(blocks)


@pytest.mark.parametrize("name", NAMES)
@settings(max_examples=12)
@given(places=st.lists(st.tuples(st.integers(0, SECONDS * RATE), st.integers(1, 40_000)), min_size=2, max_size=12))
def test_any_place_in_any_order_is_as_from_the_start(files, name, places):
    whole, reader = from_the_start(files / name), AudioReader(files / name)
    # A step of about a block forward, again and again, is what two threads of a render make of one file.
    for start, frames in [*places, *((at, 3000) for at in range(0, 390_000, 65_536))]:
        assert np.array_equal(reader.read(start, frames), whole[start : start + frames])


@pytest.mark.parametrize("name", NAMES)
def test_several_threads_read_the_same(files, name):
    whole, reader = from_the_start(files / name), AudioReader(files / name)

    def same(start: int) -> bool:
        return np.array_equal(reader.read(start, 20_000), whole[start : start + 20_000])

    with ThreadPoolExecutor(3) as pool:
        assert all(pool.map(same, [n * 65_536 % 400_000 for n in range(24)]))


@pytest.mark.parametrize("name", ["wav", "ogg", "opus", "headless-vbr.mp3"])
def test_another_rate_joins_block_by_block_wherever_it_is_read(files, name):
    recording, again = Recording(files / name, 44_100), Recording(files / name, 44_100)
    there = np.concatenate([recording.read(at, 30_000) for at in range(0, 300_000, 30_000)], axis=1)
    back = [again.read(at, 30_000) for at in reversed(range(0, 300_000, 30_000))]
    assert np.abs(there - np.concatenate(back[::-1], axis=1)).max() < 1e-5


@pytest.mark.parametrize("name", NAMES)
def test_all_of_it_is_there(files, name):
    """The length of an MP3 without a header was guessed from its first frame: this one came out at a third."""
    found = from_the_start(files / name)
    assert SECONDS * RATE <= len(found) <= SECONDS * RATE + 2500
    loud = np.abs(found).max(axis=1) > 0.02
    assert np.flatnonzero(loud)[-1] > (SECONDS - 0.2) * RATE
    if name.startswith("headless"):
        frames = mp3_frames(files / name)
        assert frames.counted is None and frames.count * 1152 - 1152 <= len(found) <= frames.count * 1152


@pytest.mark.parametrize("name", [name for name in NAMES if not name.startswith(("headless", "tagged"))])
@pytest.mark.parametrize("share", [0.3, 0.9, 0.999])
def test_a_file_that_was_cut_off_is_refused_with_a_remedy(files, name, share, tmp_path):
    path = tmp_path / name
    data = (files / name).read_bytes()
    path.write_bytes(data[: int(len(data) * share)])
    with pytest.raises(InputError, match=r"whole copy|breaks off"):
        reader = AudioReader(path)
        reader.read(0, reader.frames)


@pytest.mark.parametrize("name", ["ogg", "opus"])
def test_a_stream_whose_last_page_is_missing_is_cut_off_too(files, name, tmp_path):
    data = (files / name).read_bytes()
    (tmp_path / name).write_bytes(data[: data.rindex(b"OggS")])
    with pytest.raises(InputError, match="last page is missing"):
        AudioReader(tmp_path / name)


@pytest.mark.parametrize("name", ["mp3", "vbr.mp3", "ogg", "opus"])
def test_two_recordings_joined_are_refused_rather_than_halved(files, name, tmp_path):
    (tmp_path / name).write_bytes((files / name).read_bytes() * 2)
    with pytest.raises(InputError, match="joined"):
        AudioReader(tmp_path / name)


def test_a_wave_file_whose_length_was_never_written_goes_on_to_its_end(files, tmp_path):
    """As programs leave it that write into a pipe."""
    data = bytearray((files / "wav").read_bytes())
    at = data.index(b"data") + 4
    data[at : at + 4] = b"\xff\xff\xff\xff"
    (tmp_path / "s.wav").write_bytes(data)
    reader = AudioReader(tmp_path / "s.wav")
    assert np.array_equal(reader.read(1000, 500), AudioReader(files / "wav").read(1000, 500))


def test_a_header_that_promises_more_than_any_memory_is_refused_at_once(tmp_path):
    """A corrupt MP3 asked for 71 GiB."""
    head = bytes([0xFF, 0xFB, 0x94, 0x44])
    frame = (head + bytes(32) + b"Xing" + (1).to_bytes(4, "big") + (2**31).to_bytes(4, "big")).ljust(384, b"\0")
    (tmp_path / "x.mp3").write_bytes(frame + (head + bytes(380)) * 4)
    with pytest.raises(InputError, match="breaks off"):
        AudioReader(tmp_path / "x.mp3")


@pytest.mark.parametrize(
    ("subtype", "channels"), [("PCM_16", 1), ("PCM_24", 2), ("PCM_24", 6), ("FLOAT", 2), ("PCM_U8", 1)]
)
@pytest.mark.parametrize("container", ["WAV", "RF64", "WAVEX"])
def test_samples_taken_straight_from_a_wav_are_those_that_the_library_gives(tmp_path, subtype, channels, container):
    sound = np.random.default_rng(3).uniform(-1, 1, (5000, channels))
    sound[0], sound[1] = 1.0, -1.0
    soundfile.write(tmp_path / "a.wav", sound, 48_000, subtype=subtype, format=container)
    theirs, _ = soundfile.read(tmp_path / "a.wav", dtype="float32", always_2d=True)
    reader = AudioReader(tmp_path / "a.wav")
    for start, frames in ((0, 5000), (17, 333), (4999, 1), (4990, 99), (0, 0)):
        assert np.array_equal(reader.read(start, frames), theirs[start : start + frames])
    data = (tmp_path / "a.wav").read_bytes()
    (tmp_path / "a.wav").write_bytes(data[:2000])  # cut off while it is open
    with pytest.raises(InputError, match=r"a\.wav at"):
        reader.read(0, 5000)
