"""Another pace at the same pitch, in pieces that join."""

import numpy as np
import pytest

from nafas.sound.bed.stretched import OnDisk, Stretched

RATE = 24_000


def reader(sound):
    def read(start, frames):
        out = np.zeros((2, frames), np.float32)
        begin, end = max(0, start), min(sound.shape[1], start + frames)
        if begin < end:
            out[:, begin - start : end - start] = sound[:, begin:end]
        return out

    return read


def tone(seconds, pitch=330.0):
    t = np.arange(int(seconds * RATE)) / RATE
    return np.array([np.sin(2 * np.pi * pitch * t)] * 2, np.float32) * 0.2


def test_the_pitch_stays_and_joins_are_not_heard():
    """A tone in pieces of 1 s: one line in its spectrum, and its level within half a decibel everywhere."""
    slow = Stretched(reader(tone(16)), RATE, 0.94, seconds=1.0).read(0, 15 * RATE)[0]
    spectrum = np.abs(np.fft.rfft(slow * np.hanning(len(slow))))
    assert np.argmax(spectrum) * RATE / len(slow) == pytest.approx(330, abs=0.5)
    levels = 10 * np.log10((slow[RATE:-RATE].reshape(-1, RATE // 50) ** 2).mean(axis=1))
    assert levels.max() - levels.min() < 1.0


@pytest.mark.parametrize("fine", [True, False])
@pytest.mark.parametrize("pace", [0.5, 0.92, 1.08, 1.5])
def test_strokes_stay_where_they_belong(pace, fine):
    sound = np.zeros((2, 20 * RATE), np.float32)
    places = np.arange(1, 19, 0.8)
    u = np.arange(int(0.02 * RATE)) / RATE
    for place in places:
        sound[:, int(place * RATE) :][:, : len(u)] = np.sin(2 * np.pi * 1200 * u) * np.exp(-u / 0.005)
    made = Stretched(reader(sound), RATE, pace, seconds=3.0, fine=fine)
    off = []
    for place in places:
        near = made.read(int((place / pace - 0.1) * RATE), int(0.2 * RATE))[0]
        off.append(np.abs(near).argmax() / RATE - 0.1)
    assert np.abs(off).max() < (0.02 if fine else 0.04)


@pytest.mark.parametrize("kept", [None, OnDisk])
def test_a_block_depends_on_its_place_alone(kept):
    noise = np.random.default_rng(3).standard_normal((2, 8 * RATE)).astype(np.float32) * 0.1
    made = Stretched(reader(noise), RATE, 1.05, seconds=1.0, kept=kept and kept())
    whole = made.read(0, 6 * RATE)
    for start, frames in ((0, 10), (RATE - 500, 3000), (4 * RATE + 7, RATE), (100, 5 * RATE)):
        again = Stretched(reader(noise), RATE, 1.05, seconds=1.0)
        assert np.allclose(made.read(start, frames), whole[:, start : start + frames], atol=1e-6)
        assert np.allclose(again.read(start, frames), whole[:, start : start + frames], atol=1e-6)
    levels = 10 * np.log10((whole.mean(axis=0).reshape(-1, RATE // 20) ** 2).mean(axis=1))
    assert levels.max() - levels.min() < 4.0  # noise itself moves by about 2 in 50 ms


def test_silence_and_what_lies_outside_stay_silent():
    made = Stretched(reader(tone(2)), RATE, 0.95, seconds=1.0)
    assert not made.read(5 * RATE, RATE).any() and not made.read(-3 * RATE, RATE).any()
