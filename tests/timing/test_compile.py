"""Exact times: the worked facts of the trade, and properties that must hold for every session."""

from fractions import Fraction

import pytest
from helpers import breath
from hypothesis import given
from num2words import num2words
from strategies import sessions

from nafas.errors import InputError
from nafas.languages import LANGUAGES
from nafas.script import BreathSet, Rest, Session, Talk
from nafas.script.model.phase import Phase
from nafas.script.words.lexicon import count_word
from nafas.timing import EventKind, compile_session, paced, to_sample
from nafas.timing.breath import breath_points
from nafas.timing.clock import clock, parse_clock

PACED = paced()


def timeline_of(*blocks, **fields):
    return compile_session(Session(opening=0, closing=0, end_bell=False, blocks=blocks, **fields), PACED)


@pytest.mark.parametrize(
    ("notation", "rounds", "seconds"),
    [("4-2-8", 1, 14), ("4-2-8", 6, 84), ("5-5-5", 4, 60), ("4-4-6", 8, 112), ("4-4-6", 9, 126)],
)
def test_sets_last_what_the_trade_says(notation, rounds, seconds):
    """Common practice, no source."""
    assert timeline_of(breath(notation, rounds)).length == seconds


def test_a_count_length_can_land_exactly_on_two_minutes():
    """9 rounds of 4-4-6 in 2:00 take 120/126 s a count (common practice, no source)."""
    assert timeline_of(breath("4-4-6", 9, count_length="20/21")).length == 120


def test_a_cue_ahead_costs_room_of_its_own():
    """Said by hand before count one, cues double a 4-4-6 unnoticed, 14 s to 28 s (common practice, no source)."""
    ahead = breath("4-4-6", 1, style={"cue": "ahead", "cue_room": 4})
    assert timeline_of(breath("4-4-6", 1)).length == 14
    assert timeline_of(ahead).length == 14 + 3 * 4
    events = [(m.kind, m.at, m.text) for m in timeline_of(ahead).moments if m.text][:3]
    assert events == [(EventKind.CUE, 0, "inhale"), (EventKind.COUNT, 4, "one"), (EventKind.COUNT, 5, "two")]


def words(block, **fields):
    return " ".join(m.text or "-" for m in timeline_of(block, **fields).moments if m.kind is EventKind.COUNT)


def test_count_styles():
    assert words(breath("4-2", 1)) == "inhale two three four exhale two"
    assert words(breath("in 2, hold 3 down, out 4 silent", 1)) == "inhale two hold two one exhale - - -"
    assert words(breath("2-3", 1, style={"cue": "ahead", "counting": "down"})) == "two one three two one"
    assert words(breath('in 2 "lift the lamp", out 2', 1)) == "lift the lamp two exhale two"
    assert words(breath("2-0-2", 1)) == "inhale two exhale two"


@pytest.mark.parametrize("language", sorted({*LANGUAGES} - {"hi"}))
def test_number_words_are_num2words_in_every_language_it_has(language):
    said = words(breath("12-2", 1, style={"cue": "ahead"}), language=language)
    assert said.startswith(" ".join(num2words(n, lang=language) for n in range(1, 13)))


def test_hindi_has_a_word_of_its_own_for_every_count():
    """num2words has no Hindi; that these are the right ones is from memory."""
    assert len({count_word(n, "hi") for n in range(61)}) == 61
    assert words(breath("3-2", 1, style={"cue": "ahead"}), language="hi") == "एक दो तीन एक दो"


def test_three_hours_without_any_accumulated_error():
    """Every count of 10,800 s of 20/21 s counts lies within half a sample of its own exact time."""
    timeline = timeline_of(*(breath("4-4-6", 405, count_length="20/21", id=f"s{n}") for n in range(2)))
    counts = [m for m in timeline.moments if m.kind is EventKind.COUNT]
    assert timeline.length == 10_800 and len(counts) == 11_340
    for number, moment in enumerate(counts):
        exact = Fraction(20 * number, 21)
        assert moment.at == exact and abs(moment.sample(48_000) - exact * 48_000) <= Fraction(1, 2)


