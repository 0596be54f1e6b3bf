"""The compiled loops give what the NumPy way gives, which is the reference: random sound, odd lengths, one channel and
two, silence after sound (numbers too small to be normal), samples at and over full scale."""

import os
import subprocess
import sys

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nafas import native
from nafas.audio_files.pcm import PcmData
from nafas.script import save_session
from nafas.sound.bed.ducking import LevelLine
from nafas.sound.bed.looped import add_around
from nafas.sound.files import encode
from nafas.sound.master.limiter import glide
from nafas.sound.meters import true_peak
from nafas.sound.meters.k_weighting import KPowers

pytestmark = pytest.mark.skipif(not native.available(), reason="the compiled loops are not built here")


def sound(seed, channels, frames, level=0.3):
    draw = np.random.default_rng(seed)
    t = np.arange(frames) / 48_000
    wave = np.sin(2 * np.pi * draw.uniform(80, 9000) * t) + 0.3 * draw.standard_normal((channels, frames))
    return (level * wave * (1 + np.sin(3 * t))).astype(np.float32)


@settings(max_examples=25)
@given(st.integers(0, 9), st.sampled_from((1, 2)), st.integers(1, 40), st.sampled_from((44_100, 48_000)))
def test_powers_are_those_of_the_matrix_products(seed, channels, runs, rate):
    hop = rate // 50
    block = sound(seed, channels, runs * hop)
    block[:, len(block[0]) // 2 :] *= np.float32(1e-18 if seed == 0 else 1)

    def powers():
        meter = KPowers(rate, channels, hop)
        first = meter(block)
        return np.concatenate([first, meter(block[:, :hop])])

    compiled = powers()
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(native, "available", lambda: False)
        reference = powers()
    assert np.allclose(compiled, reference, rtol=2e-5, atol=1e-9)
    loud = reference[:, 0] > 1e-4
    assert np.abs(10 * np.log10(compiled[loud, 0] / reference[loud, 0])).max(initial=0) < 1e-4


def test_what_rings_on_in_silence_ends_before_it_is_too_small_to_be_normal():
    meter = KPowers(48_000, 2, 960)
    meter(sound(1, 2, 960 * 50))
    for _ in range(8):
        powers = meter(np.zeros((2, 960 * 50), np.float32))
    left = np.abs(meter._state[meter._state != 0])
    assert powers.max() == 0 and not (left < np.finfo(np.float64).tiny).any()


@settings(max_examples=40)
@given(st.integers(0, 99), st.sampled_from((1, 2)), st.integers(17, 3000), st.floats(0, 0.9))
def test_the_highest_peak_is_that_of_the_reference(seed, channels, frames, floor):
    block = sound(seed, channels, frames)
    compiled = true_peak.highest_peak(block, floor)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(native, "available", lambda: False)
        reference = true_peak.highest_peak(block, floor)
    assert compiled == pytest.approx(reference, rel=2e-6)
    assert (compiled == np.float32(floor)) == (reference == floor) or compiled == pytest.approx(floor, rel=2e-6)


@settings(max_examples=40)
@given(st.integers(0, 99), st.sampled_from((1, 2)), st.integers(17, 3000), st.floats(0.05, 0.9))
def test_peaks_of_pieces_over_a_limit_are_those_of_the_reference(seed, channels, frames, limit):
    block = sound(seed, channels, frames)
    compiled = true_peak.piece_peaks(block, limit)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(native, "available", lambda: False)
        reference = true_peak.piece_peaks(block, limit)
    close = np.abs(reference - limit) < 1e-5 * limit
    over = reference > limit
    assert len(compiled) == len(reference) and (((compiled > limit) == over) | close).all()
    assert np.allclose(compiled[over], reference[over], rtol=2e-6)


@given(st.integers(0, 99), st.integers(1, 400), st.integers(0, 300), st.integers(1, 9))
def test_a_gain_glides_to_the_same_bits(seed, frames, first, pieces):
    curve = np.random.default_rng(seed).uniform(0.1, 1, pieces)
    compiled, reference = sound(seed, 2, frames), sound(seed, 2, frames)
    glide(compiled, first, curve)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(native, "available", lambda: False)
        glide(reference, first, curve)
    assert np.array_equal(compiled, reference)


@given(st.integers(0, 99), st.integers(1, 300), st.integers(1, 90), st.integers(0, 89), st.booleans())
def test_a_loop_is_added_around_to_the_same_bits(seed, frames, length, at, faded):
    loop = sound(seed, 2, length)
    gains = np.linspace(0, 1, frames, dtype=np.float32) if faded else None
    compiled, reference = sound(seed, 2, frames), sound(seed, 2, frames)
    add_around(compiled, loop, at % length, gains)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(native, "available", lambda: False)
        add_around(reference, loop, at % length, gains)
    assert np.array_equal(compiled, reference)


@given(st.integers(0, 99), st.sampled_from((1, 2)), st.integers(0, 1200))
def test_steps_of_24_bits_are_the_same_bytes_and_come_back(tmp_path_factory, seed, channels, frames):
    block = sound(seed, channels, frames, level=0.9)
    block[:, ::7] = np.array([1.0, -1.0, 2.5, -2.5, 0.5 / 2**23, -0.0, 1.5 / 2**23], np.float32)[seed % 7]
    packed = encode._packed(block)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(native, "available", lambda: False)
        assert packed.tobytes() == encode._packed(block).tobytes()
    path = tmp_path_factory.mktemp("pcm") / "a.raw"
    path.write_bytes(packed.tobytes())
    compiled = PcmData(path, 0, "PCM_24", channels).read(0, frames + 3)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(native, "available", lambda: False)
        assert np.array_equal(compiled, PcmData(path, 0, "PCM_24", channels).read(0, frames + 3))
    assert np.array_equal(compiled, np.clip(np.rint(block * 2**23), -(2**23), 2**23 - 1).T.astype(np.float32) / 2**23)


@given(st.integers(0, 9), st.integers(1, 5000), st.floats(-60, 6), st.floats(-60, 6))
def test_a_level_line_comes_to_the_same_steps(seed, frames, first, last):
    line = LevelLine(np.array([0, frames]), np.array([first, last]))
    compiled, reference = sound(seed, 2, frames), sound(seed, 2, frames)
    line.apply(compiled, 0)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(native, "available", lambda: False)
        line.apply(reference, 0)
    assert np.abs(encode.to_24_bit(compiled) - encode.to_24_bit(reference)).max() <= 1
    assert np.allclose(compiled, reference, rtol=3e-7, atol=0)


def test_a_library_of_another_make_is_passed_over(monkeypatch, tmp_path):
    (tmp_path / "_kernel.so").write_bytes(b"no library")
    monkeypatch.setattr(native, "__file__", str(tmp_path / "__init__.py"))
    assert native._library.__wrapped__() is None
    monkeypatch.setenv("NAFAS_NUMPY", "1")
    assert native._library.__wrapped__() is None


def test_a_master_has_the_same_bytes_without_the_compiled_loops(short, folder):
    save_session(short, folder / "a.nafas")
    for name, numpy_only in (("c.wav", "0"), ("n.wav", "1")):
        asked = [sys.executable, "-m", "nafas", "render", "a.nafas", "--out", name, "--no-proof"]
        subprocess.run(
            asked, cwd=folder, env={**os.environ, "NAFAS_NUMPY": numpy_only}, check=True, capture_output=True
        )
    assert (folder / "c.wav").read_bytes() == (folder / "n.wav").read_bytes()
