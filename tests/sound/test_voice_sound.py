"""The voice's own chain: what it takes away, and what it must leave where it is."""

import numpy as np
import pytest
from helpers import breath, produce

from nafas.script import Session
from nafas.script.model.session import VoiceSound
from nafas.sound.mix.voice_chain import sounded, through
from nafas.voice.level import SPEECH_LEVEL, active_level, tame_peaks

RATE = 48_000
EVERYTHING = VoiceSound(high_pass=90, compress=0.6, soften=6, room=0.4)


def speech(seconds=1.2, seed=4):
    """Bursts of a low buzz and of hiss, at speech level."""
    t = np.arange(int(seconds * RATE)) / RATE
    buzz = sum(np.sin(2 * np.pi * 140 * k * t) / k for k in range(1, 12)) * (t % 0.6 < 0.3)
    hiss = np.random.default_rng(seed).standard_normal(len(t)) * (t % 0.6 > 0.4) * 1.2
    return tame_peaks(_levelled(buzz + np.diff(hiss, prepend=0)), RATE, SPEECH_LEVEL + 9)


def _levelled(sound):
    return (sound * 10 ** ((SPEECH_LEVEL - active_level(sound.astype(np.float32), RATE)) / 20)).astype(np.float32)


def band(sound, low, high):
    power = np.abs(np.fft.rfft(sound)) ** 2
    frequency = np.fft.rfftfreq(len(sound), 1 / RATE)
    return 10 * np.log10(power[(frequency >= low) & (frequency < high)].sum() + 1e-20)


def test_passed_by_or_empty_it_changes_nothing():
    sound = speech()
    assert through(sound, VoiceSound(), RATE) is sound
    assert through(sound, EVERYTHING.model_copy(update={"on": False}), RATE) is sound
    assert len(through(sound[:0], EVERYTHING, RATE)) == 0
    assert not through(np.zeros(RATE, np.float32), EVERYTHING, RATE).any()


def test_rumble_goes_and_the_voice_stays():
    t = np.arange(int(1.2 * RATE)) / RATE
    rumble = _levelled(speech() + 0.05 * np.sin(2 * np.pi * 30 * t))
    made = through(rumble, VoiceSound(high_pass=80), RATE)
    before, after = (band(each, 20, 40) - band(each, 250, 4000) for each in (rumble, made))
    assert after < before - 14
    shape = [band(each, 1000, 4000) - band(each, 250, 500) for each in (rumble, made)]
    assert shape[0] == pytest.approx(shape[1], abs=1.2)  # peaks that the rumble had hidden are eased


def test_hissing_is_softened_by_no_more_than_was_asked():
    sound = speech()

    def hissing(each):
        return band(each, 6000, 16000) - band(each, 100, 2000)

    lost = [hissing(sound) - hissing(through(sound, VoiceSound(soften=most), RATE)) for most in (3, 9)]
    assert 0.8 < lost[0] <= 3.1 and lost[0] + 1 < lost[1] <= 9.1


def test_compression_brings_loud_and_soft_nearer_at_the_same_loudness():
    t = np.arange(2 * RATE) / RATE
    sound = _levelled(np.sin(2 * np.pi * 300 * t) * np.where(t < 1, 1.0, 0.25))
    made = through(sound, VoiceSound(compress=1.0), RATE)
    loud, soft = (active_level(part, RATE) for part in (made[: RATE - 2000], made[RATE + 9000 :]))
    assert loud - soft < 12 - 2
    assert active_level(made, RATE) == pytest.approx(SPEECH_LEVEL, abs=0.5)


def test_a_room_rings_on_and_is_wide():
    sound = speech()
    made = through(sound, VoiceSound(room=1.0), RATE)
    assert made.shape == (2, len(sound) + round(0.7 * RATE)) and np.abs(made[:, -1]).max() < 1e-4
    assert active_level(made[:, : len(sound)].mean(axis=0), RATE) == pytest.approx(SPEECH_LEVEL, abs=0.3)
    quick = slice(RATE // 50, RATE // 4)
    assert band(made[0, quick], 100, 8000) == pytest.approx(band(sound[quick], 100, 8000), abs=2.0)
    tail = made[:, len(sound) + 2000 : len(sound) + 8000]
    assert np.abs(tail).max() > 1e-4 and not np.allclose(tail[0], tail[1])


def test_every_beat_stays_on_its_count_through_the_whole_chain(folder):
    """Rendered and proven: every cue is found in the rendered voice within half a sample of its place, or one for what
    the filters do to its shape."""
    session = Session(voice_sound=EVERYTHING, opening=1, closing=2, blocks=(breath("4-6", 2),))
    made = produce(session, folder, folder / "m.wav")
    assert not made.proof.missing and made.proof.worst <= 1.0
    plain = produce(session.model_copy(update={"voice_sound": VoiceSound()}), folder, folder / "p.wav")
    assert made.mastered.gain == pytest.approx(plain.mastered.gain, abs=0.5)  # the voice is as loud as before
    clip = made.cast.placements[0].clip
    assert sounded(clip, EVERYTHING, RATE) is sounded(clip, EVERYTHING, RATE)  # made once
