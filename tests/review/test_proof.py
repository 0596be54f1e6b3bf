"""The proof must find what is there, and must notice what is not."""

from pathlib import Path

import numpy as np
import pytest
import soundfile
from helpers import breath

from nafas.errors import InputError
from nafas.review import produce, prove, report
from nafas.script import Session


@pytest.fixture(scope="module")
def made(tmp_path_factory):
    folder = tmp_path_factory.mktemp("made")
    session = Session(opening=2, closing=3, blocks=(breath("3-2-4", 3, count_length="20/21"),))
    produced = produce(session, Path(), folder / "m.wav", folder / "stems")
    voice, _ = soundfile.read(folder / "stems" / "voice.wav", dtype="float32")
    return produced, voice[:, 0]


def prove_changed(made, folder, voice):
    soundfile.write(folder / "v.wav", voice, 48_000, subtype="PCM_24")
    return prove(made[0].cast, folder / "v.wav")


def test_every_count_is_found_on_its_sample(made):
    proof = made[0].proof
    assert proof.holds and len(proof.landings) == 27 and proof.strays == 0
    assert proof.worst <= 0.5 and min(one.likeness for one in proof.landings) > 0.999
    assert proof.mean > 0  # against exact times, so rounding to samples shows


@pytest.mark.parametrize("shift", [1, -3, 480, -4800])
def test_a_late_voice_is_seen_to_the_sample(made, folder, shift):
    proof = prove_changed(made, folder, np.roll(made[1], shift))
    assert not proof.holds and not proof.missing
    assert [round(one.error) for one in proof.landings] == [shift] * 27


def test_a_lost_word_and_a_word_too_many_are_seen(made, folder):
    voice = made[1].copy()
    lost = made[0].cast.placements[4]
    voice[lost.start : lost.end] = 0
    extra = made[0].cast.placements[0].clip.samples
    voice[-60_000 : -60_000 + len(extra)] += extra
    proof = prove_changed(made, folder, voice)
    assert proof.missing == (lost,) and proof.strays == 1


def test_swapped_words_are_seen(made, folder):
    voice = made[1].copy()
    one, two = made[0].cast.placements[1], made[0].cast.placements[2]
    for placement, other in ((one, two), (two, one)):
        voice[placement.start : placement.end] = 0
        voice[placement.start : placement.start + len(other.clip.samples)] = other.clip.samples
    assert not prove_changed(made, folder, voice).holds


def test_a_stem_of_another_rate_or_none_is_refused(made, folder):
    soundfile.write(folder / "v.wav", made[1], 44_100)
    for path in (folder / "v.wav", folder / "none.wav"):
        with pytest.raises(InputError):
            prove(made[0].cast, path)


def test_the_session_path_refuses_what_cannot_become_a_master(folder, short):
    with pytest.raises(InputError, match="no blocks"):
        produce(Session(), folder, folder / "m.wav")
    with pytest.raises(InputError, match="44100"):
        produce(short, folder, folder / "m.wav", rate=12_345)
    broken = short.model_copy(update={"voice": Session(voice={"take_book": {"path": "gone"}}).voice})
    with pytest.raises(InputError, match="gone"):
        produce(broken, folder, folder / "m.wav")
    assert list(folder.iterdir()) == []


def test_summary_holds_every_figure(made):
    summary = made[0].summary()
    assert summary["cues"] == 27 and summary["cues_not_found"] == [] and summary["misfits"] == []
    assert summary["loudness_lufs"] == -16.0 and summary["true_peak_dbtp"] <= -1
    assert summary["real_time_factor"] > 0 and summary["peak_memory_mb"] > 10


def test_the_report_names_each_line_that_does_not_fit_once_at_its_worst(folder):
    squeezed = Session(opening=2, closing=2, blocks=(breath("4-4", 9, count_length="0.25"),))
    told = report(produce(squeezed, folder, folder / "m.wav")).splitlines()
    assert any(line.startswith("fit: ") and "longer than its slot" in line for line in told)
    rows = [line for line in told if "needs" in line]
    assert len(rows) == len({row.split("'")[1] for row in rows}) <= 5 and "more times" in rows[0]
    assert len(told) < 30
