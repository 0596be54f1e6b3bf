"""What a player reads: straight on, over and over, and at another speed."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from nafas.sound.mix.stream import Stream

RATE = 24_000


class Ramp:
    """Each frame is its own number; silence outside."""

    rate, channels, length = RATE, 2, 60 * RATE

    def read(self, start, frames):
        places = np.arange(start, start + frames)
        return np.array([np.where((places >= 0) & (places < self.length), places, 0)] * 2, np.float32)


class Tone(Ramp):
    def read(self, start, frames):
        return np.array([np.sin(2 * np.pi * 300 * np.arange(start, start + frames) / RATE)] * 2, np.float32) * 0.2


@given(st.integers(0, 60 * RATE), st.integers(0, 10**6))
def test_straight_on_it_ends_at_the_end(begin, at):
    stream = Stream(Ramp(), begin)
    assert stream.place(at) == min(begin + at, Ramp.length)
    if begin + at < Ramp.length - 10:
        assert stream.read(at, 10)[0].tolist() == list(range(begin + at, begin + at + 10))


@given(st.integers(0, 100), st.integers(101, 300), st.integers(0, 100), st.integers(0, 5000))
def test_over_and_over_it_stays_within_its_stretch(first, last, begin, at):
    stream = Stream(Ramp(), min(begin, last - 1), (first, last))
    place = stream.place(at)
    assert place < last and (place >= first or begin + at < first)


def test_a_stretch_behind_the_beginning_or_without_length_is_passed_by():
    for loop in ((0, 100), (500, 500), (900, 200)):
        assert Stream(Ramp(), 1000, loop).place(5000) == 6000


@pytest.mark.parametrize("speed", [0.5, 0.9, 1.25, 1.5])
def test_another_speed_keeps_the_pitch_and_tells_its_place(speed):
    stream = Stream(Tone(), 5 * RATE, None, speed)
    assert stream.place(4 * RATE) == 5 * RATE + round(4 * RATE * speed)
    sound = np.concatenate([stream.read(at, 999)[0] for at in range(0, 3 * RATE, 999)])
    spectrum = np.abs(np.fft.rfft(sound * np.hanning(len(sound)), 1 << 19))
    assert np.argmax(spectrum) * RATE / (1 << 19) == pytest.approx(300, abs=1.5)
    assert Stream(Tone(), 0, (RATE, 2 * RATE), speed).place(30 * RATE) < 2 * RATE


@pytest.mark.parametrize("speed", [0.0, 0.49, 1.6, -1])
def test_a_speed_past_the_bounds_is_refused(speed):
    with pytest.raises(ValueError, match="not offered"):
        Stream(Tone(), 0, None, speed)
