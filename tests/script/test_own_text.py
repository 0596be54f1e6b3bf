"""A session written as text, and that text read again."""

from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import given, settings
from strategies import sessions

from nafas.errors import InputError
from nafas.script import BreathSet, Rest, Session, Talk, load_session
from nafas.script.differences import differences
from nafas.script.text.own import is_written, read_written
from nafas.script.text.written import written_text

DEMO = Path(__file__).parents[2] / "src/nafas/demo/night-ferry.nafas"


@given(sessions())
@settings(max_examples=150)
def test_a_session_written_and_read_into_itself_is_the_same_session(session: Session) -> None:
    text = written_text(session)
    assert is_written(text)
    assert read_written(text, session) == session


@given(sessions())
@settings(max_examples=150)
def test_the_text_alone_makes_a_session_that_writes_the_same_text(session: Session) -> None:
    again = read_written(written_text(session))
    assert written_text(again) == written_text(session)
    assert [type(block) for block in again.blocks] == [type(block) for block in session.blocks]
    assert again.written_length == session.written_length


@given(sessions(), sessions())
@settings(max_examples=80)
def test_any_edit_reads_as_what_it_says(before: Session, after: Session) -> None:
    text = written_text(after)
    assert written_text(read_written(text, before)) == text


def edited(session: Session, *pairs: tuple[str, str]) -> Session:
    text = written_text(session)
    for old, new in pairs:
        assert old in text
        text = text.replace(old, new, 1)
    return read_written(text, session)


def test_an_edit_changes_what_was_edited_and_nothing_else():
    demo = load_session(DEMO)
    new = edited(demo, ("Safe crossing.", "A safe crossing to you."), ("Breath: 4-6 x8", "Breath: 4-6 x10 @ 1.1s"))
    assert differences(demo, new) == [
        line for line in differences(demo, new) if line.startswith(("Long exhale", "Return"))
    ]
    same = [(a, b) for a, b in zip(demo.blocks, new.blocks) if a.title not in ("Long exhale", "Return")]
    assert all(a is b or a == b for a, b in same)
    assert [block.id for block in new.blocks] == [block.id for block in demo.blocks]
    assert (new.voice, new.bed, new.marks, new.master) == (demo.voice, demo.bed, demo.marks, demo.master)


def test_blocks_are_moved_added_and_taken_out_by_their_lines():
    demo = load_session(DEMO)
    text = written_text(demo)
    head, *blocks = text.split("\n## ")
    moved = "\n## ".join([head, *blocks[1:], blocks[0]])
    again = read_written(moved, demo)
    assert [block.id for block in again.blocks] == [block.id for block in (*demo.blocks[1:], demo.blocks[0])]
    added = read_written(text + "\n---\nBreath: box breathing, 5 rounds\n\nWell done.\n", demo)
    assert added.blocks[: len(demo.blocks)] == demo.blocks
    box, words = added.blocks[len(demo.blocks) :]
    assert isinstance(box, BreathSet) and box.rounds == 5
    assert isinstance(words, Talk) and words.paragraphs == ("Well done.",)
    fewer = read_written("\n## ".join([head, *blocks[1:]]), demo)
    assert fewer.blocks == demo.blocks[1:]


def test_a_wrapped_paragraph_and_words_like_keys_stay_words():
    session = Session(
        blocks=(Talk(id="a", paragraphs=("Breath: let it come.", "# one", "pause after: all this, rest.", "---")),)
    )
    text = written_text(session)
    assert read_written(text).blocks == (session.blocks[0].replace(id="talk-1"),)
    wrapped = text.replace("let it\ncome", "let it come").replace("all this, rest.", "all this,\nrest.")
    assert read_written(wrapped, session) == session


@pytest.mark.parametrize(
    "old, new, where",
    [
        ("x8", "x0", "column"),
        ("Breath: 4-6", "Breath: 4-", "line"),
        ("opening: 5s", "opening: soon", "line 5"),
        ("opening: 5s", "beginning: 5s", "line 5"),
        ("Rest: 28s", "Rest: 4-6", "line 20, column 8"),
        ("nafas script: 1", "nafas script: 7", "update"),
        ("language: en", "language: xx", "language"),
    ],
)
def test_faults_name_the_line(old, new, where):
    with pytest.raises(InputError, match=where):
        edited(load_session(DEMO), (old, new))


def test_bounds_of_a_rest_and_pauses_are_written():
    rest = Rest(id="r", seconds=Fraction(30), shortest=Fraction(20), longest=Fraction(60))
    session = Session(blocks=(rest,))
    assert "at least: 20s" in written_text(session) and read_written(written_text(session), session) == session
