"""Unsaved work after a crash, recent files, and files outside a session's folder."""

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

from nafas.files import process_lives, this_process
from nafas.script import Session
from nafas.script.model.assets import Asset
from nafas.script.model.beds import FileBed
from nafas.script.model.voice import Voice
from nafas.state.folder import state_folder
from nafas.state.permissions import NotPermitted, asset_path, outside, permit
from nafas.state.recent_files import note_recent, recent_files
from nafas.state.recovery import BROKEN, find_recoverable, forget_recovery, keep_for_recovery


def left_behind(name="w1", **changed):
    """A recovery copy of a process that is gone."""
    keep_for_recovery(Session(title="half done"), None, Path("/tmp"), name, "0" * 64)
    kept = state_folder() / "recovery" / f"{name}.json"
    kept.write_text(json.dumps(json.loads(kept.read_text()) | {"process": "4194300-1-00000000"} | changed))
    return kept


def test_unsaved_work_is_found_only_after_its_program_died():
    keep_for_recovery(Session(title="half done"), None, Path("/tmp"), "w1")
    assert find_recoverable() == ([], [])  # this very process lives
    kept = left_behind()
    ((found,), notes) = find_recoverable()
    assert (found.session.title, found.path, found.base, found.kept) == ("half done", None, "0" * 64, kept)
    assert notes == []
    forget_recovery("w1")
    assert find_recoverable() == ([], [])


def test_a_process_number_in_use_again_does_not_hide_the_copy():
    name = this_process()
    assert process_lives(name)
    pid, started, boot = name.split("-")
    assert not process_lives(f"{pid}-{int(started) - 1}-{boot}")
    left_behind(process=f"{pid}-{int(started) - 1}-{boot}")
    assert len(find_recoverable()[0]) == 1
    older = {"process": "", "pid": os.getpid()}  # as an earlier version wrote it
    left_behind(**older)
    assert len(find_recoverable()[0]) == 1


@pytest.mark.parametrize("when", [1e300, -1e12, 1e11])
def test_a_copy_of_no_time_that_can_be_is_set_aside(when):
    bad = left_behind("bad", when=when)
    good = left_behind("good")
    (found, (note,)) = find_recoverable()
    assert [one.kept for one in found] == [good] and str(bad) in note and bad.with_name(bad.name + BROKEN).exists()


@pytest.mark.parametrize("text", ["{", "[]", '{"when": 1e999, "path": 3}', "\ud800", "9" * 5000, "[" * 100_000])
def test_a_malformed_copy_is_set_aside_and_told_once(text):
    good = left_behind("good")
    bad = good.with_name("bad.json")
    bad.write_bytes(text.encode("utf-8", "surrogatepass"))
    (found, (note,)) = find_recoverable()
    assert [one.kept for one in found] == [good] and str(bad) in note
    assert bad.with_name(bad.name + BROKEN).read_bytes() == text.encode("utf-8", "surrogatepass")
    assert find_recoverable()[1] == []


def test_a_state_folder_that_is_none_is_told_and_no_reason_to_stop(monkeypatch, tmp_path):
    (tmp_path / "state").write_text("")
    monkeypatch.setenv("NAFAS_STATE", str(tmp_path / "state"))
    found, (note,) = find_recoverable()
    assert found == [] and "cannot be kept" in note
    note_recent(tmp_path / "a.nafas")
    assert recent_files() == []


def test_recent_files_are_the_newest_first_and_exist(tmp_path):
    paths = [tmp_path / f"{n}.nafas" for n in range(20)]
    for path in paths:
        path.write_text("")
        note_recent(path)
    assert recent_files() == paths[::-1][:12]
    paths[19].unlink()
    assert recent_files()[0] == paths[18]
    (state_folder() / "recent.json").write_text('{"not": "a list"}')
    assert recent_files() == []


def test_what_lies_outside_a_sessions_folder_is_named_and_read_only_when_permitted(tmp_path):
    own, other = tmp_path / "own", tmp_path / "other"
    own.mkdir(), other.mkdir()
    (own / "link.wav").symlink_to(other / "sea.wav")
    session = Session(
        bed=FileBed(file=Asset(path="link.wav")), voice=Voice(take_book=Asset(path="../other/book")), blocks=()
    )
    assert asset_path(Asset(path="in/here.wav"), own) == own / "in/here.wav"
    assert outside(session, own) == [other / "book", other / "sea.wav"]
    with pytest.raises(NotPermitted, match="outside"):
        asset_path(Asset(path="link.wav"), own)
    permit([other / "sea.wav"])
    assert outside(session, own) == [other / "book"] and asset_path(Asset(path="link.wav"), own) == other / "sea.wav"
    code = (
        "import sys; from pathlib import Path; from nafas.script.model.assets import Asset\n"
        "from nafas.state.permissions import asset_path\n"
        "print(asset_path(Asset(path='link.wav'), Path(sys.argv[1])))"
    )
    told = subprocess.run([sys.executable, "-c", code, str(own)], capture_output=True, text=True, check=True)
    assert told.stdout.strip() == str(other / "sea.wav")
