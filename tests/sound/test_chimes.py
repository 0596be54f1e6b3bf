"""Chimes, ticks and strokes: told apart by ear, panned but whole in mono, each on its sample."""

from itertools import combinations, pairwise

import numpy as np
import pytest
from helpers import breath

from nafas.script import PhaseKind, Session, Side, read_block
from nafas.script.model.session import CHIME_FAMILIES
from nafas.sound import build_mix
from nafas.sound.chimes.synthesis import FAMILIES, PANNED, bell, chime, stroke, tick
from nafas.timing import compile_session, paced
from nafas.voice.casting import Cast

RATE = 48_000


def db(a, b):
    return 10 * np.log10((np.asarray(a, float) ** 2).sum() / (np.asarray(b, float) ** 2).sum())


@pytest.mark.parametrize("kind", PhaseKind)
def test_a_side_is_heard_from_there_and_stays_whole_on_one_loudspeaker(kind):
    middle, left, right = (chime(kind, RATE, side) for side in (None, Side.LEFT, Side.RIGHT))
    assert db(left[0], left[1]) > 8 and db(right[1], right[0]) > 8  # 9 dB and a little over
    assert db(left, middle) == pytest.approx(0, abs=0.5)  # as loud as from the middle
    assert abs(db(left.sum(axis=0), middle.sum(axis=0))) < 1.5 and PANNED > 0
    assert chime(kind, RATE, Side.BOTH) is not None and np.array_equal(chime(kind, RATE, Side.BOTH), middle)


def test_no_two_sounds_are_alike():
    """Their spectra, smoothed to thirds of an octave, correlate less than 0.9."""
    sounds = [chime(kind, RATE) for kind in PhaseKind] + [
        tick(RATE),
        *(stroke(k, RATE) for k in (PhaseKind.INHALE, PhaseKind.EXHALE)),
    ]
    edges = 100 * 2 ** (np.arange(22) / 3)
    spectra = []
    for sound in sounds:
        power = np.abs(np.fft.rfft(sound.mean(axis=0), RATE)) ** 2
        spectra.append([power[int(a) : int(b)].sum() for a, b in pairwise(edges)])
    for one, other in combinations(np.sqrt(spectra), 2):
        assert np.dot(one, other) / np.linalg.norm(one) / np.linalg.norm(other) < 0.9


def mix_of(notation):
    timeline = compile_session(
        Session(opening=1, closing=1, bed=None, end_bell=False, blocks=(read_block(notation),)), paced()
    )
    return build_mix(Cast(timeline, RATE, (), ()))


def test_strokes_and_ticks_sound_on_their_samples():
    mix = mix_of("rapid 7 @ 50/min every 0 rest 0")
    starts = [sound.start for sound in mix.chimes.sounds]
    assert starts == [RATE + round(n * 1.2 * RATE) for n in range(7)]
    both = mix_of("bellows 3 @ 60/min rest 0")
    assert [s.start - RATE for s in both.chimes.sounds] == [n * RATE // 2 for n in range(6)]
    ticked = mix_of("in 3 tick, out 2")
    assert [(s.start - RATE) // RATE for s in ticked.chimes.sounds if s.samples is tick(RATE)] == [1, 2]
    assert [s.start for s in mix_of("4-4 x3 fade silent 2 chimes 1").chimes.sounds] == [RATE * 17, RATE * 21]


@pytest.mark.parametrize("family", FAMILIES)
def test_the_chimes_of_a_family_are_told_apart_and_startle_nobody(family):
    """Spectra in third-octaves over time differ for every two kinds; each is as loud as the others, and none begins
    within 4 ms of its height."""
    found = {kind: chime(kind, RATE, None, family) for kind in PhaseKind}
    shapes = {kind: _shape(sound) for kind, sound in found.items()}
    for one in PhaseKind:
        for other in PhaseKind:
            if one is not other:
                similarity = float((shapes[one] * shapes[other]).sum())
                assert similarity < 0.9, (family, one, other)
    for sound in found.values():
        level = np.sqrt((sound[:, : sound.shape[1] // 4800 * 4800].reshape(2, -1, 4800) ** 2).mean(axis=(0, 2)).max())
        assert level == pytest.approx(1.0, rel=0.02) and np.abs(sound[:, 0]).max() < 1e-3
        assert np.abs(sound[:, : RATE // 250]).max() < 0.6 * np.abs(sound).max()


def test_a_session_s_family_is_heard():
    heard = {family: whole_chimes(family) for family in FAMILIES}
    assert len({sound.tobytes() for sound in heard.values()}) == len(FAMILIES)


def whole_chimes(family):
    session = Session(bed=None, chimes={"family": family}, blocks=(breath("2-2", 1),))
    timeline = compile_session(session, paced())
    out = np.zeros((2, 10 * RATE), np.float32)
    build_mix(Cast(timeline, RATE, (), ())).chimes.add_to(out, 0)
    return out


def _shape(sound):
    """Power by third-octave and tenth of a second, as a unit vector."""
    size = RATE // 10
    parts = np.pad(sound.mean(axis=0), (0, 25 * size))[: 25 * size].reshape(25, size)
    power = np.abs(np.fft.rfft(parts * np.hanning(size))) ** 2
    frequency = np.fft.rfftfreq(size, 1 / RATE)
    edges = np.geomspace(150, 8000, 19)
    bands = np.array([power[:, (frequency >= a) & (frequency < b)].sum(axis=1) for a, b in pairwise(edges)])
    shape = np.sqrt(bands)
    return shape / np.linalg.norm(shape)


@pytest.mark.parametrize("family", FAMILIES)
def test_one_loudspeaker_loses_no_moment_of_a_chime_or_of_the_bell(family):
    """Power of each 100 ms, both sides as one against both: never 3 dB less, however its partials beat."""
    for sound in (*(chime(kind, RATE, None, family) for kind in PhaseKind), bell(RATE)):
        whole = sound[:, : sound.shape[1] // 4800 * 4800].reshape(2, -1, 4800)
        both, one = (whole**2).sum(axis=(0, 2)), 2 * (whole.mean(axis=0) ** 2).sum(axis=1)
        heard = both > 1e-3 * both.max()
        assert (10 * np.log10(both[heard] / one[heard])).max() < 3


def test_every_family_that_a_session_can_name_has_sounds_and_no_other_is_taken():
    assert set(FAMILIES) == set(CHIME_FAMILIES)
    with pytest.raises(ValueError, match="no chimes 'gongs'"):
        Session(chimes={"family": "gongs"})
