"""What is said on every count, in every style of counting and for everything a phase may carry."""

from fractions import Fraction
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st
from num2words import num2words

from nafas.languages import LANGUAGES
from nafas.script import Session, block_notation, read_block
from nafas.script.edits.round_edits import with_ease_words
from nafas.script.edits.session_edits import change_block
from nafas.script.words.lexicon import Lexicon, count_word
from nafas.script.words.wording import Wording, parse_wording
from nafas.timing import EventKind, compile_session, paced
from nafas.timing.bodies.talk import short_talk

SAID = (EventKind.COUNT, EventKind.CUE, EventKind.CALL)


def words(notation, round_number=1, session=None, spoken=None, **more):
    """The words of one round, "-" for an unspoken count; calls in brackets, cues ahead with a colon."""
    block = read_block(notation)
    block = type(block).model_validate({**block.model_dump(), **more})
    timeline = compile_session(Session(blocks=(block,), **(session or {})), spoken or paced())
    found = []
    for moment in timeline.moments:
        if moment.round == round_number and moment.kind in SAID:
            shape = {EventKind.CALL: "[{}]", EventKind.CUE: "{}:"}.get(moment.kind, "{}")
            found.append(shape.format(moment.text or "-"))
    return " ".join(found)


@pytest.mark.parametrize(
    ("notation", "style", "said"),
    [
        ("3-2", {"carrier": "sea"}, "inhale sea two sea three exhale sea two"),
        ("3-2", {"cue": "none"}, "one two three one two"),
        ("3-2", {"cue": "ahead"}, "inhale: one two three exhale: one two"),
        ("3-3", {"counting": "down"}, "inhale two one exhale two one"),
        ("3-3", {"counting": "tick"}, "inhale - - exhale - -"),
        ("in 3 up, hold 3 down, out 3 silent", {}, "inhale two three hold two one exhale - -"),
        ("in L 2, out R 2", {}, "inhale left two exhale right two"),
        ("in 2+2, out 3", {}, "inhale two inhale two exhale two three"),
        ("in 2+2 (belly, chest), out 2", {}, "inhale belly chest two exhale two"),
        ("in 2~2 (belly, chest), out 2", {}, "inhale belly chest four exhale two"),
        ("in 3+2 through, out 5 ahead 2", {}, "inhale two three inhale five exhale: one two three four five"),
        ("in 2+2 down through, out 2", {"cue": "none"}, "four three two one one two"),
        ("in 2, out 2 ahead 0", {"cue": "ahead"}, "inhale: one two exhale two"),
        ("in 2+2 (belly: arms out, chest: arms up), out 2", {}, "inhale belly, arms out - chest, arms up exhale two"),
        ("in 2+2 (belly, chest), out 2", {"cue": "ahead"}, "inhale: belly two chest two exhale: one two"),
        ("in 2, hold 6 silent calls half 2 release, out 2", {},
         "inhale two hold - - - [halfway] - [two more] - and release two"),
        ('in 2, hold 10s calls +3 "three" 5, out 2', {}, "inhale two hold [three] [five more seconds] exhale two"),
        ("in 2, hold 3s tick, out 2", {}, "inhale two hold - - exhale two"),
        ("in 2, out 2 hum", {}, "inhale two hum two"),
    ],
)  # fmt: skip
def test_styles(notation, style, said):
    assert words(notation, style=style) == said


def test_a_long_form_covers_the_counts_it_takes_and_short_ones_follow():
    long = {"long_forms": True}
    spoken = {"inhale slowly through the nose": Fraction(5, 2)}.get
    said = {"style": long, "spoken": lambda text: spoken(text, Fraction(1))}
    notation = "in 4 nose, out 3 x2"
    assert words(notation, **said) == "inhale slowly through the nose - - four exhale slowly two three"
    assert words(notation, 2, **said) == "inhale two three four exhale two three"
    assert words('in 3 long "lift the lamp in", out 2 x2', **said).startswith("lift the lamp in two three")


