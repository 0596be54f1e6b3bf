"""A session written as text, and that text read again."""

from pathlib import Path

from hypothesis import given, settings
from strategies import sessions

from nafas.script import Session
from nafas.script.text.own import is_written, read_written, written_text

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
