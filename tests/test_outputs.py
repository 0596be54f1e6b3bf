"""Nothing is overwritten unasked: every command that writes a file, against everything that can stand there."""

import json
import os
import zipfile
from pathlib import Path

import numpy as np
import pytest
import soundfile
from helpers import deliver as delivered

from nafas.cli.main import main
from nafas.errors import Cancelled
from nafas.exchange.packed import ENDING, pack, unpack
from nafas.files import this_process
from nafas.script import Session, load_session, read_block, save_session
from nafas.script.edits.session_edits import change
from nafas.script.model.assets import Asset
from nafas.script.model.beds import FileBed
from nafas.series.plan import Variant
from nafas.tasks import deliver, render
from nafas.tasks.delivery import DeliveryRequest, stem_of
from nafas.tasks.exit_codes import ExitCode
from nafas.tasks.render import RenderRequest, made_before
from nafas.timing import compile_session, paced

TINY = Session(title="Tiny", blocks=(read_block("1-1 x1", "a"),), opening=0.5, closing=0.5, bed=None, end_bell=False)


@pytest.fixture
def home(folder, monkeypatch):
    monkeypatch.chdir(folder)
    save_session(TINY, Path("s.nafas"))
    soundfile.write("voice.wav", np.zeros(8000), 8000)
    series = {"format": 1, "title": "All", "session": "s.nafas", "audio": [".flac"], "variants": [{"name": "one"}]}
    Path("all.nafas-series").write_text(json.dumps(series))
    assert main(["render", "s.nafas", "-o", "entry.flac", "--no-proof"]) == 0  # the ledger's first entry
    return folder


COMMANDS = {
    "new 1-1": ".nafas",
    "library Square": ".nafas",
    "fit s.nafas 0:20 --take 1": ".nafas",
    "render s.nafas --no-proof": ".wav",
    "say one --voice espeak": ".wav",
    "pack s.nafas": ENDING,
    "series callsheet all.nafas-series": ".csv",
    "series page all.nafas-series": ".html",
    "ledger export": ".json",
    "ledger backup": ".db",
    "ledger open 1": ".nafas",
}


@pytest.mark.parametrize("command", COMMANDS)
def test_what_stands_there_is_replaced_only_when_a_person_says_so(home, command, capsys):
    ending = COMMANDS[command]
    mine = home / f"mine{ending}"
    asked = [*command.split(), "-o", mine.name]
    mine.write_bytes(b"mine")
    assert main(asked) == ExitCode.REFUSED and "is there already" in capsys.readouterr().err
    assert mine.read_bytes() == b"mine"
    assert main([*asked, "--force"]) == 0 and mine.read_bytes() != b"mine"
    mine.unlink()
    target = home / "target"
    target.write_bytes(b"target")
    mine.symlink_to(target)
    assert main([*asked, "--force"]) == ExitCode.REFUSED and "is a link" in capsys.readouterr().err
    mine.unlink()
    os.mkfifo(mine)
    assert main([*asked, "--force"]) == ExitCode.REFUSED and "is a pipe or a device" in capsys.readouterr().err
    mine.unlink()
    mine.write_bytes(b"mine")
    mine.chmod(0o444)
    assert main([*asked, "--force"]) == ExitCode.REFUSED and "is write-protected" in capsys.readouterr().err
    assert mine.read_bytes() == b"mine" and target.read_bytes() == b"target"
    assert not [path for path in home.iterdir() if path.name.endswith(".part")]


@pytest.mark.parametrize(
    "command",
    [
        "pack s.nafas -o s.nafas",
        "audit voice.wav --pdf voice.wav",
        "audit voice.wav --labels voice.wav",
        "prove entry.flac --for s.nafas --page entry.flac",
        "prove entry.flac --for s.nafas --page s.nafas",
        "series words all.nafas-series -o all.nafas-series",
        "series callsheet all.nafas-series -o all.nafas-series",
        "say one -o s.nafas",
        "balance s.nafas --on-beats -o s.nafas",
    ],
)
def test_what_is_read_is_never_written_over(home, command):
    before = {path: path.read_bytes() for path in home.iterdir() if path.is_file()}
    assert main([*command.split(), "--force"]) == ExitCode.REFUSED
    assert {path: path.read_bytes() for path in home.iterdir() if path.is_file()} == before


