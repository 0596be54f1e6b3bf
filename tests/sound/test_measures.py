"""Loudness and true peak against the published test signals, and against another implementation.

Signals: EBU Tech 3341 (2016), "Loudness metering: EBU mode", table 1, stereo cases, from memory of the table.
"""

import os
import subprocess
import sys
import time
from itertools import pairwise

import numpy as np
import pyloudnorm
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.signal import butter, sosfilt, sosfiltfilt, upfirdn

from nafas.errors import Cancelled, InputError
from nafas.filters import butterworth, k_energy, k_weighting
from nafas.parallel.shares import forking, in_shares
from nafas.sound.meters import true_peak as truepeak
from nafas.sound.meters.k_weighting import KFilter
from nafas.sound.meters.loudness import LoudnessMeter, loudness_range, sliding
from nafas.sound.meters.measure import measure
from nafas.sound.meters.true_peak import TruePeakMeter

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


def fine(signal, rate=RATE):
    meter = LoudnessMeter(rate)
    meter.push(signal)
    return meter.fine


def test_short_term_and_momentary_loudness_hold_still():
    """EBU Tech 3341 cases 9 and 12, from memory: level changes as long as the window is do not move it."""
    nine = sliding(fine(sines(*[(-20, 1.34), (-30, 1.66)] * 5)), 3.0)
    assert nine == pytest.approx(np.full(len(nine), -23.0), abs=0.1) and len(nine) > 500
    twelve = sliding(fine(sines(*[(-20, 0.18), (-30, 0.22)] * 25)), 0.4)
    assert twelve == pytest.approx(np.full(len(twelve), -23.0), abs=0.1)


@pytest.mark.parametrize(("seconds", "step", "window"), [(3.0, 0.15, 3.0), (0.4, 0.02, 0.4)], ids=["10", "13"])
def test_the_highest_loudness_is_found_wherever_it_begins(seconds, step, window):
    """EBU Tech 3341 cases 10 and 13, from memory: a tone at -23 dBFS as long as the window, twenty times, each later
    against the grid of a meter."""
    for turn in range(20):
        silence = np.zeros((2, round(turn * step * RATE)))
        tone = np.concatenate([silence, sines((-23, seconds)), np.zeros((2, RATE))], axis=1)
        assert sliding(fine(tone), window).max() == pytest.approx(-23.0, abs=0.1)


@pytest.mark.parametrize("rate", [44_100, 48_000])
@pytest.mark.parametrize(
    ("levels", "expected"),
    [((-20, -30), 10), ((-20, -15), 5), ((-40, -20), 20), ((-50, -35, -20, -35, -50), 15)],
    ids=["1", "2", "3", "4"],
)
def test_loudness_range_of_the_ebu_signals(levels, expected, rate):
    """EBU Tech 3342, table 1, cases 1 to 4, from memory: 20 s at each level, tolerance 1 LU."""
    signal = sines(*((level, 20) for level in levels), rate=rate)
    assert loudness_range(fine(signal, rate)) == pytest.approx(expected, abs=1)


def test_a_range_of_nothing_is_nothing():
    assert loudness_range(np.zeros(0)) == 0 and loudness_range(np.zeros(1000)) == 0
    assert len(sliding(np.ones(10), 3.0)) == 0 and np.isneginf(sliding(np.zeros(200), 3.0)).all()
    tone = fine(sines((-23, 30)))
    assert loudness_range(tone) == pytest.approx(0, abs=0.05)


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


@given(st.integers(1, 9000), st.integers(0, 2**32 - 1), st.integers(1, 4000), st.sampled_from([1, 2, 3, 7]))
def test_looking_only_where_the_peak_can_be_misses_nothing(length, seed, block, smooth):
    """Against interpolating everything; sounds from noise to smooth ones, as speech is, in blocks of any size."""
    random = np.random.default_rng(seed)
    noise = random.standard_normal((2, length + smooth)) * random.random(length + smooth) ** 3
    wave = np.array([np.convolve(side, np.ones(smooth) / smooth)[:length] for side in noise], np.float32)
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

    rate, length, channels = RATE, 170 * RATE, 2

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


def test_a_peak_between_samples_is_found_behind_a_higher_sample():
    """A slow wave whose samples reach 0.55, then a quarter-rate sine at 45 degrees: samples of 0.42, a peak of 0.6."""
    n = np.arange(8192)
    slow = 0.55 * np.sin(2 * np.pi * n / 2048)
    fast = 0.6 * np.sin(2 * np.pi * n / 4 + np.pi / 4) * np.clip(np.minimum(n, n[::-1]) / 2000, 0, 1)
    meter = TruePeakMeter()
    for part in (slow, fast):
        assert np.abs(part).max() <= 0.55
        meter.push(np.array([part, part], np.float32))
    assert meter.finish() == pytest.approx(20 * np.log10(0.6), abs=0.1)


class Sound:
    """An array as a programme."""

    def __init__(self, samples, rate=RATE):
        self.samples, self.rate, self.length, self.channels = samples, rate, samples.shape[1], len(samples)

    def read(self, start, frames):
        out = np.zeros((self.channels, frames), np.float32)
        begin, end = max(0, start), min(self.length, start + frames)
        out[:, begin - start : end - start] = self.samples[:, begin:end]
        return out


