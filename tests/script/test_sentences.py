"""Text as it is read: sentences, and the pauses written between them."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from nafas.script import BreathSet, Rest, Session, Talk, read_block
from nafas.script.edits.round_edits import with_ease_words, with_pause, with_sentence
from nafas.script.edits.session_edits import change_block
from nafas.script.model.sentences import sentences, with_pauses, written
from nafas.timing import EventKind, compile_session

SECOND = lambda text: Fraction(1)  # noqa: E731  every sentence takes a second


def begins(block):
    """When each sentence begins, and how long the block is."""
    timeline = compile_session(Session(blocks=(block,), opening=0), SECOND)
    return [m.at for m in timeline.spoken if m.kind is EventKind.TALK], timeline.blocks[0].length


def talk(*paragraphs, **fields):
    return Talk(id="t", paragraphs=paragraphs, **fields)


@pytest.mark.parametrize(
    ("text", "read"),
    [
        ("Sit. [4s] Close your eyes.", [("Sit.", 4), ("Close your eyes.", None)]),
        ("Sit [ Pause 2,5 sec ] down.", [("Sit", Fraction(5, 2)), ("down.", None)]),
        ("[3s] Sit. [1s][2 seconds]", [("", 3), ("Sit.", 3)]),
        ("Take [4] or [four s] of them.", [("Take [4] or [four s] of them.", None)]),
        ("", []), (" [0s] ", [("", 0)]),
    ],
)  # fmt: skip
def test_pauses_are_read_out_of_the_text_and_never_aloud(text, read):
    assert [tuple(each) for each in with_pauses(text)] == read
    assert all("[" not in sentence or "[4]" in sentence for sentence in sentences(text))


@given(
    st.lists(
        st.one_of(st.sampled_from(["Sit down.", "Rest", "And wait!", "[2s]", "[0.5 s]", "[pause 7s]"])), max_size=12
    )
)
def test_what_is_written_reads_the_same_again(pieces):
    read = with_pauses(" ".join(pieces))
    assert with_pauses(written(read)) == read


def test_a_pause_stands_where_it_is_written():
    """After its sentence, its paragraph and its block; before the first; and a paragraph that is only a pause."""
    usual = talk("One. Two.", "Three.")
    assert begins(usual) == ([0, Fraction(11, 5), Fraction(31, 5)], Fraction(46, 5))
    own = talk("One. [4s] Two. [10s]", "Three. [5s]")
    assert begins(own) == ([0, 5, 16], 22)
    assert begins(talk("[3s] One.", "[7s]", "Two.", pause_after=0)) == ([3, 11], 12)
    assert begins(talk("[3s]", pause_after=2)) == ([], 5)
    assert begins(talk("One. [9s] Two.", slot=30))[1] == 30
    assert begins(Rest(id="r", seconds=20, paragraphs=("One. [9s] Two. [99s]",))) == ([0, 10], 20)
    with pytest.raises(ValidationError, match="601 s is too long"):
        talk("One. [600s] [1s]")


def test_a_pause_is_changed_and_words_keep_theirs():
    session = Session(blocks=(talk("One. Two. [8s]", "Three."),))
    longer = with_pause(session, 0, 1, Fraction(5, 2))
    assert longer.blocks[0].paragraphs == ("One. [2.5s] Two. [8s]", "Three.")
    assert with_pause(longer, 0, 1, Fraction(6, 5)).blocks[0].paragraphs[0] == "One. Two. [8s]"  # the usual one
    assert with_pause(session, 0, 2, None).blocks[0].paragraphs[0] == "One. Two."
    assert with_pause(session, 0, 3, Fraction(2)).blocks[0].paragraphs[1] == "Three."  # as its pause after it
    assert with_sentence(session, 0, 2, "Deux.").blocks[0].paragraphs[0] == "One. Deux. [8s]"
    assert with_sentence(session, 0, 2, "Deux. [1s] Trois.").blocks[0].paragraphs[0] == "One. Deux. [1s] Trois. [8s]"
    assert with_sentence(session, 0, 2, "").blocks[0].paragraphs == ("One.", "Three.")


def test_pauses_in_the_words_between_steps():
    block = read_block("4-4 x1 step 1 to 6 ease 30s", "b")
    session = change_block(Session(blocks=(block,), opening=0), 0, ease_words="[2s] Rest. [5s] Now on.")
    timeline = compile_session(session, SECOND)
    assert [m.at for m in timeline.spoken if m.kind is EventKind.TALK][:2] == [8 + 2, 8 + 2 + 1 + 5]
    changed = with_ease_words(session, 0, 2, "Go on.").blocks[0]
    assert isinstance(changed, BreathSet) and changed.ease_words == "[2s] Rest. [5s] Go on."
