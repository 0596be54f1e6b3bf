"""The command line as a script uses it: outputs, exit codes, one-line errors."""

import json
import signal
import subprocess
import sys
import time
from fractions import Fraction

import pytest

from nafas import __version__
from nafas.cli.main import main
from nafas.script import load_session, save_session


def run(*arguments, **more):
    command = [sys.executable, "-m", "nafas", *map(str, arguments)]
    return subprocess.run(command, capture_output=True, text=True, check=False, **more)


def test_from_notation_to_a_proven_file(folder, capsys):
    session, out = folder / "a.nafas", folder / "a.flac"
    assert main(["new", "2-1-3 x2 @ 0.9s", "2-2", "-o", str(session)]) == 0
    assert [block.id for block in load_session(session).blocks] == ["set-1", "set-2"]
    capsys.readouterr()
    assert main(["timeline", str(session), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    event = next(e for e in told["events"] if e["kind"] == "count" and e["round"] == 2 and e["count"] == 2)
    assert Fraction(event["time"]) == 4 + Fraction(9, 10) * 7 and event["sample"] == round(48_000 * event["seconds"])
    assert (event["block"], event["phase"], event["breath"], event["text"]) == ("set-1", 1, "in", "two")
    assert main(["render", str(session), "-o", str(out), "--stems", str(folder / "st"), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["cues_not_found"] == [] and told["worst_beat_error_samples"] <= 0.5
    assert sorted(p.name for p in folder.iterdir()) == ["a.flac", "a.flac.proof.json", "a.nafas", "st"]
    assert sorted(p.name for p in (folder / "st").iterdir()) == ["bed.wav", "chimes.wav", "voice.wav"]


def test_exit_codes_and_one_line_errors(folder):
    (folder / "bad.nafas").write_text('{"format": 1, "blocks": 3}')
    for arguments in (
        ["timeline", folder / "none.nafas"],
        ["render", folder / "bad.nafas", "-o", folder / "x.wav"],
        ["new", "4-2-", "-o", folder / "n.nafas"],
        ["new", "4-4", "-o", folder / "n.txt"],
    ):
        done = run(*arguments)
        assert done.returncode == 1 and done.stdout == ""
        assert done.stderr.startswith("nafas: ") and done.stderr.count("\n") == 1 and ";" in done.stderr
    for arguments in ([], ["sing"], ["render"], ["new", "4-4"]):
        assert run(*arguments).returncode == 2


def test_new_never_overwrites_unasked(folder, short):
    save_session(short, folder / "a.nafas")
    assert main(["new", "4-4", "-o", str(folder / "a.nafas")]) == 1
    assert load_session(folder / "a.nafas") == short


def test_version_needs_nothing_heavy():
    code = "import sys; from nafas.cli.main import main\ntry: main(['--version'])\nexcept SystemExit: pass\n"
    heavy = "print([m for m in ('numpy', 'scipy', 'pydantic', 'PySide6', 'soundfile') if m in sys.modules])"
    done = subprocess.run([sys.executable, "-c", code + heavy], capture_output=True, text=True, check=True)
    assert done.stdout.splitlines() == [f"nafas {__version__}", "[]"]


def test_schema_is_json(capsys):
    assert main(["schema"]) == 0
    assert json.loads(capsys.readouterr().out)["title"] == "Session"


@pytest.mark.parametrize("how", [signal.SIGKILL, signal.SIGINT])
def test_a_render_killed_half_way_leaves_no_master_and_is_swept_up(folder, how):
    session = folder / "long.nafas"
    assert main(["new", "4-4 x200", "-o", str(session)]) == 0
    command = [sys.executable, "-m", "nafas", "render", str(session), "-o", str(folder / "m.wav"), "--no-proof"]
    process = subprocess.Popen(command, stderr=subprocess.PIPE)
    parts = []
    for _ in range(1200):
        parts = [p for p in folder.glob(".m.wav.*.part") if p.stat().st_size > 1_000_000]
        if parts:
            break
        time.sleep(0.02)
    process.send_signal(how)
    process.communicate()
    assert parts and not (folder / "m.wav").exists()
    if how is signal.SIGKILL:
        assert list(folder.glob(".m.wav.*.part"))
        small = folder / "s.nafas"
        assert main(["new", "1-1", "-o", str(small)]) == 0
        assert main(["render", str(small), "-o", str(folder / "m.wav")]) == 0
    else:
        assert process.returncode == 130
    assert not [p for p in folder.iterdir() if p.name.startswith(".")]


def test_fit_lists_the_ways_and_takes_one(folder, capsys):
    session, fitted = folder / "a.nafas", folder / "b.nafas"
    assert main(["new", "4-4-6 x9", "rest 30s", "rapid 10", "-o", str(session)]) == 0
    assert main(["fit", str(session), "4:00", "--json"]) == 0
    found = json.loads(capsys.readouterr().out.split("\n", 1)[1])
    assert found["target"] == "240" and found["ways"][0]["exact"]
    assert main(["fit", str(session), "4:00", "--take", "1", "-o", str(fitted)]) == 0
    assert main(["fit", str(fitted), "4:00"]) == 0
    assert "Already 4:00 exactly" in capsys.readouterr().out
    for bad in (["soon"], ["5:00:00"], ["4:00", "--take", "99", "-o", str(fitted)], ["4:00", "--take", "1"]):
        assert main(["fit", str(session), *bad]) == 1
        assert capsys.readouterr().err.count("\n") == 1


def test_library_and_sheet(folder, capsys):
    assert main(["library"]) == 0
    assert "Alternate sides" in capsys.readouterr().out
    for name in ("bellows", "Toward sleep"):
        assert main(["library", name, "-o", str(folder / "l.nafas"), "--force"]) == 0
        assert main(["sheet", str(folder / "l.nafas")]) == 0
        assert "Cautions" in capsys.readouterr().out
    assert main(["library", "nothing", "-o", str(folder / "x.nafas")]) == 1
    assert "no library here" in capsys.readouterr().err
