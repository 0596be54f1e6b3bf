"""What is no regular file is neither read nor replaced; what is written follows no link anywhere else."""

import json
import os
import stat
import threading

import numpy as np
import pytest
import soundfile
from faults.mangling import refused_or_read

from nafas.audio_files import AudioReader
from nafas.cli.main import main
from nafas.errors import InputError
from nafas.files import FileChanged, file_digest, sweep_parts, write_new, write_whole
from nafas.library.own import read_entry
from nafas.script import Session, load_session, save_session
from nafas.sound.files.encode import AudioFile
from nafas.tasks.audit import AuditRequest, run
from nafas.voice import TakeBook
from nafas.voice.segmentation.labels import read_labels

NAMES = ["pipe.wav", "loop.wav", "nowhere.wav", "folder.wav", "device.wav", "file/in it.wav", f"{'n' * 300}.wav"]


@pytest.fixture
def strange(tmp_path):
    os.mkfifo(tmp_path / "pipe.wav")
    (tmp_path / "loop.wav").symlink_to(tmp_path / "pool.wav")
    (tmp_path / "pool.wav").symlink_to(tmp_path / "loop.wav")
    (tmp_path / "nowhere.wav").symlink_to(tmp_path / "gone")
    (tmp_path / "folder.wav").mkdir()
    (tmp_path / "file").write_text("x")
    if os.geteuid() == 0:  # the null device under a name of our own
        os.mknod(tmp_path / "device.wav", 0o600 | stat.S_IFCHR, os.makedev(1, 3))
    else:
        os.mkfifo(tmp_path / "device.wav")
    return tmp_path


@pytest.mark.filterwarnings("error")
def test_float_samples_that_are_no_sound_are_measured_as_far_as_they_can_be(tmp_path):
    quiet = np.random.default_rng(1).normal(0, 0.01, (48_000 * 2, 2)).astype(np.float32)
    for value in (np.nan, np.inf, 1e30):
        sound = quiet.copy()
        sound[5000:5100, 1] = value
        soundfile.write(tmp_path / "a.wav", sound, 48_000, subtype="FLOAT")
        heard = run(AuditRequest(tmp_path / "a.wav", talk=False))
        assert np.isfinite(heard.audit.measured.loudness) and json.dumps(heard.figures(), allow_nan=False)


@pytest.mark.parametrize(
    "command", ["render s.nafas -o loop.wav", "bed loop.wav", "audit loop.wav", "fit s.nafas loop.wav"]
)
def test_a_link_that_goes_round_in_a_circle_is_one_line(strange, command, monkeypatch, capsys):
    monkeypatch.chdir(strange)
    save_session(Session(title="a"), strange / "s.nafas")
    assert main(command.split()) == 1 and capsys.readouterr().err.count("\n") == 1


@pytest.mark.parametrize("name", NAMES)
@pytest.mark.parametrize(
    "read", [load_session, read_entry, read_labels, AudioReader, lambda path: TakeBook(path.parent / path.name)]
)
def test_nothing_but_regular_files_is_read(strange, name, read):
    done = threading.Event()

    def work() -> None:
        assert not refused_or_read(lambda: read(strange / name))
        done.set()

    threading.Thread(target=work, daemon=True).start()
    assert done.wait(20)  # a pipe would hang it for good


@pytest.mark.parametrize("name", NAMES)
@pytest.mark.parametrize(
    "write", [lambda p: write_whole(p, b"new"), lambda p: AudioFile(p, 48_000, 2, 10, None).abandon()]
)
def test_nothing_but_regular_files_is_replaced(strange, name, write):
    path = strange / name
    try:
        before = os.lstat(path).st_mode
    except OSError:
        before = None
    with pytest.raises(InputError):
        write(path)
    assert before is None or os.lstat(path).st_mode == before
    assert not [p for p in strange.iterdir() if ".part" in p.name]


def test_a_link_to_a_file_stays_a_link_and_its_file_is_written(tmp_path):
    (tmp_path / "real").write_text("old")
    (tmp_path / "link").symlink_to(tmp_path / "real")
    write_whole(tmp_path / "link", b"new")
    assert (tmp_path / "link").is_symlink() and (tmp_path / "real").read_text() == "new"


def test_a_write_protected_file_is_not_replaced_by_root_either(tmp_path):
    path = tmp_path / "a.nafas"
    save_session(Session(), path)
    path.chmod(0o444)
    with pytest.raises(InputError, match="write-protected"):
        save_session(Session(title="other"), path)
    assert load_session(path).title == Session().title


def test_a_rename_is_brought_to_the_disk_too(tmp_path, monkeypatch):
    synced, fsync = [], os.fsync
    monkeypatch.setattr(os, "fsync", lambda handle: synced.append(os.fstat(handle).st_mode) or fsync(handle))
    write_whole(tmp_path / "a", b"new")
    assert [stat.S_ISDIR(mode) for mode in synced] == [False, True]  # the bytes first, then the folder's entry


def test_a_file_is_replaced_only_if_it_is_the_one_that_was_known(tmp_path):
    path = tmp_path / "a"
    write_whole(path, b"one", expected="")
    known = file_digest(path)
    with pytest.raises(FileChanged):
        write_whole(path, b"two", expected="")
    write_whole(path, b"theirs")
    with pytest.raises(FileChanged):
        write_whole(path, b"mine", expected=known)
    assert path.read_bytes() == b"theirs" and [p.name for p in tmp_path.iterdir()] == ["a"]


def test_new_files_never_take_a_name_that_is_taken_with_links_or_without(tmp_path, monkeypatch):
    first = write_new(tmp_path, "two", ".flac", b"1")
    monkeypatch.setattr(os, "link", lambda *a: (_ for _ in ()).throw(OSError(95, "not supported")))
    second = write_new(tmp_path, "two", ".flac", b"2")
    assert [first.read_bytes(), second.read_bytes()] == [b"1", b"2"] and first != second


def test_parts_of_dead_processes_are_swept_and_those_of_the_living_left(tmp_path):
    from nafas.files import part_path

    own = part_path(tmp_path / "a.wav")
    own.write_text("")
    pid, started, boot = own.name.split(".")[-3].split("-")
    dead = tmp_path / f".a.wav.{pid}-{int(started) + 1}-{boot}.1.part"  # the number is in use again
    dead.mkdir()
    (dead / "voice.wav").write_text("")
    elsewhere = tmp_path / ".a.wav.4194301-5-00000000.1.part"  # another machine's, on a shared disk
    elsewhere.write_text("")
    assert sweep_parts(tmp_path) == [dead] and own.exists() and elsewhere.exists() and not dead.exists()
    os.utime(elsewhere, (0, 0))
    assert sweep_parts(tmp_path) == [elsewhere]
