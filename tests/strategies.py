"""Any pattern, any session: what property tests draw from."""

from fractions import Fraction

from hypothesis import assume
from hypothesis import strategies as st

from nafas.script import (
    BreathSet,
    Counting,
    CountStyle,
    FadeStep,
    Level,
    Pattern,
    Phase,
    PhaseKind,
    Rest,
    Route,
    Session,
    Side,
    SoundKind,
    Strokes,
    Talk,
)
from nafas.script.model.assets import Asset
from nafas.script.model.beds import BeatGrid, BlockBed, Ducking, FileBed, GeneratedBed, NightSea
from nafas.script.model.pacing import Glide, Ladder, StepUp, Table, TableStep
from nafas.script.model.phase import Call, Movement, Part
from nafas.script.model.round_calls import RoundCalls
from nafas.script.model.voice import Pace
from nafas.script.model.voice_level import VoiceLevel

CUE = st.text(st.characters(categories=("L", "N"), include_characters=" ',."), min_size=1, max_size=20).filter(
    lambda text: text == text.strip()
)
PLACE = st.just("") | st.sampled_from(["belly", "ribs", "upper chest", "côtes"])


def seconds(low, high):
    return st.fractions(low, high, max_denominator=997)


@st.composite
def phases(draw: st.DrawFn) -> Phase:
    """Any phase there can be, plain ones as often as not."""
    kind = draw(st.sampled_from(PhaseKind))
    said = {"kind": kind, "counts": draw(st.integers(0, 60))}
    if draw(st.booleans()):
        return Phase(**said)
    said |= {"counting": draw(st.none() | st.sampled_from(Counting)), "cue": draw(st.none() | CUE)}
    said["long_cue"] = draw(st.none() | CUE)
    if draw(st.integers(0, 3)) == 0:
        said["movement"] = Movement(words=draw(CUE), always=draw(st.booleans()))
    if kind.is_hold:
        if draw(st.booleans()):
            said |= {"counts": 0, "seconds": draw(seconds(21, 300))}
            calls = [Call(at="half", text=draw(st.none() | CUE)), Call(at="in", units=20), Call(at="left", units=5)]
            said["calls"] = tuple(draw(st.lists(st.sampled_from(calls), max_size=3, unique_by=lambda call: call.at)))
        return Phase(**said)
    said |= {"side": draw(st.none() | st.sampled_from(Side)), "route": draw(st.none() | st.sampled_from(Route))}
    if kind is PhaseKind.INHALE:
        said["fill"] = draw(st.none() | st.sampled_from([Fraction(2, 3), Fraction(3, 4), Fraction(1)]))
    else:
        said["sound"] = draw(st.none() | st.sampled_from(SoundKind))
    parts = draw(st.lists(st.builds(Part, counts=st.integers(1, 8), word=PLACE), max_size=5))
    if len(parts) > 1:
        said |= {"parts": tuple(parts), "counts": sum(p.counts for p in parts), "smooth": draw(st.booleans())}
    return Phase(**said)


@st.composite
def patterns(draw: st.DrawFn) -> Pattern:
    found = draw(st.lists(phases(), min_size=1, max_size=8))
    try:
        return Pattern(phases=tuple(found))
    except ValueError:
        assume(False)
        raise


SMALL = st.sampled_from(["4-4", "4-4-6", "4-4-4-4", "3-6", "in L 4, out R 4, in R 4, out L 4", "in 4, hold 21s, out 5"])
FADE = st.lists(
    st.builds(FadeStep, level=st.sampled_from(Level), rounds=st.integers(1, 4))
    | st.builds(
        FadeStep, level=st.sampled_from(Level), seconds=seconds(1, 90), rule=st.sampled_from(["about", "at-least"])
    ),
    max_size=4,
).map(tuple)
PACING = (
    st.none()
    | st.builds(StepUp, by=st.integers(1, 3), limit=st.integers(8, 14), on=st.sampled_from([(), (PhaseKind.EXHALE,)]))
    | st.builds(Ladder, ratios=st.sampled_from([(Fraction(1), Fraction(3, 2), Fraction(2)), (Fraction(2),)]))
    | st.builds(Glide, to=seconds("1/2", 2))
    | st.builds(
        Table,
        steps_after=st.lists(
            st.builds(
                TableStep,
                pattern=SMALL.map(Pattern.model_validate),
                rounds=st.integers(1, 3),
                count_length=st.none() | seconds("1/2", 2),
            ),
            min_size=1,
            max_size=3,
        ).map(tuple),
    )
)
STYLE = st.builds(
    CountStyle,
    cue=st.sampled_from(["on-one", "ahead", "none"]),
    cue_room=st.integers(1, 8),
    first_room=st.none() | st.integers(1, 12),
    counting=st.sampled_from(Counting),
    carrier=st.none() | st.just("sea"),
    long_forms=st.booleans(),
    announce_last=st.booleans(),
)

