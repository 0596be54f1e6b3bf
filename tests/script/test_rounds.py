"""Sets written out round by round: the worked facts of the trade, and what must hold for any set."""

from fractions import Fraction

import pytest
from hypothesis import given
from strategies import paced_sets

from nafas.errors import InputError
from nafas.script import Level, Session, expand, load_session, parse_set, read_block, save_session
from nafas.script.expansion import cue_room_seconds, runs, set_seconds
from nafas.script.model.guidance import whole_rounds

ONE = Fraction(1)


def rounds(notation, count_length=ONE, **more):
    block = read_block(notation)
    return expand(type(block).model_validate({**block.model_dump(), **more}), count_length)


def counts(notation):
    return [[phase.counts for phase in one.phases] for one in rounds(notation)]


def test_stepping_up_without_the_last_hold_is_210_counts():
    """2 x 4 x (4+5+6+7+8) - (4+5+6+7+8) = 210 (common practice, no source)."""
    found = rounds("4-4-4-4 x2 step 1 to 8 drop step")
    assert sum(one.counts for one in found) == 210 and [one.step for one in found] == [1, 1, 2, 2, 3, 3, 4, 4, 5, 5]
    assert [len(one.phases) for one in found] == [4, 3] * 5


@pytest.mark.parametrize(
    ("notation", "exhales"),
    [
        ("3-3 ladder 1 3/2 2", [3, 5, 6]),  # 3 x 1 1/2 = 4 1/2, rounded up to 5
        ("4-4 ladder 1 3/2 2", [4, 6, 8]),
        ("3-3 ladder 3/2 round down", [4]),
        ("3-3 ladder 3/2 round nearest", [5]),
        ("4-4 x1 step 1 on out to 8", [4, 5, 6, 7, 8]),
        ("8-8 x1 step -2 on out to 4", [8, 6, 4]),
    ],
)
def test_how_the_exhale_grows(notation, exhales):
    """Common practice, no source."""
    assert [found[-1] for found in counts(notation)] == exhales
    assert len({found[0] for found in counts(notation)}) == 1


def test_steps_by_hand_and_parts_that_grow():
    table = "in 2+2+2, out 8 x3; 6-8 x2 @ 1.5s; in 2+2+2, out 8 x3"
    assert [one.step for one in rounds(table)] == [1, 1, 1, 2, 2, 3, 3, 3]
    assert [one.count_length for one in rounds(table)][2:5] == [1, Fraction(3, 2), Fraction(3, 2)]
    grown = rounds("in 2+2+2, out 8 x1 step 1 on in to 8")[-1].phases[0]
    assert grown.counts == 8 and sum(part.counts for part in grown.parts) == 8 and len(grown.parts) == 3


def test_counts_glide_evenly_from_first_to_last():
    lengths = [one.count_length for one in rounds("4-6 x5 glide to 1.2s")]
    assert lengths == [ONE + Fraction(n, 20) for n in range(5)] and {
        one.step for one in rounds("4-6 x5 glide to 2s")
    } == {1}


def test_practice_alone_is_whole_rounds():
    """A minute of 5-5-5 is exactly 4 rounds; two minutes of 4-4-6 are 8.57 (common practice, no source)."""
    assert whole_rounds(Fraction(60), [Fraction(15)], "at-least") == 4
    assert whole_rounds(Fraction(25), [Fraction(10)], "about") == 3  # halfway is the larger
    assert whole_rounds(Fraction(120), [Fraction(14)], "about") == 9  # 2:06 is nearer than 1:52
    assert whole_rounds(Fraction(112), [Fraction(14)], "at-least") == 8
    assert whole_rounds(Fraction(1), [Fraction(14)], "about") == 1
    assert Fraction(120, 14) == pytest.approx(8.57, abs=0.005)
    found = rounds("5-5-5 x3 fade full 3 chimes at-least 60s full 1")
    assert [one.level for one in found] == [Level.FULL] * 3 + [Level.CHIMES] * 4 + [Level.FULL]
    assert found[3].seconds * 4 == 60


