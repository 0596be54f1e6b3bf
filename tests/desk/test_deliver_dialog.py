"""Handing over from the window; the guide video, frame by frame against its sound and its session."""

import json
import subprocess

import av
import numpy as np
import pytest
import soundfile
from helpers import ready
from PySide6.QtCore import Qt

from nafas.cli.main import main
from nafas.desk.deliver import deliver_dialog
from nafas.desk.rehearse import guide_video
from nafas.desk.rehearse.guide_video import write_video
from nafas.errors import Cancelled
from nafas.exchange.chapters import chapters_of
from nafas.script import Session, load_session, read_block, save_session
from nafas.script.edits.session_edits import change, change_block
from nafas.voice.casting import cast_session

KEYS, LEFT = Qt.Key, Qt.MouseButton.LeftButton
BLOCKS = (read_block("3-4 x1", "waves"),)


@pytest.fixture
def small(monkeypatch):
    monkeypatch.setitem(guide_video.SIZES, "720p", (640, 360))


def line_at(frame):
    """Where the line of the guide stands in a frame, in px: just below the breath, where nothing else is bright."""
    row = frame.to_ndarray(format="gray").astype(int)[round(frame.height * 0.619)]
    return float(np.mean(np.flatnonzero(row > row.min() + 0.5 * (row.max() - row.min()))))


def test_every_frame_of_the_video_shows_its_time_and_the_sound_is_in_place(qtbot, folder, small):
    cast = cast_session(Session(opening=1, closing=1, end_bell=False, blocks=BLOCKS), folder)
    whole, rate = float(cast.timeline.length), 48_000
    sound = np.zeros((int(whole * rate), 2), np.float32)
    sound[4 * rate : 4 * rate + 480] = 0.8  # a click at 4 s
    soundfile.write(folder / "m.wav", sound, rate)
    write_video(cast, folder / "m.wav", folder / "v.mp4", chapters_of(cast.timeline), "720p", 25)
    with av.open(str(folder / "v.mp4")) as video:
        frames = list(video.decode(video=0))
    assert len(frames) == int(whole * 25) + 1
    assert [round(float(frame.time) * 25) for frame in frames] == list(range(len(frames)))
    places = {number: line_at(frames[number]) for number in (30, 60, 100, 150, 190)}
    steps = np.diff(list(places.values())) / np.diff(list(places))
    assert steps == pytest.approx([steps.mean()] * 4, rel=0.04)  # the ink runs evenly
    assert places[100] - places[60] == pytest.approx(1.6 * 0.12 * 640, abs=2)
    with av.open(str(folder / "v.mp4")) as video:
        heard = [(float(f.time), f.to_ndarray()) for f in video.decode(audio=0)]
    loud = max(heard, key=lambda each: np.abs(each[1]).max())
    assert loud[0] == pytest.approx(4.0, abs=0.03)
    shown = ["ffprobe", "-v", "error", "-show_chapters", "-of", "json", str(folder / "v.mp4")]
    assert json.loads(subprocess.run(shown, capture_output=True, check=True).stdout)["chapters"]

    def stop(done):
        if done > 0.3:
            raise Cancelled

    with pytest.raises(Cancelled):
        write_video(cast, folder / "m.wav", folder / "w.mp4", (), "720p", 25, progress=stop)
    assert {path.name for path in folder.iterdir()} >= {"m.wav", "v.mp4"} and not list(folder.glob("*w.mp4*"))


def test_a_session_is_handed_over_from_the_window(qtbot, window, folder, monkeypatch, small):
    session = change(window.document.session, blocks=BLOCKS, target_length=None, opening=1, closing=1, end_bell=False)
    window.document.edit(session, "blocks")
    window.document.save(folder / "s.nafas")
    ready(qtbot, window)
    qtbot.keyClick(window, KEYS.Key_D, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    dialog = window.making.deliver_dialog
    dialog.purpose.setCurrentIndex(dialog.purpose.findData("class"))
    assert (
        dialog.audio[".mp3"].isChecked() and not dialog.audio[".flac"].isChecked() and dialog.texts["sheet"].isChecked()
    )
    dialog.video.setCurrentIndex(dialog.video.findData("720p"))
    monkeypatch.setattr(deliver_dialog, "ask_folder", lambda *_: str(folder / "out"))
    qtbot.mouseClick(dialog.start, LEFT)
    qtbot.waitUntil(lambda: not dialog.running, timeout=60_000)
    assert "mend it in Review first" in dialog.result.text()  # it has no cautions
    dialog.anyway.setChecked(True)
    qtbot.mouseClick(dialog.start, LEFT)
    qtbot.waitUntil(lambda: dialog.made is not None and not dialog.running, timeout=120_000)
    names = {path.name.removeprefix(dialog.made.stem) for path in dialog.made.files}
    assert {".mp3", ".mp4", " sheet.pdf", " proof.pdf", " sheet.txt", " transcript.txt", " description.txt"} <= names
    assert {path.name for path in (folder / "out").iterdir()} == {path.name for path in dialog.made.files}
    told = [dialog.list.item(row).text() for row in range(dialog.list.count())]
    assert "every cue is in its place in 1 file" in dialog.result.text() and any(
        text.startswith("must") for text in told
    )
    dialog.reject()


def test_the_command_hands_over_and_packs(folder, capsys, monkeypatch, small):
    session = change(load_session(window_session(folder)), voice={}, bed=None)
    save_session(session, folder / "s.nafas")
    made = main(
        ["deliver", str(folder / "s.nafas"), "-o", str(folder / "o"), "--for", "class", "--anyway", "--video", "720p"]
    )
    assert made == 0 and "proof of" in capsys.readouterr().out and list((folder / "o").glob("*.mp4"))
    assert main(["deliver", str(folder / "s.nafas"), "-o", str(folder / "p"), "--video", "huge"]) == 1
    assert main(["pack", str(folder / "s.nafas"), "-o", str(folder / "s.nafas-packed")]) == 0
    assert main(["unpack", str(folder / "s.nafas-packed"), "-o", str(folder / "back")]) == 0
    assert load_session(folder / "back" / "session.nafas") == session


def window_session(folder):
    session = change_block(Session(title="Waves", opening=1, closing=1, end_bell=False, blocks=BLOCKS), 0, rounds=1)
    save_session(session, folder / "w.nafas")
    return folder / "w.nafas"