CALLS = st.builds(
    RoundCalls,
    every=st.integers(0, 3),
    left=st.sets(st.integers(2, 6), max_size=2).map(lambda left: tuple(sorted(left, reverse=True))),
    half=st.booleans(),
    minute=st.booleans(),
    phrases=st.sampled_from([(), ("I let go",), ("I let go", "I am here, and the night is long", "Calm")]),
    phrases_in=st.sampled_from(PhaseKind),
    once=st.booleans(),
)


@st.composite
def paced_sets(draw: st.DrawFn) -> BreathSet:
    """A set of everyday patterns with any pacing, fade and style."""
    fields = {
        "id": "x",
        "pattern": draw(SMALL),
        "rounds": draw(st.integers(1, 4)),
        "pacing": draw(PACING),
        "fade": draw(FADE),
        "style": draw(STYLE),
        "calls": draw(CALLS),
        "drop_hold": draw(st.sampled_from(["keep", "step", "last"])),
        "ease": draw(st.sampled_from([0, 20, Fraction(41, 2)])),
        "ease_words": draw(st.sampled_from(["", "Relax. A natural breath."])),
        "prepare": draw(st.none() | st.just("3-4")),
        "chimes": draw(st.booleans()),
        "locked": draw(st.booleans()),
        "count_length": draw(st.none() | seconds("1/2", 2)),
    }
    try:
        found = BreathSet.model_validate(fields)
        Session(blocks=(found,))
    except ValueError:
        assume(False)
        raise
    return found


RECORDED = st.builds(
    FileBed,
    file=st.just(Asset(path="rain.wav")),
    begin=st.floats(0, 50),
    end=st.none() | st.floats(60, 600),
    pulse=st.none() | st.builds(BeatGrid, bpm=st.floats(20, 300), first=st.floats(0, 9), bar=st.integers(1, 16)),
    pace=st.floats(0.92, 1.08),
)
MADE = st.builds(NightSea, under_voice=st.floats(0, 40), swell=st.floats(0, 12)) | st.builds(
    GeneratedBed, kind=st.sampled_from(["rain", "pad"]), depth=st.floats(0, 1)
)
BLOCK_BED = st.none() | st.builds(
    BlockBed, on=st.booleans(), level=st.floats(-40, 12), change=st.none() | MADE | RECORDED
)
PACE = st.none() | st.builds(Pace, words=st.integers(80, 300), to=st.none() | st.integers(80, 300))
SPEAKER = st.fixed_dictionaries(
    {
        "language": st.sampled_from([None, None, "es", "de"]),
        "narrator": st.sampled_from([None, None, "espeak", "joe"]),
        "pace": PACE,
    }
)
VOICE_LEVEL = st.none() | st.builds(VoiceLevel, level=st.floats(-30, 6), to=st.none() | st.floats(-30, 6))

TEXT = st.text(st.characters(codec="utf-8", exclude_categories=("Cc", "Cs", "Zl", "Zp", "Cf", "Cn", "Co")), max_size=40)
WORDS = st.lists(TEXT, max_size=3).map(tuple)
TALK = st.builds(
    Talk,
    id=st.just("x"),
    title=TEXT,
    paragraphs=WORDS,
    pause_after=seconds(0, 600),
    slot=st.none() | seconds(1, 9),
    locked=st.booleans(),
)
REST = st.builds(Rest, id=st.just("x"), title=TEXT, paragraphs=WORDS, seconds=seconds(1, 600), locked=st.booleans())
SET = st.builds(
    BreathSet,
    id=st.just("x"),
    pattern=patterns(),
    rounds=st.integers(1, 5),
    count_length=st.none() | seconds("1/5", 6),
    style=STYLE,
    calls=CALLS,
    chimes=st.booleans(),
)
STROKES = st.builds(
    Strokes,
    id=st.just("x"),
    form=st.sampled_from(["rapid", "bellows"]),
    strokes=st.integers(1, 60),
    per_minute=seconds(4, 240),
    every=st.integers(0, 20),
    demonstration=st.integers(0, 5),
    arms=st.booleans(),
    recovery=seconds(0, 90),
    recovery_words=st.sampled_from(["", "Let it settle. Breathe."]),
)


@st.composite
def sessions(draw: st.DrawFn, *kinds: st.SearchStrategy) -> Session:
    """Any session of these kinds of block, or of every kind."""
    blocks = draw(st.lists(st.one_of(*(kinds or (TALK, REST, SET, paced_sets(), STROKES))), max_size=5))
    try:
        return Session(
            title=draw(TEXT),
            count_length=draw(seconds("1/5", 6)),
            opening=draw(seconds(0, 20)),
            language=draw(st.sampled_from(["en", "hi", "fr"])),
            end_bell=draw(st.booleans()),
            bed=draw(st.none() | MADE | RECORDED),
            ducking=draw(st.builds(Ducking, lead=st.floats(0.05, 5), hold=st.floats(0, 30))),
            blocks=tuple(
                block.model_copy(
                    update={"id": f"b{n}", "bed": draw(BLOCK_BED), "voice": draw(VOICE_LEVEL), **draw(SPEAKER)}
                )
                for n, block in enumerate(blocks)
            ),
        )
    except ValueError:  # longer than four hours, or a fade that no longer fits another count length
        assume(False)
        raise
