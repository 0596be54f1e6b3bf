"""Pacing, fade and parts at their bounds: nothing, one, very many."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nafas.errors import InputError
from nafas.script import BreathSet, FadeStep, Level, Pattern, Phase, PhaseKind, Session, Strokes, expand, read_block
from nafas.script.model.guidance import TooFewRounds, levels, whole_rounds
from nafas.script.model.pacing import Glide, Ladder, Rounding, StepUp, Table, steps_of
from nafas.script.model.phase import Call, Movement, Part
from nafas.script.notation.block import block_notation
from nafas.script.notation.set import parse_count, parse_fade, parse_pacing

LENGTHS = st.lists(st.fractions("1/2", 60, max_denominator=50), min_size=1, max_size=6)


@given(st.fractions(1, 600, max_denominator=20), LENGTHS)
def test_at_least_is_enough_and_not_a_round_more(seconds, lengths):
    many = whole_rounds(seconds, lengths, "at-least")
    took = [lengths[min(n, len(lengths) - 1)] for n in range(many)]
    assert sum(took) >= seconds > sum(took[:-1])


@given(st.fractions(1, 600, max_denominator=20), LENGTHS)
def test_about_is_the_nearest_number_of_rounds(seconds, lengths):
    many = whole_rounds(seconds, lengths, "about")
    total = lambda n: sum((lengths[min(i, len(lengths) - 1)] for i in range(n)), Fraction(0))  # noqa: E731
    assert many >= 1
    assert all(abs(total(many) - seconds) <= abs(total(n) - seconds) for n in (many - 1, many + 1) if n >= 1)


@given(st.lists(st.tuples(st.sampled_from(Level), st.integers(1, 5)), max_size=5), st.integers(1, 30))
def test_a_fade_says_of_every_round_how_much_is_said(steps, rounds):
    fade = tuple(FadeStep(level=level, rounds=many) for level, many in steps)
    lengths = [Fraction(10)] * rounds
    needed = sum(many for _, many in steps)
    if needed > rounds:
        with pytest.raises(TooFewRounds) as caught:
            levels(fade, lengths, lengths)
        assert caught.value.needed == needed
        return
    found = levels(fade, lengths, lengths)
    assert len(found) == rounds and found[:needed] == [level for level, many in steps for _ in range(many)]
    assert set(found[needed:]) <= {steps[-1][0] if steps else Level.FULL}


def test_what_a_fade_may_not_be():
    with pytest.raises(ValueError, match="not both"):
        FadeStep(level="full", rounds=2, seconds=Fraction(30))
    with pytest.raises(ValueError, match="two steps"):
        BreathSet.model_validate(
            {"id": "s", "pattern": "4-6", "rounds": 9, "fade": [{"level": "full"}, {"level": "cues"}]}
        )
    with pytest.raises(ValueError, match="more than 500 rounds"):
        Session(blocks=(read_block("1-1 x1 @ 0.2s fade silent at-least 600s"),))
    for text in ("loud", "full 0", "full 3 x6", "silent about", "silent about 9999s"):
        with pytest.raises(ValueError):
            parse_fade(text)
    assert parse_fade("") == () and parse_fade("full")[0].rounds is None


@pytest.mark.parametrize(
    ("way", "counts", "whole"),
    [
        ("up", "9/2", 5),
        ("down", "9/2", 4),
        ("nearest", "9/2", 5),
        ("nearest", "13/3", 4),
        ("up", "4", 4),
        ("refuse", "4", 4),
    ],
)
def test_rounding(way, counts, whole):
    """3 x 1 1/2 = 4 1/2 is rounded up to 5 (common practice, no source)."""
    assert Rounding(way=way).whole(Fraction(counts)) == whole


@given(st.integers(1, 12), st.integers(1, 5), st.integers(1, 20), st.integers(1, 4))
def test_every_step_is_one_step_further_and_none_past_the_limit(first, by, room, rounds):
    pattern = Pattern.model_validate(f"{first}-{first}")
    found = StepUp(by=by, limit=first + room).steps(pattern, rounds)
    exhales = [step.phases[1].counts for step in found]
    assert exhales == list(range(first, first + room + 1, by)) and {step.rounds for step in found} == {rounds}


@pytest.mark.parametrize(
    ("pacing", "pattern", "fault"),
    [
        (StepUp(limit=9, on=(PhaseKind.HOLD_FULL,)), "4-6", "no phase of the pattern"),
        (StepUp(limit=3), "4-6", "not above"),
        (StepUp(by=-1, limit=9), "4-6", "not below"),
        (Ladder(ratios=(Fraction(2),)), "out 6", "needs an inhale"),
        (Ladder(ratios=(Fraction(6),)), "20-20", "keep it within 1 to 60"),
        (Ladder(ratios=(Fraction(1, 4),), rounding="down"), "3-3", "keep it within 1 to 60"),
    ],
)
def test_a_pacing_that_leads_nowhere_says_why(pacing, pattern, fault):
    with pytest.raises(ValueError, match=fault):
        steps_of(Pattern.model_validate(pattern), 2, pacing, Fraction(1))


def test_pacing_is_read_as_it_is_written():
    assert isinstance(parse_pacing("step 1 to 8"), StepUp) and isinstance(parse_pacing("ladder 1 2"), Ladder)
    assert parse_pacing("glide to 50/min") == Glide(to=Fraction(6, 5)) and parse_pacing("  ") is None
    assert isinstance(parse_pacing("6-8 x2; 4-6 x3 @ 1.2s"), Table) and len(parse_pacing("6-8; 4-6").steps_after) == 2
    assert parse_count("") == (None, None) and parse_count("@ 40/min") == (Fraction(3, 2), None)
    for text in ("step", "step 1", "ladder", "glide", "6-", "step 1 to 8 on"):
        with pytest.raises(InputError) as caught:
            parse_pacing(text)
        assert 0 <= caught.value.column <= len(text)
    with pytest.raises(InputError):
        parse_count("1.2s x6")


def test_one_round_and_very_many():
    assert len(expand(read_block("4-6"), Fraction(1))) == 1
    last = read_block("4-4-4-4 x1 drop last")
    assert [phase.counts for phase in expand(last, Fraction(1))[0].phases] == [4, 4, 4]
    many = expand(read_block("1-1 x500"), Fraction(1, 5))
    assert len(many) == 500 and many[-1].number == 500
    glide = expand(read_block("4-6 x1 glide to 2s"), Fraction(1))
    assert [one.count_length for one in glide] == [1]  # one round has nowhere to glide to


@given(st.lists(st.integers(1, 9), min_size=2, max_size=6), st.integers(0, 60))
def test_parts_keep_together_when_a_phase_is_resized(sizes, counts):
    parts = tuple(Part(counts=size, word=f"p{n}") for n, size in enumerate(sizes))
    new = Phase(kind=PhaseKind.INHALE, counts=sum(sizes), parts=parts).resized(counts)
    assert new.counts == counts
    if new.parts:
        assert sum(part.counts for part in new.parts) == counts and [p.word for p in new.parts] == [
            p.word for p in parts
        ]
        assert min(part.counts for part in new.parts) >= 1
    else:
        assert counts < len(sizes)


@pytest.mark.parametrize(
    ("fields", "fault"),
    [
        ({"kind": "in", "seconds": 20}, "only a hold"),
        ({"kind": "hold-full", "seconds": 20, "counts": 4}, "only a hold"),
        ({"kind": "hold-full", "counts": 4, "side": "L"}, "a hold has no"),
        ({"kind": "in", "counts": 4, "sound": "hum"}, "only an exhale"),
        ({"kind": "out", "counts": 4, "fill": "2/3"}, "only an inhale"),
        ({"kind": "in", "counts": 5, "parts": ({"counts": 2}, {"counts": 2})}, "make 4 counts, not 5"),
        ({"kind": "in", "counts": 2, "parts": ({"counts": 2},)}, "one part is the whole"),
        ({"kind": "in", "counts": 2, "smooth": True}, "one part is the whole"),
        ({"kind": "in", "counts": 4, "calls": ({"at": "half"},)}, "belong to a hold"),
        ({"kind": "hold-full", "counts": 4, "calls": ({"at": "left", "units": 4},)}, "not inside"),
        ({"kind": "hold-full", "seconds": 301}, "1 to 300"),
        ({"kind": "in", "counts": 61}, "60"),
        ({"kind": "in", "counts": 4, "cue": 'say "in"'}, "no quotes"),
        ({"kind": "in", "counts": 4, "movement": {"words": " up"}}, "plain words"),
    ],
)
def test_what_a_phase_cannot_be(fields, fault):
    with pytest.raises(ValueError, match=fault):
        Phase.model_validate(fields)


def test_calls_and_strokes_at_their_bounds():
    for fields in ({"at": "half", "units": 3}, {"at": "left"}, {"at": "in", "units": 301}):
        with pytest.raises(ValueError):
            Call.model_validate(fields)
    assert Movement(words="arms up").always is False
    for fields in (
        {"strokes": 0},
        {"strokes": 601},
        {"per_minute": 3},
        {"per_minute": 241},
        {"recovery": -1},
        {"every": 101},
    ):
        with pytest.raises(ValueError):
            Strokes.model_validate({"id": "s", "strokes": 10, **fields})
    longest = Strokes(id="s", strokes=600, per_minute=Fraction(4))
    assert longest.stroke_seconds == 9000 and read_block(block_notation(longest), "s") == longest


def test_a_session_past_four_hours_is_refused_with_its_length():
    blocks = tuple(read_block("60-60-60-60 x60", f"s{n}") for n in range(2))
    with pytest.raises(ValueError, match=r"8\.0 h; keep a session within 4 h"):
        Session(blocks=blocks)


def test_a_set_that_climbs_begins_as_it_is_written():
    block = read_block("4-2-6 x2 step 1 to 8")
    first, second = steps_of(block.pattern, block.rounds, block.pacing, Fraction(1))[:2]
    assert tuple(phase.counts for phase in first.phases) == (4, 2, 6) and first.rounds == 2
    assert second.phases[0].counts == 5
    # The limit is of its longest phase going up, of its shortest going down.
    assert len(steps_of(block.pattern, 2, block.pacing, Fraction(1))) == 3
    down = read_block("8-4 x1 step -1 to 3")
    assert len(steps_of(down.pattern, 1, down.pacing, Fraction(1))) == 2
