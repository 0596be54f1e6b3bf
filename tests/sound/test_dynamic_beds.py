"""Recordings as music really is: an intro, loud and soft stretches, a fade-out."""

from pathlib import Path

import numpy as np
import pytest
import soundfile
from helpers import breath

from nafas.script import Session
from nafas.script.model.assets import Asset
from nafas.script.model.beds import FileBed
from nafas.sound import build_mix
from nafas.sound.bed.file_bed import recorded_bed
from nafas.sound.chimes.synthesis import bell
from nafas.sound.master.balance import balance
from nafas.sound.meters.loudness import LoudnessMeter
from nafas.timing import compile_session
from nafas.voice import Narrator, cast_timeline

RATE = 48_000
INTRO, BODY, OUTRO = 10, 90, 12  # seconds


@pytest.fixture(scope="module")
def music(tmp_path_factory):
    """Noise as loud as music, 12 dB louder for four seconds in every 25; before it a far softer intro, then a fade."""
    draw = np.random.default_rng(4)
    t = np.arange((INTRO + BODY + OUTRO) * RATE) / RATE
    level = np.where((t - INTRO) % 25 < 21, -33.0, -21.0)
    level = np.where(t < INTRO, -45.0, level)
    level = np.where(t > INTRO + BODY, -33.0 - 5 * (t - INTRO - BODY), level)
    sound = draw.normal(0, 1, (len(t), 2)) * 10 ** (level[:, None] / 20)
    path = tmp_path_factory.mktemp("music") / "music.wav"
    soundfile.write(path, sound.astype(np.float32), RATE, subtype="FLOAT")
    return path


def test_the_loop_leaves_out_what_is_far_under_the_music(music):
    bed = recorded_bed(music, FileBed(file=Asset(path=music.name)), RATE)
    assert INTRO - 3 <= bed.seam.begin <= INTRO + 12.5
    assert INTRO + BODY - 35 <= bed.seam.end <= INTRO + BODY + 4
    told = recorded_bed(music, FileBed(file=Asset(path=music.name), find_seam=False), RATE)
    assert told.seam.begin == 0 and told.seam.end == pytest.approx(INTRO + BODY + OUTRO)


def test_loud_music_stays_as_far_under_every_word(music):
    """By its average alone it would come to some 6 LU less where it is loud."""
    asked = 14.0
    bed = FileBed(file=Asset(path=music.name), under_voice=asked, lift=0)
    session = Session(blocks=(breath("3-4", 14),), bed=bed, opening=2, closing=2)
    narrator = Narrator(session.voice, session.language, Path())
    mix = build_mix(cast_timeline(compile_session(session, narrator.spoken_length), narrator), music.parent)
    found = balance(mix)
    assert found.worst >= asked and found.overall >= asked
    heard = LoudnessMeter(RATE)  # what is soft is left as it is: nothing is brought up
    heard.push(mix.stems(0, mix.length).bed)
    levels = 10 * np.log10(heard.powers[40:-40])
    assert np.percentile(levels, 90) - np.percentile(levels, 20) > 3


def test_the_bell_dies_away_and_is_not_cut_off():
    """At nine seconds, where it ends, nothing of it is left to be missed; and on the way there it never drops."""
    sound = np.abs(bell(RATE)).max(axis=0)
    steps = 20 * np.log10(sound[: len(sound) // 4800 * 4800].reshape(-1, 4800).max(axis=1))  # every 100 ms
    assert steps[-1] < steps.max() - 70
    assert np.diff(steps[5:80]).min() > -4
