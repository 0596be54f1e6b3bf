"""The outline of a recording, as it is drawn."""

import numpy as np
import pytest
import soundfile

from nafas.errors import Cancelled
from nafas.sound.bed.waveform import outline
from nafas.sound.files.recording import Recording

RATE = 8_000


@pytest.mark.parametrize(
    ("frames", "columns"), [(400_000, 1000), (1 << 18, 7), ((1 << 18) + 1, 333), (50, 1000), (1, 3)]
)
def test_every_column_holds_the_extremes_of_its_stretch(folder, frames, columns):
    wave = np.random.default_rng(frames).uniform(-0.9, 0.9, (frames, 2)).astype(np.float32)
    soundfile.write(folder / "x.wav", wave, RATE, subtype="FLOAT")
    found = outline(Recording(folder / "x.wav", RATE), columns)
    assert len(found) == min(columns, frames)
    edges = np.linspace(0, frames, len(found) + 1).astype(int)
    for (low, high), begin, end in zip(found, edges, edges[1:]):
        part = wave[begin:end]
        assert low == min(0, part.min()) and high == max(0, part.max())


def test_it_can_be_stopped_and_an_empty_file_has_one(folder):
    soundfile.write(folder / "x.wav", np.zeros((10, 1)), RATE)
    with pytest.raises(Cancelled):
        outline(Recording(folder / "x.wav", RATE), stopped=lambda: True)
    soundfile.write(folder / "y.wav", np.zeros((0, 1)), RATE)
    assert outline(Recording(folder / "y.wav", RATE)).shape == (1, 2)
