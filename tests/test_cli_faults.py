"""The command line answers whatever it is given in one line, and what it prints is harmless."""

import csv
import io
import os
from pathlib import Path

import pytest

from nafas.cli.main import main
from nafas.plain_text import cell, printable, short_path
from nafas.script import Session, Talk, load_session, save_session
from nafas.script.edits.session_edits import change
from nafas.script.model.assets import Asset
from nafas.script.model.beds import FileBed
from nafas.tasks.exit_codes import ExitCode

ESCAPES = "\x1b]0;owned\x07\x1b[2J\u202e"


def one_line(capsys, arguments, code=1):
    assert main([str(each) for each in arguments]) == code
    said = capsys.readouterr()
    assert len(said.err.strip().splitlines()) == 1 and said.err.startswith("nafas: ") and said.out == ""
    return said.err


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["new", "4-6 x500 @ 6s"], "within 4 h"),
        (["new", "4-6 x2 @ as foo"], "foo"),
        (["new", "4-4 x2; 5-5 x2 fade full about 300s"], "fade"),
        (["new", "4-6 x9 fade full about 0s"], "0 s is not allowed"),
        (["new", "4-6", "--title", "x" * 121], "--title"),
        (["new", "4-6", "--title", "a\x1b[2Jb"], "--title"),
        (["new", "4-6", "--title", "\udcff"], "--title"),
        (["new", "4-" * 240_000], "too long for a line of notation"),
        (["new", *["rest 3600s"] * 5], "within 4 h"),
    ],
)
def test_what_cannot_be_a_session_is_one_line(tmp_path, capsys, arguments, says):
    assert says in one_line(capsys, [*arguments, "-o", tmp_path / "a.nafas"])
    assert not list(tmp_path.iterdir())


def test_files_that_are_none(tmp_path, capsys):
    os.mkfifo(tmp_path / "p.nafas")
    (tmp_path / "l.nafas").symlink_to(tmp_path / "l.nafas")
    (tmp_path / "f.nafas").write_text('{"format":2,"opening":1e99999999999999999999}')
    (tmp_path / "many.nafas").write_text('{"format":2,"blocks":[' + "{}," * 999_999 + "{}]}")
    for name in ("p.nafas", "l.nafas", "f.nafas", "many.nafas", f"{'n' * 300}.nafas", "no/such/folder.nafas", "."):
        for command in (["timeline"], ["sheet"], ["render", "-o", tmp_path / "m.wav"], ["fit"], ["callsheet"]):
            extra = ["12:00"] if command[0] == "fit" else []
            one_line(capsys, [command[0], tmp_path / name, *extra, *command[1:]])
    one_line(capsys, ["new", "4-6", "-o", tmp_path / "p.nafas", "--force"])
    one_line(capsys, ["new", "4-6", "-o", tmp_path / f"{'n' * 300}.nafas"])
    assert main(["new", "4-6", "-o", str(tmp_path / "a.nafas")]) == 0
    (tmp_path / "a.nafas").chmod(0o444)
    capsys.readouterr()
    assert "write-protected" in one_line(capsys, ["new", "4-7", "-o", tmp_path / "a.nafas", "--force"])


def test_a_name_that_is_not_utf_8_is_a_name(tmp_path, capsys):
    name = os.fsdecode(os.fsencode(tmp_path) + b"/caf\xe9.nafas")
    assert main(["new", "2-2", "--title", "Cafe", "-o", name]) == 0
    assert main(["timeline", name]) == 0
    assert "caf\\udce9" in capsys.readouterr().out


def test_what_files_say_cannot_control_the_terminal(tmp_path, capsys):
    talk = Talk(
        id="t", title="plain", paragraphs=(f"Hello {ESCAPES} there.", '=HYPERLINK("x")', "@now", "Привет, שלום.")
    )
    save_session(Session(title="A", blocks=(talk,)), tmp_path / "a.nafas")
    for command in ("timeline", "sheet", "callsheet"):
        assert main([command, str(tmp_path / "a.nafas")]) == 0
        said = capsys.readouterr().out
        assert "\x1b" not in said and "\x07" not in said and "\u202e" not in said
        assert command == "timeline" or ("\\x1b[2J" in said and "Привет, שלום." in said)
    assert main(["callsheet", "--csv", str(tmp_path / "a.nafas")]) == 0
    cells = [value for row in csv.reader(io.StringIO(capsys.readouterr().out)) for value in row]
    assert not [value for value in cells if value[:1] in ("=", "@", "+", "-")] and "'@now" in cells
    assert printable("a\tb\nc é \u0301") == "a\tb\nc é \u0301" and cell("two") == "two"


def test_files_outside_a_session_s_folder_are_named_and_need_a_flag(tmp_path, capsys):
    (tmp_path / "theirs").mkdir()
    session = change(Session(), bed=FileBed(file=Asset(path="../sea.wav")), blocks=(Talk(id="t", paragraphs=("Hi.",)),))
    path = tmp_path / "theirs" / "a.nafas"
    save_session(session, path)
    said = one_line(capsys, ["timeline", path])
    assert str(tmp_path / "sea.wav") in said and "--allow-outside" in said
    assert main(["timeline", str(path), "--allow-outside"]) == 0 and main(["timeline", str(path)]) == 0


def test_a_fault_of_our_own_is_one_line_too_and_whole_in_the_log(tmp_path, capsys, monkeypatch, caplog):
    def broken(*arguments: object) -> None:
        raise ZeroDivisionError("a fault")

    assert main(["new", "4-6", "-o", str(tmp_path / "a.nafas")]) == 0
    capsys.readouterr()
    monkeypatch.setattr("nafas.timing.sheet.sheet_text", broken)
    assert "ZeroDivisionError: a fault" in one_line(capsys, ["sheet", tmp_path / "a.nafas"], ExitCode.FAULT)
    assert load_session(tmp_path / "a.nafas").blocks


def test_the_home_folder_is_shown_short(monkeypatch, tmp_path):
    monkeypatch.setenv("HOME", str(tmp_path / "deck"))
    assert short_path(tmp_path / "deck" / "watch" / "a.nafas") == "~/watch/a.nafas"
    assert short_path(tmp_path / "deck") == "~" and short_path(Path("/decks/a")) == "/decks/a"
    assert short_path(tmp_path / "deck2" / "a") == str(tmp_path / "deck2" / "a")
