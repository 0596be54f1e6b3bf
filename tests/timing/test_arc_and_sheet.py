"""The arc of a session, and the sheet it is read from."""

from fractions import Fraction

import pytest
from hypothesis import given
from strategies import sessions

from nafas.demo import SESSION
from nafas.errors import InputError
from nafas.library.own import shipped
from nafas.script import Rest, Session, Side, Talk, load_session, read_block
from nafas.script.advice import flags
from nafas.timing import EventKind, Guidance, arc_of, compile_session, paced
from nafas.timing.sheet import sheet, sheet_text

PACED = paced()


def timeline_of(*blocks, **fields):
    return compile_session(Session(opening=4, closing=10, blocks=blocks, **fields), PACED)


def test_breaths_a_minute_and_guidance_follow_the_rounds():
    arc = arc_of(timeline_of(read_block("5-5-5 x4 fade full 1 cues 1 chimes 1 silent 1")))
    assert {span.breaths for span in arc.spans if span.block == 0} == {4}  # 5-5-5 at 1 s (common practice, no source)
    led = [span.guidance for span in arc.spans if span.block == 0]
    assert led == [Guidance.VOICE, Guidance.CUE, Guidance.CHIME, Guidance.SILENCE]
    assert arc.breaths == 4 and arc.strong == 60
    sides = arc_of(timeline_of(read_block("in L 4, out R 4, in R 4, out L 4 x1")))
    assert sides.breaths == 2 and {s.breaths for s in sides.spans if s.block == 0} == {Fraction(15, 2)}
    strokes = arc_of(timeline_of(read_block("rapid 30 @ 60/min every 0 demo 2 @ 10/min rest 20s")))
    assert [s.breaths for s in strokes.spans if s.block == 0] == [10, 60, None]


@pytest.mark.parametrize("name", [None, *(k.entry.name for k in shipped() if k.entry.is_outline)])
def test_spans_follow_one_another_from_end_to_end(name):
    session = (
        load_session(SESSION) if name is None else next(k.entry.session for k in shipped() if k.entry.name == name)
    )
    timeline = compile_session(session, PACED)
    arc = arc_of(timeline)
    edges = [arc.spans[0].start, *(span.end for span in arc.spans)]
    assert edges[0] == 0 and edges[-1] == timeline.length and edges == sorted(set(edges))
    assert [span.start for span in arc.spans] == edges[:-1] and 0 < arc.talk_share < 1


def test_the_longest_silence_and_an_empty_arc():
    arc = arc_of(timeline_of(Talk(id="t", paragraphs=("Rest now.",)), Rest(id="r", seconds=50), read_block("4-4 x2")))
    begin, end = arc.silence
    assert end == arc.spans[-2].start and 50 < end - begin < 54
    empty = arc_of(timeline_of())
    assert empty.talk_share == 0 and empty.silence == (0, 14) and empty.strong == 0


def test_the_sheet_tells_everything_that_is_said_in_order_of_time():
    block = read_block("4-4 x2 step 1 to 5 ease 10s say long", "s")
    more = {"ease_words": "Relax.", "prepare": read_block("3-4").pattern}
    timeline = timeline_of(
        Talk(id="t", title="Hello", paragraphs=("Sit down. Breathe.",)),
        block.model_copy(update=more),
        read_block("4-6 x4", "a"),
        read_block("rapid 10 @ 60/min demo 3 every 5", "k"),
    )
    lines = sheet(timeline)
    assert [line.text for line in lines if line.kind in ("rounds", "talk")] == [
        "Sit down.", "Breathe.", "a breath before it, 7 s", "round 1: 4-4, 1 s a count, counted, 8 s",
        "round 2: 4-4, 1 s a count, counted, 8 s", "Natural breath, 10 s", "Relax.",
        "round 3: 5-5, 1 s a count, counted, 10 s", "round 4: 5-5, 1 s a count, counted, 10 s",
        "rounds 1 to 4: 1 s a count, counted, 10 s each", "3 shown slowly, 24 s", "10 strokes, 10 s",
        "Natural breath, 45 s",
    ]  # fmt: skip
    times = [line.at for line in lines if line.at is not None]
    assert times == sorted(times)
    said = {moment.text for moment in timeline.moments if moment.text}
    told = {word for line in lines if line.kind in ("words", "talk") for word in [line.text, *line.text.split(", ")]}
    assert said - told <= {"one breath, just as it comes"}  # the one that has a comma of its own
    assert any("one breath, just as it comes" in line.text for line in lines)
    text = sheet_text(timeline)
    assert "0:04  Hello" in text and max(map(len, text.splitlines())) <= 100