def test_movements_are_named_in_the_first_round_or_in_every_one():
    notation = 'in 4 move "arms up", out 4 move always "arms down" x2'
    assert words(notation).startswith("inhale, arms up -") and "exhale, arms down" in words(notation)
    assert words(notation, 2).startswith("inhale two") and "exhale, arms down -" in words(notation, 2)


def test_parts_come_after_what_opens_their_phase_and_never_over_it():
    """The opening, then each part's word in the room that is left; what finds none is reported."""
    second = {"inhale": 1, "breathe in": 3, "breathe in, belly": 4, "inhale, belly": 1}
    lasts = lambda text: Fraction(second.get(text, 1))  # noqa: E731
    assert words("in 2+2 (belly, chest), out 2", spoken=lasts).startswith("inhale, belly two chest two")
    long = {"style": {"long_forms": True}, "spoken": lasts}
    first = 'in {} (belly, chest) long "breathe in", out 2 x2'
    assert words(first.format("4+2"), **long).startswith("breathe in - - belly chest two")
    assert words(first.format("3+3"), **long).startswith("breathe in, belly - - - chest three")
    assert words(first.format("2+2"), **long).startswith("breathe in, belly - - - exhale")  # the chest finds no room
    block = read_block(first.format("2+2"))
    block = type(block).model_validate({**block.model_dump(), **{"style": {"long_forms": True}}})
    covered = compile_session(Session(blocks=(block,)), lasts).covered
    assert [(moment.round, moment.count, moment.text) for moment in covered] == [(1, 3, "chest")]


@given(
    sizes=st.lists(st.integers(1, 4), min_size=2, max_size=5),
    lengths=st.lists(st.integers(1, 5), min_size=12, max_size=12),
    always=st.booleans(),
)
def test_nothing_is_said_over_anything_and_every_part_is_said_or_told(sizes, lengths, always):
    names = [f"p{n}" for n in range(len(sizes))]
    move = "always " if always else ""
    places = ", ".join(f"{name}: {move}m{name}" for name in names)
    block = read_block(f'in {"+".join(map(str, sizes))} ({places}) move {move}"arms", out 3 x2')
    lasts = lambda text: Fraction(lengths[sum(map(ord, text)) % 12])  # noqa: E731
    timeline = compile_session(Session(blocks=(block,)), lasts)
    for number in (1, 2):
        events = [m for m in timeline.moments if m.round == number and m.phase == 1]
        said = [m for m in events if m.kind is EventKind.COUNT and m.text]
        longer = [m for m in said if "m" in m.text] if always or number == 1 else []
        for this, after in pairwise(said):
            assert after.at - this.at >= (lasts(this.text) if this in longer else 1)
        told = [m.text for m in events if m.kind is EventKind.COVERED]
        for name in names:
            assert any(name in m.text for m in said) or any(name in text for text in told)


def test_a_route_and_a_fill_are_spoken_where_they_first_apply():
    """In the first round of each step; a set can leave them unsaid, and words written by hand stand for themselves."""
    notation = "in 4 nose, out 6 mouth x2 step 1 to 7"
    assert words(notation).startswith("inhale through the nose") and "exhale through the mouth" in words(notation)
    assert words(notation, 2) == "inhale two three four exhale two three four five six"
    assert words(notation, 3).startswith("inhale through the nose")  # the second step
    assert words(notation, style={"ways": False}).startswith("inhale two three four exhale two")
    assert words('in 4 nose "drink it in", out 6').startswith("drink it in two")
    assert words("in 4 to 2/3, hold 2, out 6").startswith("inhale until two thirds full")
    assert words("in 4 nose, out 6", session={"language": "ru"}) == words(
        "in 4, out 6", session={"language": "ru"}
    )  # no words: none are made up


def test_long_forms_and_movements_begin_every_step():
    said = {"style": {"long_forms": True}}
    assert words("4-4 x2 step 1 to 5", 3, **said).startswith("inhale slowly") and "slowly" not in words(
        "4-4 x4", 3, **said
    )
    assert "slowly" not in words("4-4 x3 glide to 1.2s", 2, **said)  # a glide is one step
    assert words('in 4 move "arms up", out 4 x2 step 1 to 5', 3).startswith("inhale, arms up")


