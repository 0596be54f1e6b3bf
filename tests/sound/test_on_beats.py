"""Sets begin on beats, at the cost of a pause that is a little longer."""

from fractions import Fraction

import pytest
from helpers import breath
from hypothesis import given
from hypothesis import strategies as st

from nafas.script import Rest, Session, Talk, read_block
from nafas.script.edit import insert_blocks
from nafas.sound.on_beats import begin_on_beats
from nafas.sound.pulse import Beat, against
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
    beat = Beat(seconds, 0.0, 4)
    made = begin_on_beats(timeline, beat)
    _, after = firsts(made.session)
    anchor = min(after.values())
    sets = [at for name, at in after.items() if name.startswith("s")]
    assert against([at - anchor for at in sets], beat, 0.0).worst <= 0.0011
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
    made = begin_on_beats(firsts(session)[0], Beat(0.7, 0, 4))
    _, after = firsts(made.session)
    assert against([after["two"] - after["one"]], Beat(0.7, 0, 4), 0).worst < 0.001
    assert getattr(made.session.blocks[1], field) > getattr(session.blocks[1], field)


def test_a_set_that_follows_another_at_once_is_named_and_left():
    session = insert_blocks(Session(), 0, [a_set("one"), a_set("two").model_copy(update={"title": "The second"})])
    made = begin_on_beats(firsts(session)[0], Beat(0.77, 0, 4))
    assert made.left == ("The second",) and made.session.blocks == session.blocks
    assert begin_on_beats(firsts(session)[0], Beat(1.0, 0, 4)).left == ()  # on a beat as it is


def test_a_pause_that_is_as_long_as_it_may_be_stays_and_what_lies_outside_the_bed_too():
    full = Rest(id="r", seconds=3600)
    session = insert_blocks(Session(opening=0), 0, [a_set("one"), full, a_set("two")])
    made = begin_on_beats(firsts(session)[0], Beat(0.7, 0, 4))
    assert made.session.blocks == session.blocks and len(made.left) == 1
    outside = begin_on_beats(firsts(session)[0], Beat(0.7, 0, 4), 0.0, 100.0)
    assert outside.left == () and outside.longer == 0
    assert begin_on_beats(firsts(Session())[0], Beat(0.7, 0, 4)).longer == 0
