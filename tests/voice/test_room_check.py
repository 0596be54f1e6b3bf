"""The room before the first line, and a take next to its fellows: planted noise, hum, echo, clipping, pops, breaths and
distance are measured, and clean sound is left alone."""

import numpy as np
import pytest

from nafas.voice.engines.cache import CachedEngine
from nafas.voice.engines.espeak import Espeak
from nafas.voice.level import active_level
from nafas.voice.recording.practice import RATE, Manners, breath, practice_line, room
from nafas.voice.recording.room_check import check_room
from nafas.voice.recording.take_sound import remarks, take_sound

ENGINE = CachedEngine(Espeak())


def line(text="inhale, two, three, four", level=-26.0, seed=1):
    draw = np.random.default_rng(seed)
    spoken = practice_line(ENGINE, text, Manners(), draw)
    spoken = spoken * 10 ** ((level - active_level(spoken, RATE)) / 20)
    return np.concatenate([np.zeros(RATE // 2), spoken, np.zeros(RATE)]).astype(np.float32)


def silence(level, seconds=5.0, seed=2):
    return (10 ** (level / 20) * np.random.default_rng(seed).standard_normal(int(seconds * RATE))).astype(np.float32)


def in_room(level):
    return silence(level), line() + silence(level, len(line()) / RATE, 3)


def test_a_good_room_is_left_alone_and_measured_right():
    found = check_room(*in_room(-80), RATE)
    assert found.advice == () and found.hum == 0 and found.clipped == 0
    assert found.noise == pytest.approx(-80, abs=0.3) and found.voice == pytest.approx(-26, abs=0.5)
    assert "Room -80 dB, voice -26 dB" in found.words


@pytest.mark.parametrize(("level", "said"), [(-65, "audible"), (-50, "only 24 dB over the room")])
def test_noise(level, said):
    assert any(said in advice for advice in check_room(*in_room(level), RATE).advice)


@pytest.mark.parametrize("mains", [50, 60])
def test_hum_is_heard_by_its_frequency(mains):
    quiet, spoken = in_room(-80)
    t = np.arange(len(quiet)) / RATE
    hum = sum(10 ** (-62 / 20) * np.sin(2 * np.pi * mains * n * t + n) / n for n in (1, 2, 3, 4))
    found = check_room((quiet + hum).astype(np.float32), spoken, RATE)
    assert found.hum == mains and found.hum_level == pytest.approx(-64, abs=2.5)
    tone = 10 ** (-62 / 20) * np.sin(2 * np.pi * 100 * t)  # one tone by itself is no mains hum
    assert check_room((quiet + tone).astype(np.float32), spoken, RATE).hum == 0


@pytest.mark.parametrize("seconds", [0.3, 0.8])
def test_echo_is_the_time_it_takes_to_die_away(seconds):
    from scipy import signal

    draw = np.random.default_rng(4)
    n = int(2 * seconds * RATE)
    tail = draw.standard_normal(n) * 10 ** (-3 * np.arange(n) / (seconds * RATE)) * 0.05
    tail[0] = 1.0
    wet = signal.fftconvolve(np.concatenate([line(), np.zeros(2 * RATE)]), tail)[: len(line()) + RATE]
    found = check_room(silence(-90), wet.astype(np.float32), RATE)
    assert found.echo == pytest.approx(seconds, rel=0.3)
    assert any("rings" in advice for advice in found.advice) is (seconds > 0.5)


def test_clipping_headroom_and_a_voice_that_is_lost():
    quiet, spoken = in_room(-80)
    assert "clips" in check_room(quiet, np.clip(spoken * 30, -1, 1), RATE).advice[0]
    hot = spoken / np.abs(spoken).max() * 0.9
    assert "for headroom" in check_room(quiet, hot, RATE).advice[0]
    assert "turn the gain up" in check_room(silence(-95), line(level=-48), RATE).advice[0]


@pytest.mark.parametrize("samples", [np.zeros(0), np.zeros(50), np.zeros(RATE)])
def test_nothing_to_hear_is_no_error(samples):
    samples = samples.astype(np.float32)
    found = check_room(samples, samples, RATE)
    assert np.isfinite(found.noise) and found.echo is None and take_sound(samples, RATE).plosives == ()


def test_a_take_at_another_distance_level_or_pace_is_told_and_one_like_the_others_is_not():
    from scipy import signal

    usual = [take_sound(line(text, seed=n), RATE) for n, text in enumerate(("two", "three", "four", "five", "six"))]
    same = line("seven", seed=9)
    assert remarks(take_sound(same, RATE), usual, 1.05) == []
    away = signal.sosfilt(signal.butter(1, 500, "lowpass", fs=RATE, output="sos"), same).astype(np.float32)
    assert any("duller" in each for each in remarks(take_sound(away, RATE), usual))
    assert any("5 dB softer" in each for each in remarks(take_sound(same * 10 ** (-5 / 20), RATE), usual))
    assert any("1.40 times" in each for each in remarks(take_sound(same, RATE), usual, 1.4))
    assert remarks(take_sound(away, RATE), usual[:3]) == []  # too few to say what is usual


def test_pops_and_breaths_are_marked_where_they_are():
    draw = np.random.default_rng(5)
    clean = line("five") + room(len(line("five")), Manners(snr=45, hum=60), draw)
    assert take_sound(clean, RATE).plosives == () and take_sound(clean, RATE).breaths == ()
    for snr in (35, 28):  # the room around a line is no breath
        said = line("five")
        lead = np.concatenate([np.zeros(RATE // 2, np.float32), said, np.zeros(RATE // 2, np.float32)])
        noise = room(len(lead), Manners(snr=snr), np.random.default_rng(snr))
        assert take_sound(lead + noise, RATE).breaths == ()
    pop = np.zeros_like(clean)
    at, n = int(0.5 * RATE), int(0.04 * RATE)
    pop[at : at + n] = 0.5 * np.sin(2 * np.pi * 40 * np.arange(n) / RATE) * np.hanning(n)
    found = take_sound(clean + pop, RATE).plosives
    assert len(found) == 1 and found[0] == pytest.approx(0.5, abs=0.03)
    air = breath(draw) * 4
    with_breath = np.concatenate([clean[: RATE // 10], air, np.zeros(RATE // 4), clean]).astype(np.float32)
    heard = take_sound(with_breath, RATE).breaths
    assert len(heard) == 1 and heard[0] == pytest.approx(0.15, abs=0.12)
