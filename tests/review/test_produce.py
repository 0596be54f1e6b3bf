"""The whole path at every rate and format, stopped at every stage."""

import json

import numpy as np
import pytest
import soundfile
from helpers import breath, produce

from nafas.errors import Cancelled
from nafas.review.proof.prove import RATES
from nafas.review.proof.record import record_path
from nafas.script import Session, read_block
from nafas.script.edits.session_edits import insert_blocks
from nafas.sound.master.render import OutOfReach
from nafas.tasks.render_result import peak_memory_mb


@pytest.mark.parametrize("rate", RATES)
def test_counts_land_at_every_rate(folder, rate):
    session = Session(opening=1, closing=2, blocks=(breath("2-2", 2, count_length="6/7"),))
    made = produce(session, folder, folder / "m.flac", rate=rate)
    assert made.proof is not None and made.proof.holds and made.mastered.rate == rate
    assert soundfile.info(folder / "m.flac").samplerate == rate
    assert made.duration == pytest.approx(float(made.cast.timeline.length), abs=1 / rate)


def test_every_kind_of_breath_is_proven_where_it_was_due(folder):
    """Sides, parts, calls, strokes, fade and steps, rendered and found again to the sample."""
    notations = (
        "in L 3, out R 3, in R 3, out L 3 x1 @ 1.3s",
        "in 2+2 (belly, chest), out 4 down x2 @ 1.2s fade full 1 cues 1",
        "in 3 to 2/3, hold 14s calls half 5 release, out 3",
        "rapid 20 @ 60/min every 10 demo 1 rest 1s",
        "3-3 x1 step 1 to 4 ease 2s",
    )
    session = insert_blocks(Session(opening=2, closing=2), 0, [read_block(text) for text in notations])
    made = produce(session, folder, folder / "m.flac")
    assert made.proof is not None and made.proof.holds and not made.cast.misfits
    said = {p.moment.text for p in made.cast.placements}
    assert {"inhale left", "exhale right", "chest", "halfway", "five more seconds", "and release", "ten"} <= said


@pytest.mark.parametrize("stage", ["casting", "measuring", "writing", "proving"])
def test_stopping_leaves_nothing_half_done(folder, short, stage):
    seen = []

    def stop(at, done):
        seen.append(at)
        if at == stage:
            raise Cancelled

    with pytest.raises(Cancelled):
        produce(short, folder, folder / "m.wav", progress=stop)
    left = [path.name for path in folder.iterdir()]
    # Once written, the master is whole; a proof that was stopped does not take it back.
    assert left == (["m.wav"] if stage == "proving" else [])
    assert seen[-1] == stage


def test_a_record_never_tells_of_a_file_that_is_gone(folder, short):
    produce(short, folder, folder / "m.wav")
    assert json.loads(record_path(folder / "m.wav").read_text())["holds"]
    produce(short, folder, folder / "m.wav", with_proof=False)
    assert not record_path(folder / "m.wav").exists()


def test_the_same_session_always_gives_the_same_sound(folder, short):
    for name in ("a.wav", "b.wav"):
        produce(short, folder, folder / name, with_proof=False)
    assert (folder / "a.wav").read_bytes() == (folder / "b.wav").read_bytes()


def test_chimes_and_bell_fall_on_their_samples(folder):
    session = Session(opening=1, closing=10, bed=None, blocks=(breath("2-2", 1, style={"counting": "silent"}),))
    produce(session, folder, folder / "m.wav", folder / "stems")
    chimes, rate = soundfile.read(folder / "stems" / "chimes.wav")
    loud = np.abs(chimes).max(axis=1) > 0
    assert not loud[: rate + 1].any() and loud[rate + 10 : rate + 100].any()
    bell = chimes[5 * rate : 14 * rate]
    assert np.abs(bell).max() > np.abs(chimes[: 5 * rate]).max()  # the bell is the sign, and its tail is kept
    assert np.abs(chimes[13 * rate : 14 * rate - 4800]).max() > 0


def test_without_a_proof_none_is_claimed(folder, short):
    made = produce(short, folder, folder / "m.wav", with_proof=False)
    assert made.proof is None and "cues found" not in "\n".join(made.lines())
    assert made.figures()["worst_beat_error_samples"] is None and made.figures()["cues_not_found"] is None
    assert "read by the narrator (eSpeak)" in "\n".join(made.lines()) and 20 < peak_memory_mb() < 10_000


def test_a_loudness_that_cannot_be_reached_is_said(folder):
    quiet = Session(
        opening=1,
        closing=1,
        bed=None,
        end_bell=False,
        master={"loudness": -8, "ceiling": -20},
        blocks=(breath("2-2", 2),),
    )
    with pytest.raises(OutOfReach, match="-8 LUFS is out of reach"):
        produce(quiet, folder, folder / "m.wav", folder / "stems")
    assert list(folder.iterdir()) == []  # told before anything is written
    made = produce(quiet, folder, folder / "m.wav", anyway=True)
    assert made.mastered.measured.true_peak <= -20 and made.mastered.shortfall > 1
    assert "misses its target" in "\n".join(made.lines())
