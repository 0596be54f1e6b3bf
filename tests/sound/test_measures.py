"""Loudness and true peak against the published test signals, and against another implementation.

Signals: EBU Tech 3341 (2016), "Loudness metering: EBU mode", table 1, stereo cases, from memory of the table.
"""

import numpy as np
import pyloudnorm
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.signal import upfirdn

from nafas.sound import truepeak
from nafas.sound.loudness import LoudnessMeter, k_weighting
from nafas.sound.measure import measure
from nafas.sound.truepeak import TruePeakMeter

RATE = 48_000


def sines(*parts, rate=RATE):
    """1 kHz in both channels, (dBFS peak, seconds) after one another."""
    wave = []
    for level, seconds in parts:
        n = round(seconds * rate)
        wave.append(10 ** (level / 20) * np.sin(2 * np.pi * 1000 * np.arange(n) / rate))
    return np.array([np.concatenate(wave)] * 2)


def loudness(signal, rate=RATE, block=9_999):
    meter = LoudnessMeter(rate)
    for at in range(0, signal.shape[1], block):
        meter.push(signal[:, at : at + block])
    return meter.integrated()


@pytest.mark.parametrize("rate", [44_100, 48_000, 96_000])
@pytest.mark.parametrize(
    ("parts", "expected"),
    [
        ([(-23, 20)], -23.0),
        ([(-33, 20)], -33.0),
        ([(-36, 10), (-23, 60), (-36, 10)], -23.0),
        ([(-72, 10), (-36, 10), (-23, 60), (-36, 10), (-72, 10)], -23.0),
        ([(-26, 20), (-20, 20.1), (-26, 20)], -23.0),
    ],
    ids=["1", "2", "3", "4", "5"],
)
def test_integrated_loudness_of_the_ebu_signals(parts, expected, rate):
    signal = sines(*parts, rate=rate)
    assert loudness(signal, rate) == pytest.approx(expected, abs=0.1)
    other = pyloudnorm.Meter(rate, filter_class="DeMan").integrated_loudness(signal.T)
    assert loudness(signal, rate) == pytest.approx(other, abs=0.01)


def test_k_weighting_is_the_standards_table_at_48_khz():
    """ITU-R BS.1770-4, tables 1 and 2."""
    shelf = [1.53512485958697, -2.69169618940638, 1.19839281085285, 1, -1.69065929318241, 0.73248077421585]
    highpass = [1.0, -2.0, 1.0, 1.0, -1.99004745483398, 0.99007225036621]
    assert np.abs(k_weighting(48_000) - [shelf, highpass]).max() < 1e-8


@pytest.mark.parametrize(
    ("divisor", "phase", "amplitude", "expected"),
    [(4, 0, 0.5, -6.0), (4, 45, 0.5, -6.0), (6, 60, 0.5, -6.0), (8, 67.5, 0.5, -6.0), (4, 45, 1.41, 3.0)],
    ids=["15", "16", "17", "18", "19"],
)
def test_true_peak_of_the_ebu_signals(divisor, phase, amplitude, expected):
    """Cases 15 to 19; tolerance +0.2, -0.4 dB. Ends are faded: a sine cut short has a higher peak of its own."""
    n = np.arange(RATE)
    fade = np.clip(np.minimum(n, n[::-1]) / 2000, 0, 1)
    wave = fade * amplitude * np.sin(2 * np.pi * n / divisor + np.radians(phase))
    meter = TruePeakMeter()
    for at in range(0, RATE, 1000):
        meter.push(np.array([wave, wave])[:, at : at + 1000])
    assert expected - 0.4 <= meter.finish() <= expected + 0.2


@given(st.integers(1, 3000), st.integers(0, 2**32 - 1), st.integers(1, 700))
def test_looking_only_where_the_peak_can_be_misses_nothing(length, seed, block):
    random = np.random.default_rng(seed)
    wave = (random.standard_normal((2, length)) * random.random(length) ** 3).astype(np.float32)
    meter = TruePeakMeter()
    for at in range(0, length, block):
        meter.push(wave[:, at : at + block])
    whole = np.abs(upfirdn(truepeak._TAPS, wave, up=4, axis=-1)).max()
    assert 10 ** (meter.finish() / 20) == pytest.approx(whole, rel=1e-4)


def test_nothing_and_silence_have_no_loudness():
    for signal in (np.zeros((2, 0)), np.zeros((2, RATE)), np.full((2, 10_000), 0.5)):
        assert loudness(signal) == -np.inf
    assert TruePeakMeter().finish() == -np.inf


class Noise:
    """Three minutes whose level changes; readable from any place."""

    rate, length = RATE, 170 * RATE

    def __init__(self):
        base = np.random.default_rng(5).standard_normal((2, self.length)).astype(np.float32) * 0.05
        self.wave = base * (1 + np.sin(np.arange(self.length) / 3e5)).astype(np.float32)

    def read(self, start, frames):
        out = np.zeros((2, frames), np.float32)
        part = self.wave[:, start : start + frames]
        out[:, : part.shape[1]] = part
        return out


def test_parts_measured_side_by_side_are_the_whole():
    noise = Noise()
    found = measure(noise)
    peak = TruePeakMeter()
    peak.push(noise.wave)
    assert found.loudness == pytest.approx(loudness(noise.wave), abs=1e-4)
    assert found.true_peak == pytest.approx(peak.finish(), abs=1e-3)