@given(sessions())
def test_events_are_strictly_ordered_and_phases_sum_to_their_round(session):
    timeline = compile_session(session, PACED)
    ticks = [moment.tick for moment in timeline.moments]
    assert ticks == sorted(ticks)
    addresses = [(m.kind, m.block, m.round, m.phase, m.count) for m in timeline.moments]
    assert len(set(addresses)) == len(addresses)
    sets = {block.id for block in session.blocks if isinstance(block, BreathSet)}
    parts: dict = {}
    for moment in timeline.moments:
        cue_room = moment.kind is EventKind.CUE and moment.round  # a preparing breath is said over itself
        if moment.block in sets and (moment.kind is EventKind.PHASE or cue_room):
            key = moment.block, moment.round
            parts[key] = parts.get(key, 0) + moment.length
        assert moment.sample(44_100) == to_sample(moment.at, 44_100)
    spans = (EventKind.ROUND, EventKind.PREPARE)
    assert parts == {(m.block, m.round): m.length for m in timeline.moments if m.kind in spans}
    eases = [m for m in timeline.moments if m.kind is EventKind.EASE and m.block in sets]
    for block in timeline.blocks:
        if block.block.id in sets:
            inside = sum(value for (name, _), value in parts.items() if name == block.block.id)
            assert block.length == inside + sum(m.length for m in eases if m.block == block.block.id)
    ends = [block.end for block in timeline.blocks]
    assert [block.start for block in timeline.blocks] == [session.opening, *ends][: len(ends)]


def test_talk_takes_its_time_or_its_slot():
    talk = Talk(id="t", paragraphs=("One two. Three.", "Four."), sentence_pause=1, paragraph_pause=3, pause_after=2)
    spoken = compile_session(Session(opening=0, closing=0, blocks=(talk,)), lambda text: Fraction(7, 3))
    assert [m.at for m in spoken.moments if m.text] == [0, Fraction(10, 3), Fraction(26, 3)]
    assert spoken.length == 3 * Fraction(7, 3) + 1 + 3 + 2
    assert timeline_of(talk.model_copy(update={"slot": Fraction(5)})).length == 5
    rest = Rest(id="r", seconds=20, paragraphs=("Words over its beginning.",))
    assert timeline_of(rest).length == 20


def test_nothing_one_and_too_much():
    empty = compile_session(Session(), PACED)
    assert [m.kind for m in empty.moments] == [EventKind.BELL, EventKind.END] and empty.length == 16
    long_talk = Session(blocks=(Talk(id="t", paragraphs=("word " * 700,) * 50),))
    with pytest.raises(InputError, match="4 h"):
        compile_session(long_talk, PACED)


@pytest.mark.parametrize(
    ("seconds", "text"), [(0, "0:00"), (59.96, "1:00"), (355.15, "5:55"), (3723, "1:02:03"), (-5, "−0:05")]
)
def test_clock(seconds, text):
    assert clock(seconds) == text
    assert text.startswith("−") or abs(parse_clock(text) - Fraction(seconds)) <= Fraction(1, 2)


@pytest.mark.parametrize("text", ["", "12:", "x", "1:2:3:4", "nan", "inf"])
def test_a_length_that_is_none_says_what_to_write(text):
    with pytest.raises(ValueError, match="write"):
        parse_clock(text)


def test_two_calls_that_fall_on_one_place_are_said_once():
    """Half of a hold of ten seconds is five before its end; written twice at one place they are refused."""
    block = breath("in 4, hold 10s calls half 5, out 6", 1)
    calls = [m for m in timeline_of(block).moments if m.kind is EventKind.CALL]
    assert [m.text for m in calls] == ["halfway"]
    with pytest.raises(ValueError, match="two calls stand at one place"):
        Phase(kind="hold-full", seconds=30, calls=({"at": "half"}, {"at": "half"}))


@pytest.mark.parametrize(("pause", "between"), [(20, [(10, 0.5), (26, 0.5)]), (3, [])])
def test_between_sets_the_breath_rests_half_full_where_there_is_time(pause, between):
    second = breath("out 6, in 4", 1).model_copy(update={"id": "second"})
    points = breath_points(timeline_of(breath("4-4", 1), Rest(id="pause", seconds=pause), second))
    at = 8 + pause
    after = [(at, 1.0), (at + 6, 0.0), (at + 10, 1.0), (at + 12, 0.5)]
    assert points == [(0, 0.0), (4, 1.0), (8, 0.0), *between, *after]
