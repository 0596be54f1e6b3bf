"""Renders one after another: order, cancel, failure, time left, and what is reported of it."""

import json
import threading

import pytest
import soundfile

from nafas.cli.main import main
from nafas.errors import InputError
from nafas.script import save_session
from nafas.script.edits.session_edits import change
from nafas.script.model.assets import Asset
from nafas.script.model.beds import FileBed
from nafas.tasks.queue import RenderQueue, State, summary
from nafas.tasks.render import RenderRequest


def job(session, folder, name, **more):
    return RenderRequest(session, folder, folder / name, with_proof=False, **more)


def test_one_that_fails_never_stops_the_rest(short, folder):
    lost = change(short, title="Lost", bed=FileBed(file=Asset(path="gone.wav")))
    queue = RenderQueue()
    first, failed, last = (
        queue.add(job(session, folder, name))
        for session, name in ((short, "a.wav"), (lost, "b.wav"), (short, "c.flac"))
    )
    queue.run()
    assert [entry.state for entry in queue.entries] == [State.DONE, State.FAILED, State.DONE]
    assert not (folder / "b.wav").exists() and "gone.wav" in failed.trouble
    assert first.result.mastered.frames == soundfile.info(folder / "c.flac").frames and last.seconds > 0
    told = summary(queue.entries)
    assert told.startswith("2 rendered, 1 failed") and "Lost: not rendered." in told and "c.flac: 0:" in told
    assert queue.left == 0 and not queue.running
    queue.forget_ended()
    assert queue.entries == [] and summary([]) == "nothing to render"


def test_cancelled_before_it_begins_and_half_way(short, folder):
    seen = []
    queue = RenderQueue(lambda: seen.append(1))
    entries = [queue.add(job(short, folder, f"{n}.wav")) for n in range(3)]
    queue.cancel(entries[1])

    def stop_when_writing():
        if entries[0].stage == "writing" and not entries[0]._stop.is_set():
            queue.cancel(entries[0])

    queue._changed = stop_when_writing
    queue.run()
    assert [entry.state for entry in entries] == [State.CANCELLED, State.CANCELLED, State.DONE]
    assert [path.name for path in folder.glob("*.wav")] == ["2.wav"] and seen
    queue.cancel(entries[2])
    assert entries[2].state is State.DONE  # what is done stays done


def test_on_a_thread_of_its_own_more_can_be_added_and_the_time_left_is_known(short, folder):
    known, more = [], threading.Event()
    queue = RenderQueue()

    def changed():
        known.append((queue.left, queue.entries[0].done))
        if len(known) > 3 and not more.is_set():
            more.set()
            queue.add(job(short, folder, "later.wav"))

    queue._changed = changed
    queue.add(job(short, folder, "a.wav"))
    queue.start()
    queue.start()  # once is enough
    queue.wait()
    assert more.is_set() and all(entry.state is State.DONE for entry in queue.entries)
    shares = [done for _, done in known]
    assert shares == sorted(shares) and any(left for left, _ in known)  # never backwards


def test_two_that_write_one_file_are_refused(short, folder):
    queue = RenderQueue()
    queue.add(job(short, folder, "a.wav", also=(folder / "a.mp3",)))
    with pytest.raises(InputError, match="already"):
        queue.add(job(short, folder, "b.wav", also=(folder / "a.mp3",)))
    queue.cancel_all()
    assert queue.add(job(short, folder, "a.wav")).state is State.WAITING


def test_several_sessions_into_a_folder_from_the_command_line(short, folder, capsys):
    for name, session in (("one", short), ("two", change(short, bed=FileBed(file=Asset(path="gone.wav"))))):
        save_session(session, folder / f"{name}.nafas")
    (folder / "out").mkdir()
    sessions = [str(folder / "one.nafas"), str(folder / "two.nafas")]
    assert main(["render", *sessions, "-o", str(folder / "x.wav"), "--no-proof"]) == 1
    assert "no folder" in capsys.readouterr().err
    command = ["render", *sessions, "-o", str(folder / "out"), "--as", "mp3", "--as", ".flac", "--no-proof", "--json"]
    assert main(command) == 1  # one failed, and the other is there
    first, second = json.loads(capsys.readouterr().out)
    assert first["also"] == [str(folder / "out" / "one.flac")] and "gone.wav" in second["trouble"]
    assert sorted(path.name for path in (folder / "out").iterdir()) == ["one.flac", "one.mp3"]
    assert main(["render", *sessions, "-o", str(folder / "out"), "--no-proof"]) == 1
    assert "1 rendered, 1 failed" in capsys.readouterr().out
