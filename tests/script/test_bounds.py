"""The bounds of every number in a script, at the edge and just past it."""

from fractions import Fraction

import pytest
from helpers import breath
from hypothesis import example, given
from hypothesis import strategies as st

from nafas.script import Rest, Session, Talk
from nafas.script.model.exact import decimal_text, parse_seconds
from nafas.script.model.marks import Mark
from nafas.script.model.session import MAX_BLOCKS
from nafas.script.model.targets import TARGETS

SET = {"id": "a", "pattern": "4-6", "rounds": 1}


def make(kind, **fields):
    if kind == "breath":
        return breath(**{"notation": "4-6", "rounds": 1, **fields})
    base = {"talk": {"id": "a"}, "rest": {"id": "a", "seconds": 9}, "mark": {"felt": "rushed"}, "session": {}}[kind]
    return {"talk": Talk, "rest": Rest, "mark": Mark, "session": Session}[kind].model_validate(base | fields)


@pytest.mark.parametrize(
    ("kind", "field", "good", "bad"),
    [
        ("breath", "rounds", [1, 500], [0, 501, -1, 1.5, "6", True]),
        ("breath", "count_length", ["0.2", 6, "20/21", None], ["0.19", "6.01", 0, -1, "x", True, "1/0"]),
        ("breath", "style", [{"cue_room": 1}, {"cue_room": 8}], [{"cue_room": 0}, {"cue_room": 9}, {"cue": "late"}]),
        ("breath", "notation", ["in 4 ahead 0, out 4", "in 4 ahead 12, out 4"], ["in 4 ahead 13, out 4"]),
        (
            "breath",
            "notation",
            ["in 4 to 1/4, out 4", "in 4 to 1, out 4"],
            ["in 4 to 1/5, out 4", "in 4 to 5/4, out 4"],
        ),
        ("breath", "chimes", [True, False], ["perhaps", 3]),
        ("breath", "id", ["a", "a" * 40, "0-a"], ["", "A", "-a", "a" * 41, "a b"]),
        ("talk", "slot", [1, 3600, None], [0, "0.9", 3601]),
        ("talk", "pause_after", [0, 600], [-1, 601]),
        ("talk", "sentence_pause", [0, 60], [61]),
        ("talk", "paragraphs", [[], ["x" * 20_000]], [["x" * 20_001], "words", [3], ["x"] * 2_001]),
        ("rest", "seconds", [1, 3600, "1/3600"][:2], [0, 3601, None]),
        ("mark", "round", [0, 100_000], [-1, 100_001]),
        ("mark", "after", [0, 14_400], [-1, 14_401]),
        ("mark", "note", ["", "x" * 500], ["x" * 501]),
        ("session", "opening", [0, 120], [-1, 121]),
        ("session", "closing", [0, 300], [301]),
        ("session", "target_length", [None, 1, 14_400], [0, 14_401]),
        ("session", "title", ["", "x" * 120, "L\u00a0ombre"], ["x" * 121, "two\nlines", "\x07"]),
        ("session", "master", [{"loudness": -40}, {"ceiling": 0}], [{"loudness": -7}, {"ceiling": 0.1}, {"gain": 3}]),
        (
            "session",
            "bed",
            [None, {"under_voice": 40}, {"kind": "rain", "motion": 1}],
            [{"under_voice": 41}, {"kind": "snow"}, {"seed": -1}, {"kind": "rain", "depth": 2}, {"kind": "file"}],
        ),
        ("session", "chimes", [{"phase": 6}], [{"phase": 6.1}, {"bell": "loud"}]),
        ("session", "voice", [{"pace": 80}, {"engine_voice": "en-us"}], [{"pace": 79}, {"engine_voice": "a/b"}]),
    ],
)
def test_bounds(kind, field, good, bad):
    for value in good:
        make(kind, **{field: value})
    for value in bad:
        with pytest.raises(ValueError):
            make(kind, **{field: value})


def test_very_many_blocks():
    blocks = tuple(Rest(id=f"r{n}", seconds=1) for n in range(MAX_BLOCKS))
    assert Session(blocks=blocks).written_length == MAX_BLOCKS + 16
    with pytest.raises(ValueError):
        Session(blocks=(*blocks, Rest(id="one-more", seconds=1)))


def test_two_blocks_may_not_share_an_id():
    with pytest.raises(ValueError, match="used twice"):
        Session(blocks=(Rest(id="r", seconds=1), Rest(id="r", seconds=1)))


def test_a_session_cannot_be_changed_in_place():
    session = Session(blocks=(breath(),))
    for thing, name in ((session, "title"), (session.blocks[0], "rounds"), (session.blocks[0].pattern, "phases")):
        with pytest.raises(ValueError, match="frozen"):
            setattr(thing, name, None)
    assert hash(session.blocks[0]) == hash(breath())


@given(st.fractions(0, 10_000, max_denominator=10**9))
@example(Fraction(1_342_177_281, 2**27))  # exact in 27 places, which is more than is read
def test_seconds_read_back_exactly_as_written(value):
    assert parse_seconds(decimal_text(value)) == value


@given(st.floats(0, 10_000).filter(lambda f: f == 0 or f > 1e-6), st.integers(0, 10**6))
def test_a_float_means_the_decimal_it_is_written_as(number, whole):
    assert parse_seconds(round(number, 4)) == Fraction(repr(round(number, 4)))
    assert parse_seconds(whole) == whole


@pytest.mark.parametrize(
    "text", ["", " ", "one", "1,2", "1e99", "nan", "inf", "1/0", "0.0000000000001", "9" * 60, None, [], {}]
)
def test_what_is_no_length_says_what_to_write(text):
    with pytest.raises(ValueError, match="write"):
        parse_seconds(text)


def test_targets_are_those_of_the_services():
    """Broadcast: EBU R 128. The others: common practice, no source; mono 3 dB less, as ITU-R BS.1770 adds channels."""
    assert {(target.key, target.loudness, target.mono) for target in TARGETS} == {
        ("spoken", -16.0, False),
        ("spoken-mono", -19.0, True),
        ("streaming", -14.0, False),
        ("broadcast", -23.0, False),
    }
