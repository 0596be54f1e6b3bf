"""Lines as producers type them."""

from collections import Counter
from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nafas.script import Session
from nafas.script.expansion import set_seconds
from nafas.script.model.blocks import BreathSet
from nafas.script.notation.block import block_notation, read_block
from nafas.script.notation.typed.interpret import interpret
from nafas.script.notation.typed.vocabulary import Kind, known_words, number_words
from nafas.timing.preview import preview


def lines_of(name):
    lines = (Path(__file__).parent / name).read_text(encoding="utf-8").splitlines()
    return [line.split("\t") for line in lines if line and not line.startswith("#")]


LINES = [*lines_of("typed.tsv"), *lines_of("typed_calls.tsv")]


@pytest.mark.parametrize(("typed", "wanted"), LINES, ids=[typed for typed, _ in LINES])
def test_what_is_typed_is_understood(typed, wanted):
    found = interpret(typed)
    if wanted == "?":
        assert not found.readings and found.fault is not None and found.fault.remedy
        for offer in found.offers:
            assert interpret(offer).readings
        return
    assert found.readings, f"{found.fault}; {found.offers}"
    assert found.readings[0].notation.split("\n") == [block_notation(read_block(line)) for line in wanted.split(" / ")]


def test_a_length_offers_both_neighbours_and_says_what_they_come_to():
    found = interpret("4-4-6 for 2 min")
    assert [reading.blocks[0].rounds for reading in found.readings] == [9, 8]
    assert found.readings[0].note == "9 rounds are 2:06, 6 s over" and "1:52, 8 s under" in found.readings[1].note
    assert [reading.note for reading in interpret("4-6 for 5 min").readings] == [""]  # exact: nothing to choose
    slow = interpret("4-6 for 5 min", Fraction(6, 5)).readings[0]  # counts of 1.2 s, as the session has them
    assert slow.blocks[0].rounds == 25
    assert interpret("4-6 for 5 min @ 2s", Fraction(6, 5)).readings[0].blocks[0].rounds == 15


def test_what_is_written_in_seconds_lasts_so_many_whatever_the_session_s_count():
    slow = Fraction(6, 5)
    for typed in ("4s in, 6s out", "4s-6s", "in for 4 seconds, out for 6 seconds"):
        assert interpret(typed).readings[0].notation == "4-6 x1"
        assert interpret(typed, slow).readings[0].notation == "4-6 x1 @ 1s"
    assert interpret("in 4, out 6", slow).readings[0].notation == "4-6 x1"  # counts are the session's
    assert interpret("in 4, hold 30s, out 6", slow).readings[0].notation == "in 4, hold 30s, out 6 x1"
    assert interpret("4s in, 6s out @ 2s", slow).readings[0].notation == "4-6 x1 @ 2s"


@pytest.mark.parametrize(
    ("typed", "read", "unused"),
    [
        ("maybe 4-6 for about 5 minutes", "4-6 x30", "“maybe”"),
        ("4-6 x8, softer every time", "4-6 x8", "“softer every time”"),
        ("4-4-4-4 with music", "4-4-4-4 x1", "“music”"),
        ("begin with 3-3 and work up to 6-6", "3-3 x1 step 1 to 6", "“begin”, “work”"),
        ("4-6 for 5", None, ""),  # never 4-6-5
        ("in 4, wobble 4, out 6", None, ""),  # a phase may be meant: never another breath
        ("hello there", None, ""),
        ("4 and 6 and then something with 8", None, ""),
    ],
)
def test_what_is_not_understood_is_left_out_and_reported(typed, read, unused):
    found = interpret(typed)
    if read is None:
        assert not found.ways and found.fault is not None
        return
    assert not found.readings and found.partial[0].notation == read
    assert found.partial[0].unused == unused


def test_nine_of_ten_lines_that_nobody_prepared_are_read():
    read = Counter()
    lines = lines_of("strangers.tsv")
    for typed, wanted, language in lines:
        ways = interpret(typed).ways
        expected = "\n".join(block_notation(read_block(each)) for each in wanted.split(" | "))
        read[language] += bool(ways) and ways[0].notation == expected
    assert len(lines) >= 150 and read.total() >= 0.9 * len(lines), read


def test_how_a_set_grows_is_never_dropped_in_silence():
    glides = interpret("box for three minutes, slower").readings[0]
    (block,) = glides.blocks
    assert block.rounds == 10 and glides.notation == "4-4-4-4 x10 glide to 1.25s"
    assert set_seconds(block, Fraction(1)) == 180 and "slower" in glides.note
    for line in ("4-6 for 3 min, a count more every round", "4-4 to 8-8, slower"):
        found = interpret(line)
        assert not found.readings and all(reading.unused for reading in found.partial), line


def test_what_a_name_usually_means_is_reported():
    assert interpret("box for 4 min").readings[0].note == "box: 4 counts each, as usual"


def test_a_fault_names_the_place_and_the_remedy():
    for typed, column, remedy in (("4-6 wobbly", 4, "4-2-8"), ("4-6 x0", 5, "1 to 500"), ("in 4 in 5", 9, "out 4")):
        fault = interpret(typed).fault
        assert (fault.column, remedy in fault.remedy) == (column, True), typed
    assert interpret("x" * 200_000).fault.remedy == "write a shorter one"


WORDS = st.sampled_from(
    [*known_words(), *list(number_words())[:60], "x", "@", ",", ";", "-", "+", "/", '"let go"', "=", ":"]
)
TYPED = st.lists(WORDS | st.integers(0, 70).map(str) | st.floats(0, 20).map(lambda n: f"{n:.1f}"), max_size=9)


@given(TYPED.map(" ".join) | st.text(max_size=30))
def test_whatever_is_typed_is_read_or_refused_and_never_a_fault_of_ours(typed):
    found = interpret(typed)
    assert bool(found.readings) != (found.fault is not None)
    for reading in found.ways:
        for block, line in zip(reading.blocks, reading.notation.split("\n")):
            assert block_notation(read_block(line)) == line
            if isinstance(block, BreathSet):  # what is read can be breathed: in and out in every step
                kinds = {phase.kind.value for phase in block.pattern.sounding}
                assert {"in", "out"} <= kinds
    for offer in found.offers:
        assert interpret(offer).readings


def test_no_word_stands_for_two_things():
    """Words of one language that are another's filler are kept by the first; none may change what a phase is."""
    words = known_words()
    assert words["expire"].value == words["espira"].value == "out" and words["inspire"].value == "in"
    assert words["droite"].kind is Kind.SIDE and "six" not in words and number_words()["sechs"] == 6


def test_a_preview_says_the_first_round_its_length_and_the_whole():
    found = preview(read_block("4-2-6 x5 @ 1.2s"), Session(language="de"))
    assert [float(seconds) for _, seconds in found.phases] == [4.8, 2.4, 7.2]
    assert found.words == ("einatmen, zwei, drei, vier", "halten, zwei", "ausatmen, zwei, drei, vier, fünf, sechs")
    assert found.summary == "5 rounds of 14.4 s, 1:12"
    assert preview(read_block("rest 45s"), Session()).summary == "0:45"
    assert preview(read_block("rapid 30"), Session()).words == ("30 strokes",)
    assert preview(read_block("4-4 x1 step 1 to 6"), Session()).rounds == 3
