"""Wording, lexicon, cautions and small readings: as they are written, so they are read."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from nafas.languages import LANGUAGES, language_name, phrases
from nafas.script import Phase, PhaseKind, Route, Session, Side, SoundKind, read_block
from nafas.script.notation.set import parse_count, parse_fade, parse_pacing
from nafas.script.notation.writing import format_count, format_fade, format_pacing
from nafas.script.words.cautions import CAUTIONS, caution_words, cautions_for
from nafas.script.words.lexicon import Lexicon, lexicon_of
from nafas.script.words.wording import Wording, format_wording, parse_wording
from nafas.timing.clock import clock, tick_step

PHRASE = st.text(st.characters(categories=("L", "N"), include_characters=" ,'"), min_size=1, max_size=30).filter(
    lambda words: words == words.strip()
)


@given(st.dictionaries(st.sampled_from(sorted(Wording.model_fields)), PHRASE, max_size=6))
def test_wording_is_read_as_it_is_written(said):
    wording = Wording(**said)
    assert parse_wording(format_wording(wording)) == wording


def test_every_language_that_has_phrases_has_all_of_them():
    keys = set(phrases("en")) - {"fill", "1/4", "1/3", "1/2", "2/3", "3/4", "1"}
    for language, own in {code: phrases(code) for code in LANGUAGES if phrases(code)}.items():
        assert language in LANGUAGES and keys <= set(own), language
    assert language_name("pt-br") == "Portuguese (Brazil)"


def test_a_long_form_says_route_and_fill_and_a_side_is_said_in_both():
    lexicon = Lexicon("en", Wording())
    phase = Phase(kind=PhaseKind.INHALE, counts=4, side=Side.LEFT, route=Route.NOSE, fill=Fraction(2, 3))
    assert lexicon.cue(phase) == "inhale left"
    assert lexicon.cue(phase, long=True) == "inhale slowly through the nose until two thirds full left"
    assert lexicon.cue(phase, long=True, mind=True).startswith("in the mind, inhale")
    hum = Phase(kind=PhaseKind.EXHALE, counts=8, sound=SoundKind.HUM)
    assert lexicon.cue(hum) == lexicon.cue(hum, long=True) == "hum"
    own = Lexicon("en", Wording(exhale="let go"))
    assert own.cue(Phase(kind=PhaseKind.EXHALE, counts=4), long=True) == "let go"  # one's own words come first
    assert lexicon_of("en", Wording(exhale="a")) is lexicon_of("en", Wording(exhale="a"))
    assert lexicon.left(5, True, False) == "five more seconds" and lexicon.left(10, True, False) == "ten"
    assert lexicon.left(5, False, True) == "five more" and lexicon.left(10, True, True) == "ten more"


@pytest.mark.parametrize("language", ["de", "hi", "fr"])
def test_sides_stand_where_the_language_puts_them(language):
    cue = Lexicon(language, Wording()).cue(Phase(kind=PhaseKind.INHALE, counts=4, side=Side.RIGHT))
    side = phrases(language)["right"]
    assert cue.startswith(side) == (language in ("de", "hi")) and side in cue


@pytest.mark.parametrize(
    ("notation", "asked"),
    [("4-6", ()), ("4-3-6", ()), ("4-4-6", ("holds",)), ("in 4, out 4, hold 20s", ("holds",)),
     ("4-6 x4 glide to 2s", ()), ("4-8 x2; 4-6 x2", ()), ("4-4-4 x1 step 1 to 6", ("holds", "steps"))],
)  # fmt: skip
def test_what_a_set_asks_to_be_said(notation, asked):
    assert cautions_for(read_block(notation)) == asked
    assert caution_words(asked) == tuple(CAUTIONS[key] for key in CAUTIONS if key in asked)


@pytest.mark.parametrize("written", ["1.2s", "as long-exhale", "", "20/21s"])
def test_a_count_is_written_back(written):
    assert format_count(*parse_count(written)) == written


@pytest.mark.parametrize("written", ["full 3 cues 2 silent about 60s full 1", "chimes", ""])
def test_a_fade_is_written_back(written):
    assert format_fade(parse_fade(written)) == written


@pytest.mark.parametrize(
    "written", ["step -2 on in out to 4", "ladder 1 3/2 2 round down", "glide to 1.25s", "4-8 x2 @ 1.1s", ""]
)
def test_a_pacing_is_written_back(written):
    assert format_pacing(parse_pacing(written)) == written


@given(st.floats(1, 14_400), st.integers(4, 20))
def test_a_time_axis_is_never_crowded(length, most):
    assert length / tick_step(length, most) <= max(most, 4) + 1


def test_what_was_worked_out_from_old_values_does_not_come_along():
    session = Session(blocks=(read_block("4-6 x3"),))
    assert session.written_length == 46 and clock(session.written_length) == "0:46"
    longer = session.model_copy(update={"opening": Fraction(10)})
    assert longer.written_length == 52 and hash(session.blocks[0]) == hash(read_block("4-6 x3"))
    assert hash(session.blocks[0].model_copy(update={"rounds": 4})) == hash(read_block("4-6 x4"))