def test_a_render_replaces_its_own_earlier_file_and_nobody_else_s(home, capsys):
    assert main(["render", "s.nafas", "-o", "m.flac", "--stems", "stems"]) == 0
    assert main(["render", "s.nafas", "-o", "m.flac", "--stems", "stems"]) == 0  # as Nafas made it in that place
    mixed = np.zeros((8000, 2))
    soundfile.write("m.flac", mixed, 48_000)  # a person has put another one there
    capsys.readouterr()
    assert main(["render", "s.nafas", "-o", "m.flac"]) == ExitCode.REFUSED
    assert "is there already" in capsys.readouterr().err and soundfile.info("m.flac").frames == 8000
    Path("stems/bed.wav").write_bytes(b"mine")
    assert main(["render", "s.nafas", "-o", "n.flac", "--stems", "stems"]) == ExitCode.REFUSED
    assert Path("stems/bed.wav").read_bytes() == b"mine" and not Path("n.flac").exists()


def test_a_file_whose_proof_was_stopped_is_replaced_by_the_next_render(home, monkeypatch):
    request = RenderRequest(TINY, home, home / "m.flac", stems=home / "stems")

    def stop(stage, done):
        if stage == "proving":
            raise Cancelled

    with pytest.raises(Cancelled):
        render.run(request, stop)
    assert (home / "m.flac").exists()
    render.run(request)
    asked = DeliveryRequest(
        TINY, home, home / "out", audio=(".flac",), texts=("srt",), anyway=True, replaces=made_before
    )
    with monkeypatch.context() as broken, pytest.raises(KeyboardInterrupt):
        broken.setattr(deliver, "record_delivery", _interrupt)
        deliver.run(asked)
    assert deliver.run(asked).files


def _interrupt(*_):
    raise KeyboardInterrupt


@pytest.mark.parametrize("into", ["../outside", "{outside}", "link"])
def test_a_series_writes_outside_its_folder_only_when_it_may(home, into, tmp_path_factory, capsys):
    outside = tmp_path_factory.mktemp("outside") if into != "../outside" else home / "outside"
    inner = home / "series"
    inner.mkdir()
    (inner / "s.nafas").write_bytes((home / "s.nafas").read_bytes())
    (inner / "link").symlink_to(outside)
    series = json.loads((home / "all.nafas-series").read_text()) | {"into": into.format(outside=outside)}
    path = inner / "all.nafas-series"
    path.write_text(json.dumps(series))
    outside.mkdir(exist_ok=True)
    assert main(["series", "render", str(path)]) == ExitCode.REFUSED
    assert "outside its own folder" in capsys.readouterr().err and not list(outside.iterdir())
    assert main(["series", "render", str(path), "--allow-outside"]) == 0 and (outside / "one.flac").exists()
    assert main(["series", "render", str(path), "--all"]) == 0  # it is asked once


def test_a_series_replaces_only_what_it_made_itself(home, capsys):
    (home / "series").mkdir()
    mine = home / "series" / "one.flac"
    mine.write_bytes(b"mine")
    assert main(["series", "render", "all.nafas-series"]) == ExitCode.REFUSED
    assert "is there already" in capsys.readouterr().out and mine.read_bytes() == b"mine"
    mine.unlink()
    assert main(["series", "render", "all.nafas-series"]) == 0
    save_session(change(TINY, closing=1), home / "s.nafas")
    assert main(["series", "render", "all.nafas-series"]) == 0  # its own, which is of an earlier script now


