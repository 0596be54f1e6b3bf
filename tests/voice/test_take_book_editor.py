"""A take book being changed: every change written, undoable, and never of an audio file."""

import errno
import json
import os

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from nafas.errors import InputError
from nafas.voice import Take, TakeBook
from nafas.voice.takebook.editor import TakeBookEditor, accepted, estimated, with_beat, with_line, with_trim
from nafas.voice.takebook.writing import copy_book

from shelves import RATE, book_of  # isort: skip

TAKE = Take(file="a.flac", text="two", trim=(0.2, 0.9), beat=0.1, confidence=0.3, beat_confidence=0.4)


def test_changes_are_written_at_once_and_taken_back(folder):
    book_of(folder, ("a.flac", "two", 0.5, {}), ("b.flac", "two", 0.4, {}))
    before = {path.name: path.read_bytes() for path in folder.glob("*.flac")}
    tended = TakeBookEditor(folder)
    first = tended.index.takes[0]
    tended.replace(first, with_beat(first, 0.2), "move a beat")
    tended.replace(tended.index.takes[1], tended.index.takes[1].replace(aside=True), "set aside")
    kept = TakeBook(folder)
    assert [take.file for take in kept.takes("two", "en")] == ["a.flac"] and len(kept.every_take("two", "en")) == 2
    assert kept.index.takes[0].beat == 0.2 and tended.undo_label == "set aside"
    assert tended.undo() and tended.undo() and not tended.undo()
    assert TakeBook(folder).index.takes[0].beat == 0.05 and tended.redo_label == "move a beat"
    assert tended.redo() and TakeBook(folder).index.takes[0].beat == 0.2
    assert {path.name: path.read_bytes() for path in folder.glob("*.flac")} == before


def test_a_change_that_cannot_be_written_has_not_happened(folder, monkeypatch):
    book_of(folder, ("a.flac", "two", 0.5, {}))
    tended = TakeBookEditor(folder)
    take = tended.index.takes[0]
    tended.replace(take, with_beat(take, 0.2), "move a beat")

    def full(descriptor):
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(InputError, match="No space"):
        tended.replace(tended.index.takes[0], with_beat(take, 0.3), "move it again")
    with pytest.raises(InputError, match="No space"):
        tended.undo()
    monkeypatch.undo()
    assert tended.index.takes[0].beat == 0.2 == TakeBook(folder).index.takes[0].beat
    assert tended.undo_label == "move a beat"


@given(st.floats(-1, 3), st.floats(-1, 3))
def test_a_trim_keeps_the_beat_where_it_was_in_the_sound(begin, end):
    new = with_trim(TAKE, begin, end, 1.2)
    low, high = new.trim
    assert 0 <= low < high <= 1.2 + 1e-9 and high - low >= 0.02 - 1e-9 and 0 <= new.beat <= high - low + 1e-9
    at = TAKE.trim[0] + TAKE.beat
    if low <= at <= high:
        assert low + new.beat == pytest.approx(at)


def test_a_person_s_word_stands():
    assert with_beat(TAKE, 9).beat == pytest.approx(0.7) and with_beat(TAKE, 0.1).beat_confidence is None
    assert not TAKE.sure and accepted(TAKE).sure and with_line(TAKE, "three", "en").sure
    with pytest.raises(ValueError):
        TAKE.replace(gain=1000)


def test_level_and_beat_are_estimated_anew(folder):
    book = TakeBook(book_of(folder, ("a.flac", "two", 0.5, {"gain": 30, "beat": 0.4})))
    take = estimated(book, book.index.takes[0])
    assert take.gain == pytest.approx(-23 + 17, abs=1) and take.beat < 0.1 and take.beat_confidence is not None


def test_a_new_book_is_made_with_its_first_change(folder):
    tended = TakeBookEditor(folder / "new", "Crossing")
    assert tended.book is None and not (folder / "new").exists()
    (folder / "new").mkdir()
    tended.change(tended.index, "begin")
    assert tended.book is not None and TakeBook(folder / "new").index.title == "Crossing"
    (folder / "other").mkdir()
    (folder / "other" / "letter.txt").write_text("dear")
    with pytest.raises(InputError, match="no take book"):
        TakeBookEditor(folder / "other")


