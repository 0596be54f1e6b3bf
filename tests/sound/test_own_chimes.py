"""The producer's own samples as chimes, and a bell the session has no room for."""

import numpy as np
import pytest
import soundfile
from helpers import breath

from nafas.errors import InputError
from nafas.script import PhaseKind, Session, Side
from nafas.script.edits.session_edits import rebase_assets
from nafas.script.model.assets import Asset
from nafas.script.model.session import ChimeLevels, OwnChimes
from nafas.sound import build_mix
from nafas.sound.chimes.plan import Chimes
from nafas.sound.chimes.synthesis import chime
from nafas.timing import compile_session, paced
from nafas.voice.casting import Cast

RATE = 48_000


def ping(path, seconds=1.0, rate=44_100, pitch=900.0, lead=0.2):
    t = np.arange(int(seconds * rate)) / rate
    wave = 0.05 * np.sin(2 * np.pi * pitch * t) * np.exp(-4 * np.maximum(t - lead, 0)) * (t >= lead)
    soundfile.write(path, wave + 0.01, rate, subtype="FLOAT")


def own(folder, **samples):
    return Chimes(ChimeLevels(own=OwnChimes(**{k: Asset(path=v) for k, v in samples.items()})), RATE, folder)


def test_a_sample_takes_the_place_of_its_chime_alone_at_the_same_level(folder):
    ping(folder / "in.wav")
    chimes = own(folder, inhale="in.wav")
    found = chimes.phase(PhaseKind.INHALE)
    assert np.abs(found[:, : RATE // 20]).max() > 0.3  # the silence before it is gone: it sounds on its count
    assert np.abs(found[:, 0]).max() == 0 and abs(found.mean()) < 1e-3  # no click, no offset
    hundred = found[:, : RATE // 10 * 7].reshape(2, -1, RATE // 10)
    assert np.sqrt((hundred**2).mean(axis=(0, 2)).max()) == pytest.approx(1, abs=0.05)
    assert np.argmax(np.abs(np.fft.rfft(found[0], RATE))) == pytest.approx(900, abs=3)
    left = chimes.phase(PhaseKind.INHALE, Side.LEFT)
    assert np.abs(left[0]).max() > 2 * np.abs(left[1]).max()
    assert chimes.phase(PhaseKind.EXHALE) is chime(PhaseKind.EXHALE, RATE)


@pytest.mark.parametrize(("make", "says"), [
    (lambda path: None, "cannot be read"),
    (lambda path: path.write_text("x"), "is not audio"),
    (lambda path: soundfile.write(path, np.zeros(RATE), RATE), "is silent"),
    (lambda path: soundfile.write(path, np.zeros(0), RATE), "is silent"),
    (lambda path: soundfile.write(path, np.full(RATE, np.inf), RATE, subtype="FLOAT"), "not numbers"),
    (lambda path: soundfile.write(path, np.full(61 * 8000, 0.1), 8000), "61 s long"),
])  # fmt: skip
def test_a_sample_that_cannot_be_used_is_named(folder, make, says):
    make(folder / "x.wav")
    with pytest.raises(InputError, match=says) as caught:
        own(folder, bell="x.wav").bell  # noqa: B018
    assert "x.wav" in caught.value.place and caught.value.remedy


def test_samples_move_with_their_session(folder):
    session = Session(chimes=ChimeLevels(own=OwnChimes(tick=Asset(path="t.wav"))))
    assert rebase_assets(session, folder, folder / "deep").chimes.own.tick.path == "../t.wav"


def mix_of(closing, **fields):
    session = Session(opening=1, closing=closing, bed=None, blocks=(breath("2-2", 1),), **fields)
    return build_mix(Cast(compile_session(session, paced()), RATE, (), ()))


def test_a_bell_with_room_keeps_its_tail_and_one_without_is_faded_and_told():
    whole, short = mix_of(12), mix_of(3)
    assert whole.troubles == () and len(short.troubles) == 1
    assert "9.0 s" in short.troubles[0] and "longer" in short.troubles[0]
    end = short.read(short.length - 480, 480)
    assert np.abs(end).max() < 1e-3 and short.read(short.length - 2 * RATE, 480).any()
    bell = whole.chimes.sounds[-1]
    assert bell.start + bell.samples.shape[1] <= whole.length
    assert mix_of(0).troubles  # and a session that ends with its bell still renders
