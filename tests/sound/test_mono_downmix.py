"""One loudspeaker: what is lost there, and a master in one channel."""

import numpy as np
import pyloudnorm
import pytest
import soundfile
from helpers import produce

from nafas.cli.main import main
from nafas.script import save_session
from nafas.script.edits.session_edits import change
from nafas.script.model.targets import TARGETS
from nafas.sound.master.mono_downmix import MonoDownmix, fold_loss
from nafas.sound.meters.measure import measure

RATE = 48_000


class Sound:
    rate, channels = RATE, 2

    def __init__(self, left, right):
        self.both = np.array([left, right], np.float32)
        self.length = self.both.shape[1]

    def read(self, start, frames):
        return self.both[:, max(0, start) : start + frames].copy()


def noise(seed, seconds=4):
    return np.random.default_rng(seed).standard_normal(seconds * RATE) * 0.05


@pytest.mark.parametrize(("right", "lost"), [(noise(1), 0.0), (0 * noise(1), 3.01), (noise(2), 3.01)])
def test_what_folding_loses_is_measured(right, lost):
    """The same on both sides loses nothing; on one side alone, or two that have nothing in common, half the power."""
    measured = measure(Sound(noise(1), right))
    assert fold_loss(measured)[0] == pytest.approx(lost, abs=0.1)
    folded = measure(MonoDownmix(Sound(noise(1), right)))
    assert folded.loudness == pytest.approx(measured.loudness - 3.01 - lost, abs=0.1) and not len(folded.mids)
    assert fold_loss(folded) == (0, 0, 0)


def test_a_moment_that_vanishes_is_found():
    right = noise(1)
    right[2 * RATE : 3 * RATE] *= -1  # turned over for a second
    whole, worst, where = fold_loss(measure(Sound(noise(1), right)))
    assert whole < 2 and worst > 20 and 2.0 < where < 3.0
    assert fold_loss(measure(Sound(0 * right, 0 * right))) == (0, 0, 0)


def test_a_mono_master_measures_its_own_target(short, folder):
    """Against pyloudnorm, of the file as written: -19 LUFS in one channel, every cue where it was."""
    target = next(target for target in TARGETS if target.mono)
    session = change(short, master={"loudness": target.loudness, "mono": True})
    made = produce(session, folder, folder / "m.wav", also=[folder / "m.mp3", folder / "m.opus"])
    sound, _ = soundfile.read(folder / "m.wav")
    assert sound.ndim == 1
    assert pyloudnorm.Meter(RATE).integrated_loudness(sound) == pytest.approx(-19, abs=0.1)
    assert made.proof.worst <= 0.5 and soundfile.info(folder / "m.mp3").channels == 1
    save_session(short, folder / "s.nafas")
    assert main(["render", str(folder / "s.nafas"), "-o", str(folder / "n.flac"), "--target", "spoken-mono"]) == 0
    assert soundfile.info(folder / "n.flac").channels == 1


def test_the_same_session_gives_the_same_bytes_in_every_format(short, folder):
    names = ["m.wav", "m.flac", "m.mp3", "m.ogg", "m.opus"]
    for run in ("one", "two"):
        (folder / run).mkdir()
        first, *rest = [folder / run / name for name in names]
        produce(short, folder, first, also=rest, with_proof=False)
    for name in names:
        assert (folder / "one" / name).read_bytes() == (folder / "two" / name).read_bytes(), name
    assert soundfile.read(folder / "one" / "m.ogg")[0].any()  # its pages' sums are right: libogg drops others