def test_a_book_moved_or_half_deleted_says_what_is_gone(folder):
    book_of(folder / "book", ("a.flac", "two", 0.5, {}), ("b.flac", "three", 0.5, {}))
    (folder / "book").rename(folder / "moved")
    with pytest.raises(InputError, match=r"takes\.json"):
        TakeBook(folder / "book")
    (folder / "moved" / "b.flac").unlink()
    assert TakeBook(folder / "moved").absent == {"b.flac"}
    copy_book(TakeBook(folder / "moved"), folder / "copy")
    assert sorted(path.name for path in (folder / "copy").iterdir()) == ["a.flac", "takes.json"]
    with pytest.raises(InputError, match="not empty"):
        copy_book(TakeBook(folder / "moved"), folder / "copy")


def test_a_copy_stopped_by_a_full_disk_leaves_nothing(folder, monkeypatch):
    import shutil

    book = TakeBook(book_of(folder / "book", ("a.flac", "two", 0.5, {}), ("b.flac", "two", 0.5, {})))
    copy = shutil.copyfile

    def full(source, target):
        copy(source, target)
        if "b.flac" in str(target):
            raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(shutil, "copyfile", full)
    with pytest.raises(InputError, match="No space"):
        copy_book(book, folder / "copy")
    assert list((folder / "copy").iterdir()) == []


def test_the_chain_quiets_gaps_and_evens_speech_without_moving_anything(folder):
    random = np.random.default_rng(1)
    folder = book_of(folder, ("a.flac", "two", 0.6, {"gain": 0.0}))
    import soundfile

    loud_soft = np.concatenate(
        [np.zeros(RATE // 4), np.ones(RATE // 2), 0.25 * np.ones(RATE // 2), np.zeros(RATE // 4)]
    )
    wave = loud_soft * 0.15 * np.sin(2 * np.pi * 400 * np.arange(len(loud_soft)) / RATE)
    soundfile.write(folder / "a.flac", wave + 10 ** (-66 / 20) * random.standard_normal(len(wave)), RATE)
    raw = json.loads((folder / "takes.json").read_text())
    raw["takes"][0]["trim"] = [0, 1.5]

    def heard(**chain):
        (folder / "takes.json").write_text(json.dumps({**raw, "chain": chain}))
        book = TakeBook(folder)
        return book.clip(book.index.takes[0]).samples

    def level(samples, begin, end):
        return 20 * np.log10(np.std(samples[int(begin * RATE) : int(end * RATE)]) + 1e-9)

    plain, quiet, even = heard(), heard(quiet_gaps=True), heard(even=True)
    assert len(plain) == len(quiet) == len(even)
    assert level(quiet, 0.02, 0.2) < level(plain, 0.02, 0.2) - 3  # the room is turned down, not cut off
    assert level(quiet, 0.02, 0.2) > -120 and level(quiet, 0.4, 0.7) == pytest.approx(level(plain, 0.4, 0.7), abs=0.3)
    apart = [level(each, 0.4, 0.7) - level(each, 0.9, 1.2) for each in (plain, even)]
    assert apart[1] < apart[0] - 3


def test_an_old_book_is_written_in_the_format_of_now(folder):
    """What is set aside must not be read by an older Nafas as if it were not: the number says so."""
    book_of(folder, ("a.flac", "two", 0.5, {}))
    raw = json.loads((folder / "takes.json").read_text())
    (folder / "takes.json").write_text(json.dumps({**raw, "format": 1}))
    tended = TakeBookEditor(folder)
    take = tended.index.takes[0]
    tended.replace(take, take.replace(aside=True), "set aside")
    assert json.loads((folder / "takes.json").read_text())["format"] == 2
    tended.undo()
    assert not TakeBook(folder).index.takes[0].aside


def test_what_another_program_added_meanwhile_is_not_lost(folder):
    """Two have the book open: the second to write is told, reads again, and may then do it again."""
    book_of(folder, ("a.flac", "two", 0.5, {}), ("b.flac", "two", 0.5, {}))
    one, other = TakeBookEditor(folder), TakeBookEditor(folder)
    other.replace(other.index.takes[1], with_beat(other.index.takes[1], 0.2), "move a beat")
    take = one.index.takes[0]
    with pytest.raises(InputError, match="by another program"):
        one.replace(take, take.replace(aside=True), "set aside")
    assert one.index.takes[1].beat == 0.2 and not one.undo()  # what came before cannot be undone over it
    one.replace(take, take.replace(aside=True), "set aside")
    found = TakeBook(folder).index.takes
    assert found[0].aside and found[1].beat == 0.2