def test_the_voice_fades_and_a_step_takes_what_is_left():
    levels = "".join(one.level.value[0] for one in rounds("4-6 x9 fade full 2 cues chimes 3 silent 1"))
    assert levels == "ffccccc"[:2] + "ccc" + "ccc" + "s"
    assert [one.level.value for one in rounds("4-6 x4 fade full 1 cues 1")] == ["full", "cues", "cues", "cues"]


def test_a_fade_longer_than_a_paced_set_is_refused_where_a_plain_one_grows():
    assert len(rounds("4-6 x2 fade full 2 silent 5 full 1")) == 8
    block = read_block("4-4 x2 step 1 to 5 fade full 9")
    with pytest.raises(ValueError, match="needs 9 rounds, the set has 4; shorten"):
        Session(blocks=(block,))


def test_cues_ahead_have_room_only_where_they_are_said():
    style = {"cue": "ahead", "cue_room": 2, "first_room": 4}
    found = rounds("4-4-6 x4 fade full 2 cues 1 silent 1", style=style)
    assert [one.counts for one in found] == [14 + 12, 14 + 6, 14 + 6, 14]
    block = read_block("4-4-6 x4 fade full 2 cues 1 silent 1").model_copy(
        update={"style": type(read_block("4-4").style)(**style)}
    )
    assert cue_room_seconds(block, ONE) == 24


@given(paced_sets())
def test_what_holds_for_any_set(block):
    length = block.count_length or ONE
    found = expand(block, length)
    assert [one.number for one in found] == list(range(1, len(found) + 1))
    assert found[0].opens_step and found[-1].step == max(one.step for one in found)
    assert sum(one.before_last for one in found) == (block.style.announce_last and len(found) > 1)
    whole = sum((one.seconds for one in found), Fraction(0))
    prepare = block.prepare.length(found[0].count_length) if block.prepare else 0
    eases = sum(one.opens_step for one in found) - 1
    assert set_seconds(block, length) == whole + prepare + eases * block.ease
    assert [n for first, last in runs(found) for n in range(first.number, last.number + 1)] == [
        one.number for one in found
    ]
    for step in block.fade:  # every stretch alone is whole rounds, and long enough where it must be
        if step.seconds and step.rule == "at-least" and not step.level.speaks:
            alone = sum((one.seconds for one in found if one.level is step.level), Fraction(0))
            assert alone >= step.seconds


def test_a_count_length_is_borrowed_from_an_earlier_set_only(folder):
    first, second = read_block("4-6 @ 1.5s", "one"), read_block("4-6 @ as one", "two")
    session = Session(blocks=(first, second))
    assert session.count_lengths == {"one": Fraction(3, 2), "two": Fraction(3, 2)}
    save_session(session, folder / "s.nafas")
    assert load_session(folder / "s.nafas") == session
    for blocks in ((second, first), (second,), (read_block("4-6 @ as two", "two"),)):
        with pytest.raises(ValueError, match="no earlier breath set; name one"):
            Session(blocks=blocks)
    assert parse_set("4-6 @ as a-b-2").count_from == "a-b-2"


def test_an_older_file_is_read_and_a_bad_set_in_it_is_named(folder):
    path = folder / "old.nafas"
    path.write_text('{"format": 1, "blocks": [{"kind": "breath", "id": "s", "pattern": "4-6", "rounds": 2}]}')
    assert load_session(path).format == 2 and load_session(path).blocks[0].pacing is None
    bad = '{"format": 2, "blocks": [{"kind": "breath", "id": "s", "pattern": "4-6", "rounds": 2, "title": "Alone",'
    path.write_text(bad + '"pacing": {"kind": "step-up", "limit": 9}, "fade": [{"level": "full", "rounds": 99}]}]}')
    with pytest.raises(InputError, match=r"Alone.*needs 99 rounds.*shorten the fade"):
        load_session(path)