def test_what_follows_a_hold_that_is_let_go_keeps_its_side_its_direction_and_its_own_words():
    assert words("in 2, hold 4 silent calls release, out 2").endswith("and release two")
    assert words("in L 2, hold 4 silent calls release, out R 2").endswith("and release, exhale right two")
    assert words("out 2, hold 4 silent calls release, in 2").endswith("and release, inhale two")
    assert words('in 2, hold 4 silent calls release, out 2 "let it fall"').endswith("let it fall two")


def test_in_the_mind_is_said_once_and_a_call_among_counts_says_what_it_counts():
    assert words("in L 4, out R 4 x2", mind=True).count("in the mind") == 1
    assert words("in L 4, out R 4 x2", 2, mind=True).count("in the mind") == 0
    assert "[two more]" in words("in 2, hold 6 calls 2, out 2")
    assert "[ten]" in words("in 2, hold 30s calls 10 5, out 2") and "[five more seconds]" in words(
        "in 2, hold 30s calls 10 5, out 2"
    )
    assert "[five more]" in words("in 2, hold 8 calls 5, out 2")


def test_the_last_one_takes_the_place_of_a_call_that_falls_on_it():
    style = {"announce_last": True}
    assert words("in 2, out 2, hold 5s calls 1 x2", style=style).count("[") == 1
    assert words("in 2, out 2, hold 5s calls 1 x2", style=style).endswith("[last one]")
    assert words("in 2, out 2, hold 5s calls 3 x2", style=style).count("[") == 2  # one that does not is said too


def test_last_one_can_come_earlier():
    said = {"style": {"announce_last": True, "last_ahead": 3}}
    assert words("4-6 x2", **said).split(" exhale ")[1] == "two three - [last one] five six"
    assert words("4-2 x2", **said) == "inhale two three four - [exhale, last one] two"  # with its cue
    block = read_block("4-6 x2 say last 3")
    assert block.style.last_ahead == 3 and block_notation(block) == "4-6 x2 say last 3"


def test_the_voice_leaves_and_the_last_one_is_announced():
    notation = "3-2 x4 fade full 1 cues 1 chimes 1 silent 1"
    style = {"announce_last": True}
    assert words(notation, 2, style=style) == "inhale - - exhale -"
    assert words(notation, 3, style=style) == "- - - - - [last one]"
    assert words(notation, 4, style=style) == "- - - - -"
    assert words("2-1 x2", style=style) == "inhale two - [exhale, last one]"  # the cue is not lost
    chimes = [
        m.round
        for m in compile_session(Session(blocks=(read_block(notation),)), paced()).moments
        if m.kind is EventKind.CHIME
    ]
    assert chimes == [1, 1, 2, 2, 3, 3]


def test_a_preparing_breath_ease_with_words_and_recovery():
    block = read_block("4-4 x1 step 1 to 5 ease 10s").model_copy(
        update={"ease_words": "Relax.", "prepare": read_block("3-4").pattern}
    )
    timeline = compile_session(Session(opening=0, blocks=(block,)), paced())
    said = [
        (m.at, m.kind.value, m.text)
        for m in timeline.moments
        if m.kind in (EventKind.CUE, EventKind.TALK, EventKind.EASE)
    ]
    assert said == [
        (0, "cue", "one breath, just as it comes"),
        (3, "cue", "and as it goes"),
        (15, "ease", ""),
        (15, "talk", "Relax."),
    ]


def test_strokes_are_exact_and_counted_as_asked():
    timeline = compile_session(Session(opening=0, blocks=(read_block("bellows 40 @ 50/min every 10 down"),)), paced())
    strokes = [m.at for m in timeline.moments if m.kind is EventKind.STROKE]
    assert strokes == [Fraction(6 * n, 5) for n in range(40)]
    counted = [(m.at, m.text) for m in timeline.moments if m.kind is EventKind.COUNT]
    assert counted == [(0, "forty"), (12, "thirty"), (24, "twenty"), (36, "ten")]
    assert sum(m.kind is EventKind.TICK for m in timeline.moments) == 80  # both ways
    shown = compile_session(Session(opening=0, blocks=(read_block("bellows 1 demo 2 arms"),)), paced())
    cues = [(m.at, m.text) for m in shown.moments if m.kind is EventKind.CUE]
    assert cues[:2] == [(0, "inhale, arms up"), (3, "exhale, arms down")]


