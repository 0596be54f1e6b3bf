"""The session file: whole round trips, clear refusals, and a save that never loses the old file."""

import json
import os
import signal
import subprocess
import sys
import time
from fractions import Fraction
from pathlib import Path

import pytest
from helpers import breath
from hypothesis import given
from strategies import sessions

from nafas.errors import InputError
from nafas.script import Session, load_session, save_session
from nafas.script.file import parse_session, schema, session_text


@given(sessions())
def test_any_session_comes_back_from_its_file_as_it_was(session):
    assert parse_session(session_text(session).encode(), "s.nafas") == session


def test_the_file_is_read_by_people(folder):
    save_session(Session(blocks=(breath("4-4-4-4", 6, count_length="6/5"),)), folder / "a.nafas")
    block = json.loads((folder / "a.nafas").read_text())["blocks"][0]
    assert (block["pattern"], block["rounds"], block["count_length"]) == ("4-4-4-4", 6, 1.2)
    assert load_session(folder / "a.nafas").blocks[0].count_length == Fraction(6, 5)


def test_the_schema_names_every_key_a_file_holds():
    published = schema()
    assert set(json.loads(session_text(Session()))) == set(published["properties"])
    assert published["additionalProperties"] is False


def with_set(**fields):
    block = {"kind": "breath", "id": "a", "title": "Long exhale", "pattern": "4-2-8", "rounds": 6, **fields}
    return json.dumps({"format": 1, "blocks": [block]})


@pytest.mark.parametrize(
    ("text", "place", "says"),
    [
        ("{", "line 1, column 2", "not JSON"),
        ("[]", "", "one JSON object"),
        ("[" * 100_000, "", "not a session"),
        ('{"format": NaN}', "", "NaN"),
        ("{}", "format", '"format": 2'),
        ('{"format": 3}', "format", "newer"),
        ('{"format": true}', "format", '"format": 2'),
        ('{"format": 1, "tempo": 3}', "tempo", "unknown key"),
        ('{"format": 1, "count_length": 0}', "count_length", "0.2 to 6"),
        ('{"format": 1, "count_length": 1e999999999}', "count_length", "1.2"),
        ('{"format": 1, "language": "xx"}', "language", "en, es"),
        (with_set(pattern="4-2--8"), 'blocks[0] pattern ("Long exhale")', "character 5"),
        (with_set(pattern="4-2-61"), "blocks[0] pattern", "0 to 60"),
        (with_set(pattern="-4-2"), "blocks[0] pattern", "character 1"),
        (with_set(rounds=0), "blocks[0] rounds", "at least 1"),
        (with_set(rounds=2.5), "blocks[0] rounds", "integer"),
        (with_set(kind="song"), "blocks[0]", '"talk", "rest", "breath"'),
        (with_set(id="A b"), "blocks[0] id", "pattern"),
        (with_set(pattern="60-60-60-60", rounds=500), "", "4 h"),
    ],
)
def test_a_bad_file_is_refused_with_its_place_and_a_remedy(text, place, says):
    with pytest.raises(InputError) as caught:
        parse_session(text.encode(), "s.nafas")
    told = str(caught.value)
    assert told.startswith("s.nafas") and place in told and says in told and "\n" not in told


def test_a_missing_file_a_folder_and_a_binary_are_refused(folder):
    (folder / "b.nafas").write_bytes(b"\xff\xfe\x00")
    for path in (folder / "none.nafas", folder, folder / "b.nafas"):
        with pytest.raises(InputError, match=str(path)):
            load_session(path)


def test_a_save_that_cannot_be_written_leaves_the_old_file(folder, monkeypatch):
    path = folder / "a.nafas"
    save_session(Session(title="old"), path)

    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(InputError, match="No space left"):
        save_session(Session(title="new"), path)
    assert load_session(path).title == "old"
    assert [p.name for p in folder.iterdir()] == ["a.nafas"]


def test_a_save_killed_at_any_moment_leaves_a_whole_file(folder):
    path = folder / "a.nafas"
    save_session(Session(title="old"), path)
    loop = (
        "from nafas.script import *; from pathlib import Path\n"
        f"while True: save_session(Session(title='new' * 30), Path({str(path)!r})); print(flush=True)"
    )
    for pause in (0.0, 0.002, 0.005):
        saver = subprocess.Popen([sys.executable, "-c", loop], stdout=subprocess.PIPE)
        assert saver.stdout is not None and saver.stdout.readline()
        time.sleep(pause)
        saver.send_signal(signal.SIGKILL)
        saver.wait()
        saver.stdout.close()
        assert load_session(path).title == "new" * 30


def test_saving_keeps_permissions_and_follows_links(folder):
    real, link = folder / "real.nafas", folder / "link.nafas"
    save_session(Session(), real)
    real.chmod(0o640)
    link.symlink_to(real)
    save_session(Session(title="through"), link)
    assert link.is_symlink() and load_session(real).title == "through" and real.stat().st_mode & 0o777 == 0o640


def test_the_demo_session_opens():
    from nafas.demo import SESSION

    assert load_session(Path(SESSION)).blocks
