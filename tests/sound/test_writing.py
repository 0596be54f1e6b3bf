"""Files written whole or not at all, and the limiter's gain."""

import os

import numpy as np
import pytest
import soundfile
from hypothesis import given
from hypothesis import strategies as st

from nafas.errors import InputError
from nafas.files import sweep_parts
from nafas.sound.files import encode
from nafas.sound.files.encode import FULL_SCALE, AudioFile, to_24_bit
from nafas.voice.clip import tapered
from nafas.voice.level import gain_curve

RATE = 48_000


def test_a_file_past_what_riff_can_hold_is_rf64(folder, monkeypatch):
    monkeypatch.setattr("nafas.sound.files.encode._WAV_LIMIT", 10_000)
    sound = np.random.default_rng(1).uniform(-0.5, 0.5, (2, 4800)).astype(np.float32)
    with AudioFile(folder / "long.wav", 48_000, 2, 4800, tags={"title": "long"}) as file:
        file.write(sound)
        file.finish()
    info = soundfile.info(folder / "long.wav")
    assert (info.format, info.frames) == ("RF64", 4800)
    assert np.abs(soundfile.read(folder / "long.wav")[0].T - sound).max() < 2**-23


def test_too_little_room_is_said_before_anything_is_written(folder, monkeypatch):
    monkeypatch.setattr("shutil.disk_usage", lambda place: type("Usage", (), {"free": 5_000_000})())
    with pytest.raises(InputError, match="5 MB free, 276 MB are needed"):
        AudioFile(folder / "m.wav", 48_000, 2, 960 * 48_000)
    assert list(folder.iterdir()) == []


def steps(frames=5000, channels=2):
    return np.random.default_rng(1).integers(-FULL_SCALE, FULL_SCALE, (channels, frames), dtype=np.int32)


@pytest.mark.parametrize("channels", [1, 2])
@pytest.mark.parametrize("name", ["a.wav", "a.flac", "A.WAV"])
def test_every_24_bit_step_comes_back(folder, name, channels):
    data = steps(200_000, channels)
    with AudioFile(folder / name, RATE, channels, data.shape[1]) as file:
        for start in range(0, data.shape[1], 65_536):
            file.write(data[:, start : start + 65_536])
        assert not (folder / name).exists()  # not under its name before it is whole
        file.finish()
    found, rate = soundfile.read(folder / name, dtype="int32", always_2d=True)
    assert rate == RATE and np.array_equal(found.T >> 8, data)
    assert [p.name for p in folder.iterdir()] == [name]


def test_a_file_too_long_for_wav_is_rf64(folder, monkeypatch):
    monkeypatch.setattr(encode, "_WAV_LIMIT", 1000)
    data = steps()
    with AudioFile(folder / "a.wav", RATE, 2, 5000) as file:
        file.write(data)
        file.finish()
    assert soundfile.info(folder / "a.wav").format == "RF64"
    assert np.array_equal(soundfile.read(folder / "a.wav", dtype="int32")[0].T >> 8, data)


def test_a_file_shorter_than_promised_is_no_master(folder):
    with pytest.raises(InputError, match="less than was given"), AudioFile(folder / "a.wav", RATE, 2, 9000) as file:
        file.write(steps(5000))
        file.finish()
    assert list(folder.iterdir()) == []


def test_an_error_half_way_keeps_the_old_file(folder):
    (folder / "a.flac").write_bytes(b"old")
    with pytest.raises(RuntimeError), AudioFile(folder / "a.flac", RATE, 2, 5000) as file:
        for _ in range(40):  # more than the queue holds
            file.write(steps())
        raise RuntimeError
    assert (folder / "a.flac").read_bytes() == b"old" and len(list(folder.iterdir())) == 1


def test_only_parts_of_dead_programs_are_swept(folder):
    names = [f".a.wav.{os.getpid()}.part", ".a.wav.4194301.part", ".notes.part", "a.wav"]
    for name in names:
        (folder / name).touch()
    sweep_parts(folder)
    assert sorted(p.name for p in folder.iterdir()) == sorted([names[0], names[2], names[3]])


def test_samples_past_full_scale_are_clipped_not_wrapped():
    found = to_24_bit(np.array([[-2.0, -1.0, 0.0, 0.5 / FULL_SCALE, 1.0, 3.0]], np.float32))
    assert found.tolist() == [[-FULL_SCALE, -FULL_SCALE, 0, 0, FULL_SCALE - 1, FULL_SCALE - 1]]


@given(st.lists(st.floats(0.01, 1), min_size=1, max_size=200), st.integers(2, 20))
def test_the_gain_is_never_above_what_a_peak_allows(required, reach):
    needed = np.array(required)
    gain = gain_curve(needed, reach)
    assert (gain <= needed + 1e-12).all() and (gain > 0).all()
    # And at no step above what its neighbours need, so that the line between two steps is safe as well.
    assert (gain[1:] <= needed[:-1] + 1e-12).all() and (gain[:-1] <= needed[1:] + 1e-12).all()
    assert gain_curve(np.ones(50), reach) == pytest.approx(np.ones(50))


@given(st.integers(0, 400))
def test_a_trim_never_clicks(length):
    samples = np.ones(length, np.float32)
    out = tapered(samples, 8000)
    assert len(out) == length and (samples == 1).all()
    if length > 1:
        assert out[0] == 0 and out[-1] == 0 and np.abs(np.diff(out)).max() <= 1