@pytest.mark.parametrize("language", sorted({*LANGUAGES} - {"hi"}))
def test_number_words_are_those_of_num2words(language):
    base, _, region = language.partition("-")
    name = f"{base}_{region.upper()}" if region else base
    assert [count_word(n, language) for n in range(61)] == [num2words(n, lang=name) for n in range(61)]


@pytest.mark.parametrize("language", LANGUAGES)
def test_every_language_tells_its_four_cues_apart(language):
    lexicon = Lexicon(language, Wording())
    kinds = [phase.kind for phase in read_block("4-4-4-4").pattern.phases]
    assert len({lexicon.kind(kind) for kind in kinds}) == 4


def test_hindi_numbers_past_a_hundred_and_wording_of_ones_own():
    assert count_word(120, "hi") == "एक सौ बीस" and len({count_word(n, "hi") for n in range(300)}) == 300
    own = {"wording": parse_wording("exhale: let go\nlast: once more")}
    assert words("2-2 x2", session=own, style={"announce_last": True}) == "inhale two let go - [once more]"
    for text, fault in (("breathe: in", "line 1: 'breathe' is none of"), ("exhale let go", "is none of")):
        with pytest.raises(ValueError, match=fault):
            parse_wording(text)


def test_words_a_language_lacks_are_missed_when_written():
    with pytest.raises(ValueError, match=r"blocks\[0\].*Polish has no words for 'left'.*wording"):
        Session(language="pl", blocks=(read_block("in L 4, out R 4"),))
    own = parse_wording("left: lewa\nright: prawa")
    assert Session(language="pl", wording=own, blocks=(read_block("in L 4, out R 4"),))


def test_rapid_strokes_are_counted_in_a_second_each():
    block = read_block("rapid 20 @ 90/min every 10 count-in 3 demo 2 rest 45s")
    assert "count-in 3" in block_notation(block) and block.seconds == 18 + 3 + Fraction(40, 3) + 45
    timeline = compile_session(Session(opening=0, blocks=(block,)), paced())
    said = [(m.at, m.text) for m in timeline.moments if m.kind is EventKind.COUNT]
    assert said[:3] == [(18, "three"), (19, "two"), (20, "one")] and said[3][0] == 21 + 9 * Fraction(2, 3)
    assert next(m.at for m in timeline.moments if m.kind is EventKind.STROKE and m.round == 2) == 21
    assert timeline.length == block.seconds + 12


def test_ease_words_may_differ_from_step_to_step():
    block = read_block("4-4 x1 step 1 to 7 ease 20s").model_copy(update={"ease_words": "Relax. Breathe. | Once more."})
    session = Session(opening=0, blocks=(block,))

    def said(of):
        return [moment.text for moment in compile_session(of, paced()).moments if moment.kind is EventKind.TALK]

    assert said(session) == ["Relax.", "Breathe.", "Once more.", "Once more."]
    assert said(with_ease_words(session, 0, 2, "Rest.")) == ["Relax.", "Rest.", "Once more.", "Once more."]
    assert said(with_ease_words(session, 0, 4, "And on.")) == ["Relax.", "Breathe.", "And on.", "And on."]
    plain = change_block(session, 0, ease_words="Relax.")
    assert said(plain) == ["Relax."] * 3 and said(with_ease_words(plain, 0, 3, "Rest.")) == ["Rest."] * 3
    assert said(change_block(session, 0, ease_words="")) == []
    once = change_block(session, 0, ease_words="Relax. |")
    assert said(once) == ["Relax."]
    with pytest.raises(IndexError):
        with_ease_words(once, 0, 2, "x")


def test_a_pause_before_the_first_of_a_few_words_is_kept():
    one = Fraction(1)
    assert short_talk("[2 s] Rest now.", [one]) == [(2, 1, "Rest now.")]
    assert short_talk("Rest now. [2 s] Then go.", [one, one])[1] == (3, 1, "Then go.") and short_talk("", []) == []
