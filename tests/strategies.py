"""Any pattern, any session: what property tests draw from."""

from hypothesis import assume
from hypothesis import strategies as st

from nafas.script import BreathSet, Counting, CountStyle, Pattern, Phase, PhaseKind, Rest, Session, Talk
from nafas.script.session import NightSea

CUE = st.text(st.characters(categories=("L", "N"), include_characters=" ',."), min_size=1, max_size=20).filter(
    lambda text: text == text.strip()
)
PHASE = st.builds(
    Phase,
    kind=st.sampled_from(PhaseKind),
    counts=st.integers(0, 60),
    counting=st.none() | st.sampled_from(Counting),
    cue=st.none() | CUE,
)


@st.composite
def patterns(draw: st.DrawFn) -> Pattern:
    phases = draw(st.lists(PHASE, min_size=1, max_size=8))
    try:
        return Pattern(phases=tuple(phases))
    except ValueError:
        assume(False)
        raise


TEXT = st.text(st.characters(codec="utf-8", exclude_categories=("Cc", "Cs", "Zl", "Zp", "Cf", "Cn", "Co")), max_size=40)
WORDS = st.lists(TEXT, max_size=3).map(tuple)


def seconds(low, high):
    return st.fractions(low, high, max_denominator=997)


TALK = st.builds(
    Talk, id=st.just("x"), title=TEXT, paragraphs=WORDS, pause_after=seconds(0, 600), slot=st.none() | seconds(1, 9)
)
REST = st.builds(Rest, id=st.just("x"), title=TEXT, paragraphs=WORDS, seconds=seconds(1, 600))
SET = st.builds(
    BreathSet,
    id=st.just("x"),
    pattern=patterns(),
    rounds=st.integers(1, 5),
    count_length=st.none() | seconds("1/5", 6),
    style=st.builds(
        CountStyle,
        cue=st.sampled_from(["on-one", "ahead"]),
        cue_room=st.integers(1, 8),
        counting=st.sampled_from(Counting),
    ),
    chimes=st.booleans(),
)


@st.composite
def sessions(draw: st.DrawFn) -> Session:
    blocks = draw(st.lists(TALK | REST | SET, max_size=5))
    return Session(
        title=draw(TEXT),
        count_length=draw(seconds("1/5", 6)),
        opening=draw(seconds(0, 20)),
        language=draw(st.sampled_from(["en", "hi", "fr"])),
        end_bell=draw(st.booleans()),
        bed=draw(st.none() | st.builds(NightSea, under_voice=st.floats(0, 40))),
        blocks=tuple(block.model_copy(update={"id": f"b{n}"}) for n, block in enumerate(blocks)),
    )
