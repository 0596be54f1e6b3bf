"""Where an encoder raised peaks, and the master eased there and nowhere else."""

import numpy as np
import pytest
import soundfile
from helpers import produce

from nafas.errors import Cancelled
from nafas.sound.master.codec_headroom import pieces_of, raised_peaks, write_eased
from nafas.sound.master.limiter import REACH
from nafas.sound.meters.measure import BLOCK
from nafas.sound.meters.true_peak import PIECE

RATE = 48_000


@pytest.mark.parametrize("at", [0, BLOCK - 100, 2 * BLOCK - 200])
def test_peaks_over_the_ceiling_are_found_where_they_are(folder, at):
    """A quarter of the rate, an eighth of a turn on: true peaks 3 dB over any sample (after EBU Tech 3341)."""
    t = np.arange(2 * BLOCK)
    sound = 0.2 * np.sin(2 * np.pi * t / 4 + np.pi / 4)
    sound[at : at + 200] *= 0.8 * np.sqrt(2) / 0.2
    soundfile.write(folder / "a.wav", sound, RATE, subtype="FLOAT")
    pieces = -(-len(t) // PIECE)
    found = raised_peaks(folder / "a.wav", -3.0, pieces + 1)  # a codec's file may be shorter than the master
    over = np.flatnonzero(found)
    assert at // PIECE - 1 <= over.min() and over.max() <= (at + 200) // PIECE + 1
    inside = slice(at // PIECE + 1, (at + 200) // PIECE)
    assert found[inside] == pytest.approx(20 * np.log10(0.8 * np.sqrt(2)) + 3.0, abs=0.15)
    assert not raised_peaks(folder / "a.wav", 2.5, pieces).any()


def test_a_master_is_eased_in_its_place_alone(short, folder):
    made = produce(short, folder, folder / "m.wav", with_proof=False, bits="float")
    before, _ = soundfile.read(folder / "m.wav")
    lower = np.zeros(pieces_of(made.mix), np.float32)
    place = BLOCK // PIECE
    lower[place] = 6.0
    write_eased(made.mix, made.mastered.gain, folder / "e.wav", lower, lambda done: None)
    after, _ = soundfile.read(folder / "e.wav")
    middle, reach = place * PIECE + PIECE // 2, (2 * REACH + 1) * PIECE
    assert after[middle] == pytest.approx(before[middle] * 10 ** (-6 / 20), abs=2e-7)
    for untouched in (slice(0, middle - reach), slice(middle + reach, None)):
        assert np.abs(after[untouched] - before[untouched]).max() < 2e-7  # 24 bits
    eased = before[:, 0] != 0
    ratio = np.where(eased, after[:, 0] / np.where(eased, before[:, 0], 1), 1)[middle - reach : middle + reach]
    loud = np.abs(before[middle - reach : middle + reach, 0]) > 1e-3
    steps = np.abs(np.diff(ratio[loud]))
    assert steps.max() < 0.01  # it moves, and does not jump

    def stop(done):
        raise Cancelled

    whole = (folder / "e.wav").read_bytes()
    with pytest.raises(Cancelled):
        write_eased(made.mix, made.mastered.gain, folder / "e.wav", lower, stop)
    assert (folder / "e.wav").read_bytes() == whole and len(list(folder.iterdir())) == 2
