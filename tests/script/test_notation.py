"""Breath notation: printed back as read, and errors that point at the character."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from strategies import STROKES, paced_sets, patterns

from nafas.script import NotationError, PhaseKind, block_notation, format_set, parse_set, read_block
from nafas.script.notation.phases import format_pattern, parse_pattern


@given(patterns(), st.integers(1, 500), st.none() | st.fractions("1/5", 6, max_denominator=1000))
def test_what_is_printed_reads_back_the_same(pattern, rounds, length):
    said = parse_set(format_set(pattern, rounds, length))
    assert (said.pattern, said.rounds, said.count_length) == (pattern, rounds, length)


@given(paced_sets() | STROKES)
def test_a_whole_set_is_printed_so_that_it_reads_back(block):
    """All that notation says of it; what it leaves out is at its default."""
    said = read_block(block_notation(block), "x")
    same = (
        "pattern",
        "rounds",
        "count_length",
        "pacing",
        "drop_hold",
        "fade",
        "ease",
        "strokes",
        "per_minute",
        "every",
    )
    assert all(getattr(said, name, None) == getattr(block, name, None) for name in same)
    assert block_notation(said) == block_notation(block)


@pytest.mark.parametrize(
    ("typed", "printed"),
    [
        ("4-4-4-4 x2 drop step step 1 to 8", "4-4-4-4 x2 step 1 to 8 drop step"),
        ("4-4 step 1 on exhale to 8", "4-4 x1 step 1 on out to 8"),
        ("8-8 x2 step -2 to 4", "8-8 x2 step -2 to 4"),
        ("3-3 x4 ladder 1 1.5 2/1 round down", "3-3 x4 ladder 1 3/2 2 round down"),
        ("4-6 x8 @ 60/min glide 48/min", "4-6 x8 @ 1s glide to 1.25s"),
        ("in 2+2+2=6 (belly,ribs,chest), out 8; 6-8 x2", "in 2+2+2 (belly, ribs, chest), out 8 x1; 6-8 x2"),
        ("in left 4 to 3/4 nose, hold 30 s calls release half, out R 6", None),
        ("4-6 x9 fade full 3 cues silent at-least 60s full 1 @ as set-2", None),
        ("rapid 40 @ 50 demo 5 arms down", "rapid 40 @ 50/min every 10 down arms demo 5 @ 10/min rest 45s"),
        ("rest 20", "rest 20s"),
    ],
)
def test_everything_a_set_can_say(typed, printed):
    block = read_block(typed)
    written = block_notation(block)
    assert read_block(written) == block and (printed is None or written == printed)


@pytest.mark.parametrize(
    ("typed", "printed"),
    [
        ("4-2-8", "4-2-8"),
        (" 4 – 4-4-4 ", "4-4-4-4"),
        ("in 4, hold 7, out 8", "4-7-8"),
        ("inhale 4, exhale 6", "4-6"),
        ("IN 4, Hold 7 Silent, out 8 down", "in 4, hold 7 silent, out 8 down"),
        ("out 4, hold 2, in 4", "out 4, hold 2, in 4"),
        ('in 4 "lift the lamp", out 6', 'in 4 "lift the lamp", out 6'),
        ("4-0-6-0", "4-0-6-0"),
    ],
)
def test_one_way_of_writing(typed, printed):
    assert format_pattern(parse_pattern(typed)) == printed


def test_hold_is_full_after_an_inhale_and_empty_after_an_exhale():
    kinds = [phase.kind for phase in parse_pattern("in 4, hold 2, out 4, hold 2")]
    assert kinds == [PhaseKind.INHALE, PhaseKind.HOLD_FULL, PhaseKind.EXHALE, PhaseKind.HOLD_EMPTY]


def test_rounds_and_count_length_in_either_order():
    assert parse_set("4-6 @ 1.2s x3") == parse_set("4-6 ×3 @1.2")


@pytest.mark.parametrize(
    ("typed", "column", "expects"),
    [
        ("", 0, "4-2-8"),
        ("4", 1, "4-4"),
        ("4-2-8-3-2", 8, "in words"),
        ("4-2-99", 4, "0 to 60"),
        ("4-2-", 4, "0 to 60"),
        ("in 4 hold", 5, "x6"),
        ("4-2-8 x0", 7, "1 to 500"),
        ("4-2-8 x501", 7, "1 to 500"),
        ("4-2-8 @ 0", 8, "0.2 to 6"),
        ("4-2-8 @ 1/0", 8, "0.2 to 6"),
        ("4-2-8 x6 x7", 9, "keep one"),
        ("4-%", 2, "4-2-8"),
        ("in 4, sigh 3", 6, "hold-full"),
        ("out 4, hold-full 3", 0, "hold-empty"),
        ("in 2+2+2=7, out 8", 9, "=6"),
        ("in 2+2~2, out 8", 6, "all with"),
        ("in 2+2 (belly), out 8", 7, "every part"),
        ("in 2+2 (belly, ribs", 7, "(belly, ribs, chest)"),
        ('in 4 "slowly', 5, "end the words"),
        ("in 4, hold 400s, out 4", 11, "1 to 300"),
        ("in 4 hum, out 4", 5, "exhale"),
        ("in 4, hold 20s calls 30, out 4", 15, "write less"),
        ("in 4, hold 20s calls loud, out 4", 21, "half"),
        ("in 4 nose mouth, out 4", 10, "keep one"),
        ("in 4, out 4, hold 9 calls release", 0, "hold 30s"),
        ("4-4 x2 step 1 to 70", 17, "1 to 60"),
        ("4-4 x2 step 1 to 3", 7, "change it"),
        ("4-4 x2 step 0 to 8", 12, "1 to 20"),
        ("4-4 x400 step 1 to 8", 9, "within 500"),
        ("3-3 x4 ladder 1 3/2 round refuse", 7, "round up or down"),
        ("30-30 ladder 1 3", 6, "1 to 60"),
        ("4-6 glide to 9s", 13, "0.2 to 6"),
        ("4-6 @ 400/min", 6, "300 a minute"),
        ("4-6 fade loud", 9, "chimes"),
        ("4-6 step 1 to 8; 6-8 x2", 15, "keep one"),
        ("0-0", 0, "4-6"),
        ('in 4 "", out 4', 5, "1 to 80"),
        ("٤-٤ x" + "9" * 5000, 5, "1 to 500"),
    ],
)
def test_errors_point_at_the_character_and_say_what_to_write(typed, column, expects):
    with pytest.raises(NotationError) as caught:
        parse_set(typed)
    assert (caught.value.column, expects in caught.value.remedy) == (column, True), str(caught.value)


@given(st.text(max_size=40))
def test_anything_typed_is_read_or_refused_with_a_place(text):
    try:
        parse_set(text)
    except NotationError as error:
        assert 0 <= error.column <= len(text)


@pytest.mark.parametrize(
    ("text", "style"),
    [
        (
            'ahead 2 first 4 carrier "sea" long last',
            {
                "cue": "ahead",
                "cue_room": 2,
                "first_room": 4,
                "carrier": "sea",
                "long_forms": True,
                "announce_last": True,
            },
        ),
        ("alone silent bare", {"cue": "none", "counting": "silent", "ways": False}),
        ("tick", {"counting": "tick"}),
    ],
)
def test_how_a_set_is_counted_aloud_is_written(text, style):
    block = read_block(f"4-6 x3 @ 1.2s say {text}")
    assert {name: getattr(block.style, name) for name in style} == style
    assert block_notation(block) == f"4-6 x3 @ 1.2s say {text}"


@pytest.mark.parametrize(
    ("text", "column", "says"),
    [
        ("4-6 say", 7, "missing"),
        ("4-6 say long long", 13, "twice"),
        ("4-6 say ahead 9", 14, "1 to 8"),
        ('4-6 say carrier ""', 0, "carrier"),
    ],
)
def test_a_fault_in_it_is_named(text, column, says):
    with pytest.raises(NotationError) as fault:
        read_block(text)
    assert (fault.value.column, says in str(fault.value)) == (column, True)


def test_a_length_in_time_is_the_nearest_whole_rounds_of_each_step():
    assert read_block("4-4-6 for 2min").rounds == 9 and read_block("4-6 for 90s @ 2s").rounds == 4
    assert read_block("4-4-4-4 step 1 to 8 for 8min").rounds == 4  # 120 s once through
    for wrong in ("4-6 for 5", "4-6 for", "4-6 x3 for 5min", "4-4; 5-5 for 5min"):
        with pytest.raises(NotationError):
            read_block(wrong)
