"""Sets begin on beats, at the cost of a pause that is a little longer."""

import json
from fractions import Fraction

import numpy as np
import pytest
import soundfile
from helpers import breath
from hypothesis import given
from hypothesis import strategies as st

from nafas.cli.main import main
from nafas.script import BreathSet, Rest, Session, Talk, read_block, save_session
from nafas.script.edits.session_edits import insert_blocks
from nafas.script.model.assets import Asset
from nafas.script.model.beds import BeatGrid, FileBed
from nafas.sound.beat.beat_grid import PlayingBeatGrid, beat_offsets
from nafas.suggest.beat_snap import begin_on_beats
from nafas.timing import compile_session, paced


def firsts(session):
    timeline = compile_session(session, paced())
    found = {}
    for moment in timeline.counted:
        found.setdefault(moment.block, float(moment.at))
    return timeline, found


def a_set(name, count="1"):
    return breath("4-4", 2).model_copy(update={"id": name, "count_length": Fraction(count)})


@given(st.lists(st.fractions(0, 20, max_denominator=777), min_size=1, max_size=5), st.floats(0.3, 2.5), st.floats(0, 5))
def test_every_set_begins_on_a_beat_and_no_pause_grows_by_a_whole_one(pauses, seconds, opening):
    session = Session(opening=Fraction(opening).limit_denominator(1000))
    for number, pause in enumerate(pauses):
        talk = Talk(id=f"t{number}", paragraphs=("A few words.",), pause_after=pause)
        session = insert_blocks(session, len(session.blocks), [talk, a_set(f"s{number}")])
    timeline, before = firsts(session)
    beat = PlayingBeatGrid(seconds, 0.0, 4)
    made = begin_on_beats(timeline, beat)
    _, after = firsts(made.session)
    anchor = min(after.values())
    sets = [at for name, at in after.items() if name.startswith("s")]
    assert beat_offsets([at - anchor for at in sets], beat, 0.0).worst <= 0.0011
    assert made.left == () and 0 <= made.longer < len(pauses) * seconds
    assert after["s0"] == before["s0"]  # the first stands where the bed begins on it
    for old, new in zip(session.blocks, made.session.blocks):
        if isinstance(old, Talk):
            assert 0 <= new.pause_after - old.pause_after < Fraction(seconds) + 1


@pytest.mark.parametrize(("before", "field"), [
    (Rest(id="r", seconds=Fraction("10.3")), "seconds"),
    (Talk(id="r", paragraphs=("Words.",), slot=Fraction("6.5")), "slot"),
    (read_block("rapid 7 @ 50/min rest 20"), "recovery"),
])  # fmt: skip
def test_each_kind_of_block_waits_at_its_end(before, field):
    session = insert_blocks(Session(), 0, [a_set("one"), before, a_set("two")])
    made = begin_on_beats(firsts(session)[0], PlayingBeatGrid(0.7, 0, 4))
    _, after = firsts(made.session)
    assert beat_offsets([after["two"] - after["one"]], PlayingBeatGrid(0.7, 0, 4), 0).worst < 0.001
    assert getattr(made.session.blocks[1], field) > getattr(session.blocks[1], field)


def test_a_set_that_follows_another_at_once_is_named_and_left():
    session = insert_blocks(Session(), 0, [a_set("one"), a_set("two").model_copy(update={"title": "The second"})])
    made = begin_on_beats(firsts(session)[0], PlayingBeatGrid(0.77, 0, 4))
    assert made.left == ("The second",) and made.session.blocks == session.blocks
    assert begin_on_beats(firsts(session)[0], PlayingBeatGrid(1.0, 0, 4)).left == ()  # on a beat as it is


def test_a_pause_that_is_as_long_as_it_may_be_stays_and_what_lies_outside_the_bed_too():
    full = Rest(id="r", seconds=3600)
    session = insert_blocks(Session(opening=0), 0, [a_set("one"), full, a_set("two")])
    made = begin_on_beats(firsts(session)[0], PlayingBeatGrid(0.7, 0, 4))
    assert made.session.blocks == session.blocks and len(made.left) == 1
    outside = begin_on_beats(firsts(session)[0], PlayingBeatGrid(0.7, 0, 4), 0.0, 100.0)
    assert outside.left == () and outside.longer == 0
    assert begin_on_beats(firsts(Session())[0], PlayingBeatGrid(0.7, 0, 4)).longer == 0


def test_the_command_line_says_how_counts_and_beats_agree_and_lets_sets_begin_on_them(folder, capsys):
    rate = 48_000
    noise = np.random.default_rng(1).normal(0, 0.05, (30 * rate, 2))
    soundfile.write(folder / "bed.flac", noise, rate)
    bed = FileBed(file=Asset(path="bed.flac"), pulse=BeatGrid(bpm=60, first=0.25))
    talk = Talk(id="hello", paragraphs=("Sit by the rail, and look at the water.",), pause_after=1)
    counted = [
        BreathSet.model_validate({"id": i, "pattern": "3-3", "rounds": 2, "count_length": 1}) for i in ("a", "b")
    ]
    session = Session(opening=2, closing=3, bed=bed, blocks=(counted[0], talk, counted[1]))
    save_session(session, folder / "a.nafas")
    assert main(["balance", str(folder / "a.nafas"), "--json"]) == 0
    before = json.loads(capsys.readouterr().out)
    assert 5 < before["worst_lu"] < 25 and 5 < before["voice_over_bed_lu"] < 25
    assert before["beds"][0]["agreeing"] < 1 and before["beds"][0]["bpm"] == pytest.approx(60)
    assert main(["balance", str(folder / "a.nafas")]) == 0
    told = capsys.readouterr().out
    assert "voice over bed" in told and "ms off" in told and "--on-beats" in told
    (folder / "sub").mkdir()
    to = folder / "sub" / "b.nafas"
    assert main(["balance", str(folder / "a.nafas"), "--on-beats", "-o", str(to)]) == 0
    assert "s longer" in capsys.readouterr().out
    assert main(["balance", str(to), "--json", "--allow-outside"]) == 0
    assert json.loads(capsys.readouterr().out)["beds"][0]["agreeing"] == 1
    assert main(["balance", str(to), "--on-beats"]) == 2 and "name its file" in capsys.readouterr().err