@pytest.mark.parametrize("ending", [".csv", ".po"])
def test_a_table_of_words_is_brought_up_to_date_and_loses_no_translation(home, ending, capsys):
    first = change(TINY, blocks=(read_block('in 1 "lift", out 1 "let go" x1', "a"),))
    save_session(first, home / "s.nafas")
    table = home / f"es{ending}"
    command = ["series", "words", "all.nafas-series", "-o", str(table), "--language", "es"]
    assert main(command) == 0
    text = table.read_text("utf-8-sig")
    if ending == ".po":
        text = text.replace('msgid "lift"\nmsgstr ""', '# ask Ana\n#, fuzzy\nmsgid "lift"\nmsgstr "sube"')
        text = text.replace('msgid "let go"\nmsgstr ""', 'msgid "let go"\nmsgstr "suelta"')
    else:
        text = text.replace("lift,,", "lift,sube,").replace("let go,,", "let go,suelta,")
    assert "suelta" in text
    table.write_text(text, "utf-8")
    save_session(change(first, blocks=(read_block('in 1 "lift", out 1 "rest now" x1', "a"),)), home / "s.nafas")
    assert main(command) == 0 and "no longer spoken" in capsys.readouterr().err
    now = table.read_text("utf-8-sig")
    assert "rest now" in now and "sube" in now and "suelta" in now
    if ending == ".po":
        assert '#~ msgstr "suelta"' in now and "# ask Ana" in now and "#, fuzzy" in now
    else:
        assert "let go,suelta,no longer said" in now
    save_session(first, home / "s.nafas")  # and back: what was kept is used again
    assert main(command) == 0
    assert ('msgid "let go"\nmsgstr "suelta"' if ending == ".po" else "let go,suelta,cue") in table.read_text(
        "utf-8-sig"
    )


@pytest.mark.parametrize("name", ["engine 12:30.wav", "a\\b.wav", "what?.wav", "रात" * 25 + ".wav"])
def test_a_sound_of_any_name_is_packed_so_that_it_opens_everywhere(home, name):
    soundfile.write(home / name, np.random.default_rng(1).normal(0, 0.05, 48_000), 48_000)
    session = change(TINY, bed=FileBed(file=Asset(path=name)))
    path = pack(compile_session(session, paced()), home, home / f"p{ENDING}")
    for inside in zipfile.ZipFile(path).namelist():
        assert not set(inside) & set('<>:"|?*\\') and len(inside.encode()) < 200
    script = unpack(path, home / "elsewhere")
    (bed,) = (load_session(script).bed,)
    assert (script.parent / bed.file.path).read_bytes() == (home / name).read_bytes()


def test_a_pack_that_does_not_open_is_not_called_done(home, monkeypatch):
    before = {path.name for path in home.iterdir()}
    monkeypatch.setattr("nafas.exchange.packed._plain_name", lambda name: f"..:{name}")
    soundfile.write(home / "bed.wav", np.zeros(48_000), 48_000)
    session = change(TINY, bed=FileBed(file=Asset(path="bed.wav")))
    with pytest.raises(Exception, match="would leave its folder"):
        pack(compile_session(session, paced()), home, home / f"p{ENDING}")
    assert {path.name for path in home.iterdir()} == before | {"bed.wav"}


def test_what_killed_packing_and_unpacking_left_is_swept(home):
    boot = this_process().rpartition("-")[2]
    left = [home / f".x{ENDING}.999999-1-{boot}.1.part", home / f".folder.999999-1-{boot}.2.part"]
    left[0].write_bytes(b"half")
    left[1].mkdir()
    assert main(["pack", "s.nafas", "-o", f"p{ENDING}"]) == 0 and not left[0].exists()
    left[0].write_bytes(b"half")
    left[1].mkdir(exist_ok=True)
    assert main(["unpack", f"p{ENDING}", "-o", "new"]) == 0 and not any(path.exists() for path in left)


def test_long_titles_in_letters_of_several_bytes_become_names(home):
    long = "शांत रात की साँस " * 6
    stem = stem_of(change(TINY, title=long[:120]), 61)
    assert 20 < len(stem.encode()) <= 120 and long.startswith(stem)
    made = delivered(change(TINY, title=long[:120]), home, home / "out", (".flac",), ("transcript",), anyway=True)
    assert all(path.exists() for path in made.files)
    with pytest.raises(ValueError, match="bytes"):
        Variant(name="रात" * 30)
