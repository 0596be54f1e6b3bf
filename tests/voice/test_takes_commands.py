"""The command line of takes: what is missing or does not fit, with remedies; beats set again; a book that is gone."""

import json

from helpers import breath

from nafas.cli.main import main
from nafas.script import Session, save_session
from nafas.voice import TakeBook

from shelves import book_of  # isort: skip


def session_at(folder, **fields):
    session = Session(bed=None, blocks=(breath("3-3", 4, count_length="0.6"),), **fields)
    save_session(session, folder / "s.nafas")
    return str(folder / "s.nafas")


def test_check_names_what_does_not_fit_and_what_it_would_cost(folder, capsys):
    book_of(folder / "book", ("a.wav", "two", 0.9, {}), ("b.wav", "three", 0.3, {"confidence": 0.2}))
    assert main(["takes", "check", str(folder / "book"), "--for", session_at(folder)]) == 0
    told = capsys.readouterr().out
    assert "too long: 'two'" in told and "to listen to: 'three'" in told and "missing: 'inhale', 'exhale'" in told
    longer = next(line for line in told.splitlines() if "Longer counts" in line)
    assert longer.strip().split(": +")[1].split(" s")[0] != "0.0"
    assert "Record a faster take" in told and "0 of 4 lines are recorded" in told


def test_a_session_whose_book_is_gone_can_still_be_called_and_checked(folder, capsys):
    path = session_at(folder, voice={"take_book": {"path": "moved away"}})
    book_of(folder / "book", ("a.wav", "two", 0.3, {}))
    assert main(["callsheet", path]) == 0 and "inhale" in capsys.readouterr().out
    assert main(["takes", "check", str(folder / "book"), "--for", path]) == 0
    assert main(["takes", "check", str(folder / "nothing"), "--for", path]) == 1
    assert "takes.json" in capsys.readouterr().err


def test_beats_are_set_anew_but_where_a_person_set_them(folder, capsys):
    more = {"beat": 0.2, "beat_confidence": 0.5}
    book_of(folder, ("a.wav", "two", 0.4, {"beat": 0.2}), ("b.wav", "two", 0.4, more))
    assert main(["takes", "beats", str(folder), "--set", "--json"]) == 0
    told = {row["file"]: row for row in json.loads(capsys.readouterr().out)}
    by_ear, estimated = TakeBook(folder).index.takes
    assert by_ear.beat == 0.2 and abs(estimated.beat - told["b.wav"]["found"]) < 0.002 < abs(estimated.beat - 0.2)
    raw = json.loads((folder / "takes.json").read_text())
    (folder / "takes.json").write_text(json.dumps({**raw, "format": 1}))
    assert main(["takes", "beats", str(folder), "--set"]) == 0  # format 1 did not say who set a beat
    assert TakeBook(folder).index.takes[0].beat < 0.1
