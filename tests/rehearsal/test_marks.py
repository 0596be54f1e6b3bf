"""Marks stand on their place of the script, whatever becomes of it."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from nafas.demo import SESSION
from nafas.rehearsal.places import mark_at, time_of
from nafas.script import Session, load_session, read_block, save_session
from nafas.script.edits.history import History
from nafas.script.edits.session_edits import change, change_block, remove_blocks
from nafas.script.model.marks import MARKS, MOST_MARKS, Felt, Mark
from nafas.timing import compile_session, paced

TIMELINE = compile_session(load_session(SESSION), paced())


@given(st.floats(0, float(TIMELINE.length)))
def test_a_mark_is_found_again_at_its_time(seconds):
    mark = mark_at(TIMELINE, seconds, Felt.RUSHED)
    assert float(time_of(TIMELINE, mark)) == pytest.approx(seconds, abs=0.001)


def test_a_mark_follows_its_place_when_the_script_changes():
    session = Session(opening=4, blocks=(read_block("4-6 x3", "one"), read_block("4-2-6 x4", "two")))
    old = compile_session(session, paced())
    at = old.blocks[1].start + 12 + 6 + Fraction(1, 2)  # round 2 of the second set, its exhale half a second old
    mark = mark_at(old, float(at), Felt.BREATH)
    assert (mark.block, mark.round, mark.phase, mark.count) == ("two", 2, 3, 1) and mark.after == Fraction(1, 2)
    longer = compile_session(change_block(session, 0, rounds=5, count_length=2), paced())
    assert time_of(longer, mark) == at + 70 and mark_at(longer, float(at + 70), Felt.BREATH) == mark
    fewer = compile_session(change_block(session, 1, rounds=1), paced())
    nearest = time_of(fewer, mark)
    assert fewer.blocks[1].start < nearest < fewer.blocks[1].end  # the last count of the round that is left
    assert time_of(compile_session(remove_blocks(session, [1]), paced()), mark) is None
    outside = mark_at(old, 1.5, Felt.LOUD)
    assert outside.block == "" and time_of(longer, outside) == Fraction(3, 2)


def test_a_cue_said_ahead_of_a_silent_phase_keeps_its_marks_apart():
    block = change_block(Session(blocks=(read_block("4-6 x2", "s"),)), 0, style={"cue": "ahead", "counting": "silent"})
    timeline = compile_session(block, paced())
    for seconds in (0.2, 1.4, 2.9, 5.6, 9.0, 13.3):
        assert float(time_of(timeline, mark_at(timeline, seconds, Felt.LOST))) == pytest.approx(seconds, abs=0.001)


def test_marks_are_saved_with_the_session_and_undo_leaves_them(folder):
    session = load_session(SESSION)
    history = History(session)
    history.change(change(session, title="Other"), "title")
    marks = (mark_at(TIMELINE, 100.0, Felt.LOST, note="here"),)
    history.rewrite(lambda value: value.model_copy(update={"marks": marks}))
    assert history.undo() and history.present.title == session.title and history.present.marks == marks
    assert history.redo() and history.present.title == "Other" and history.present.marks == marks
    save_session(history.present, folder / "s.nafas")
    assert load_session(folder / "s.nafas") == history.present


def test_a_mark_keeps_its_bounds():
    with pytest.raises(ValidationError):
        Mark(felt=Felt.NOTE, sound="../elsewhere.wav")
    with pytest.raises(ValidationError):
        Mark(felt=Felt.LOST, after=-1)
    with pytest.raises(ValidationError):
        MARKS.validate_python((Mark(felt=Felt.LOST),) * (MOST_MARKS + 1))