def test_parts_measured_side_by_side_are_as_one_pass():
    """A loud low tone over the seam of two parts: a filter that began there again would hear a step."""
    t = np.arange(62 * RATE) / RATE
    tone = np.array([0.5 * np.cos(2 * np.pi * 25 * t)] * 2, np.float32)
    tone[1] *= 0.3
    found = measure(Sound(tone))
    whole = fine(tone)
    assert found.fine == pytest.approx(whole, rel=1e-6)
    assert found.lefts == pytest.approx(whole * (1 / 1.09), rel=1e-3)
    peak = measure(Sound(np.array([t * 0 + 0.1, 0.7 * (np.arange(len(t)) == 61 * RATE)], np.float32)))
    assert peak.true_peak == pytest.approx(20 * np.log10(0.7), abs=0.05)


@pytest.mark.parametrize("rate", [8_000, 22_050, 44_100, 48_000, 96_000])
def test_the_filter_in_runs_is_scipys_filter(rate):
    """Reference library: scipy.signal.sosfilt, in double precision, over one long block; ours over uneven ones."""
    hop = rate // 50
    draw = np.random.default_rng(0)
    sound = draw.normal(0, 0.1, (2, 300 * hop)) * np.repeat([1, 1e-4, 1], 100 * hop)
    sound += 0.3 * np.sin(np.arange(300 * hop) * 2 * np.pi * 20 / rate)  # what the filter takes away
    ours = KFilter(rate, 2, hop)
    cuts = [0, 7, 8, 150, 300]
    found = np.concatenate([ours(sound[:, a * hop : b * hop]) for a, b in pairwise(cuts)], axis=1)
    assert np.abs(found - sosfilt(k_weighting(rate), sound, axis=-1)).max() < 1e-6


def test_forked_processes_find_what_threads_find(folder):
    sound = Sound(np.random.default_rng(1).normal(0, 0.1, (2, 130 * 8_000)).astype(np.float32), 8_000)
    alone = measure(sound)
    sound.forkable = True
    with forking():
        forked = measure(sound)
        assert forked.loudness == alone.loudness and forked.true_peak == alone.true_peak
        assert (forked.fine == alone.fine).all()

        def stop(done):
            raise Cancelled

        with pytest.raises(Cancelled):
            measure(sound, stop)

        def dawdle(item, tell):
            if item:
                time.sleep(1)
                (folder / "done").touch()

        with pytest.raises(Cancelled):
            in_shares(dawdle, range(4), 4, stop)
        assert not (folder / "done").exists()  # it was ended, not waited for

        def fail(item, tell):
            if item == 3:
                raise InputError("there", "is a fault", "fix it")
            return item

        with pytest.raises(InputError, match="is a fault"):
            in_shares(fail, range(6), 6, lambda done: None)
        with pytest.raises(OSError, match="ended from outside"):
            in_shares(lambda item, tell: os.kill(os.getpid(), 9), range(4), 4, lambda done: None)
        seen = in_shares(lambda item, tell: time.sleep(0.2) or os.getpid(), range(4), 4, lambda done: None)
        assert os.getpid() not in seen and len(set(seen)) > 1
        kept = in_shares(lambda item, tell: os.getpid(), range(4), 4, lambda done: None, fork=False)
    assert set(kept) == {os.getpid()}


def test_blas_starts_no_threads():
    # What Linux counts: OpenBLAS starts its threads when NumPy is imported.
    ones = "numpy.ones((900, 900))"
    asked = f"import nafas, numpy; {ones} @ {ones}; print(open('/proc/self/status').read())"
    bare = {name: value for name, value in os.environ.items() if not name.endswith("_NUM_THREADS")}
    seen = subprocess.run([sys.executable, "-c", asked], env=bare, capture_output=True, text=True, check=True).stdout
    assert "\nThreads:\t1\n" in seen


@pytest.mark.parametrize(("order", "above", "below"), [(1, 80, None), (2, 4800, None), (2, None, 100), (2, 120, 1000)])
def test_filters_without_delay_are_scipys_run_both_ways(order, above, below):
    sound = np.random.default_rng(4).standard_normal(24_000) + 0.2
    kind, edges = ("band", (above, below)) if above and below else ("high", above) if above else ("low", below)
    by_scipy = sosfiltfilt(butter(order, edges, kind, fs=24_000, output="sos"), sound)
    ours = butterworth(sound, 24_000, order, **{k: v for k, v in (("above", above), ("below", below)) if v})
    assert np.abs(ours - by_scipy)[4000:-4000].max() < 1e-9  # at the ends SciPy goes on for a few samples only
    assert np.isfinite(butterworth([1.0, 2.0], 24_000, order, 200)).all()


def test_weighted_energy_is_that_of_the_filter_once_it_has_rung_out():
    sound = np.random.default_rng(5).standard_normal((2, 9_001)).astype(np.float32)
    long = np.pad(sound, ((0, 0), (0, 48_000)))
    filtered = sosfilt(k_weighting(48_000), long)
    assert k_energy(sound, 48_000) == pytest.approx((filtered**2).sum(), rel=1e-6)