def test_sides_that_do_not_come_home_and_hard_landings_are_flagged():
    good = read_block("in L 4, out R 4, in R 4, out L 4 x5")
    begins = read_block("out L 4, in L 4, out R 4, in R 4 x4", "b")
    right = read_block("in R 4, out L 4, in L 4, out R 4 x5", "c")
    found = flags(Session(blocks=(good, begins, right)))
    assert [(flag.block, flag.text.split(" ")[0]) for flag in found] == [(1, "ends"), (2, "begins"), (2, "ends")]
    assert flags(Session(blocks=(right.model_copy(update={"starts_on": Side.RIGHT}),))) == ()
    hard, soft = read_block("rapid 20 rest 10s", "h"), Rest(id="r", seconds=20)
    assert [flag.block for flag in flags(Session(blocks=(hard, Talk(id="t"), soft)))] == [0]
    assert flags(Session(blocks=(hard, soft))) == ()
    hold = read_block("in 4, hold 30s, out 6 x1", "hold")  # the retention after it comes before the natural breath
    assert flags(Session(blocks=(hard, hold, soft))) == () and len(flags(Session(blocks=(hard, hold)))) == 1
    for kept in shipped():  # nothing that ships needs a second look
        entry = kept.entry
        assert flags(entry.session or Session(blocks=(entry.block,))) == (), entry.name


def test_a_short_pause_belongs_to_the_voice_and_a_long_one_is_silence():
    def led(pause):
        talk = Talk(id="t", paragraphs=("Sit well. Let it go.",), sentence_pause=pause)
        return [span.guidance for span in arc_of(timeline_of(talk)).spans if span.block == 0]

    assert led(Fraction(39, 10)) == [Guidance.VOICE]
    assert led(Fraction(4)) == [Guidance.VOICE, Guidance.SILENCE, Guidance.VOICE]


def test_vigorous_work_wants_half_a_minute_to_settle():
    """30 s (common practice, no source)."""
    for seconds, told in ((29, 1), (30, 0)):
        session = Session(blocks=(read_block(f"rapid 30 @ 60/min rest {seconds}s"),))
        assert len(flags(session)) == told


@given(sessions())
def test_what_is_worked_out_block_by_block_is_what_all_moments_say(session):
    try:
        timeline = compile_session(session, PACED)
    except InputError:
        return
    best, quiet = (Fraction(0), Fraction(0)), Fraction(0)
    for moment in timeline.spoken:
        if moment.at - quiet > best[1] - best[0]:
            best = (quiet, moment.at)
        lasts = moment.length if moment.kind is EventKind.TALK else min(moment.length, Fraction(1))
        quiet = max(quiet, moment.at + lasts)
    if timeline.length - quiet > best[1] - best[0]:
        best = (quiet, timeline.length)
    arc = arc_of(timeline)
    talk = sum(moment.length for moment in timeline.moments if moment.kind is EventKind.TALK)
    assert arc.silence == best and arc.talk_share == pytest.approx(float(talk / timeline.length))
    again = arc_of(timeline)  # from what is kept by now
    assert (again.spans, again.silence, again.breaths) == (arc.spans, arc.silence, arc.breaths)


def test_words_that_are_covered_are_no_sound_and_stand_on_no_sheet():
    """A movement has no room in a phase of two counts of 0.2 s in two parts: what is not said breaks no silence."""
    part = read_block('in 1+1 move "arms wide and up" @ 0.2s x1')
    timeline = compile_session(Session(blocks=(part,), opening=0, closing=12, end_bell=False), PACED)
    (covered,) = timeline.covered
    assert arc_of(timeline).silence[0] <= covered.at and sheet_text(timeline).count("inhale") == 1
