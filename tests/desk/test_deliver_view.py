"""Handing over from the window; the guide video, frame by frame against its sound and its session."""

import json
import subprocess

import av
import numpy as np
import pytest
import soundfile
import srt
from helpers import ready
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QFileDialog

from nafas.cli.main import main
from nafas.desk.deliver import view as deliver_view
from nafas.drawing.guide import video as guide_video
from nafas.drawing.guide import video_parts
from nafas.drawing.guide.video import write_video
from nafas.errors import Cancelled
from nafas.exchange.captions import captions_of
from nafas.exchange.chapters import chapters_of
from nafas.script import Session, load_session, read_block, save_session
from nafas.script.edits.session_edits import change, change_block
from nafas.state.folder import cache_folder
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
    session = Session(title="Watch", opening=1, closing=1, end_bell=False, blocks=BLOCKS, tags={"artist": "The crew"})
    cast = cast_session(session, folder)
    whole, rate = float(cast.timeline.length), 48_000
    sound = np.zeros((int(whole * rate), 2), np.float32)
    sound[4 * rate : 4 * rate + 480] = 0.8  # a click at 4 s
    soundfile.write(folder / "m.wav", sound, rate)
    said = captions_of(cast)
    write_video(cast, folder / "m.wav", folder / "v.mp4", chapters_of(cast.timeline), said, "720p", 25)
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
    shown[3:4] = ["-select_streams", "v", "-show_streams", "-show_format"]
    told = json.loads(subprocess.run(shown, capture_output=True, check=True).stdout)
    colours = {told["streams"][0][name] for name in ("color_space", "color_primaries", "color_transfer")}
    assert colours == {"bt709"} and told["streams"][0]["color_range"] == "tv"
    assert told["format"]["tags"]["artist"] == "The crew" and told["format"]["tags"]["title"] == "Watch"
    inside = ["ffmpeg", "-v", "error", "-i", str(folder / "v.mp4"), "-map", "0:s", "-f", "srt", "-"]
    read = list(srt.parse(subprocess.run(inside, capture_output=True, check=True).stdout.decode()))
    assert [each.content for each in read] == [caption.text for caption in said]
    for each, caption in zip(read, said):
        assert each.start.total_seconds() == pytest.approx(caption.start, abs=0.002)
        assert each.end.total_seconds() == pytest.approx(caption.end, abs=0.002)


def test_a_video_that_was_stopped_goes_on_where_it_was(qtbot, folder, small, monkeypatch):
    monkeypatch.setenv("NAFAS_CACHE", str(folder / "cache"))
    monkeypatch.setattr(video_parts, "PART_SECONDS", 2)
    monkeypatch.setattr(guide_video, "PART_SECONDS", 2)
    cast = cast_session(Session(opening=1, closing=1, end_bell=False, blocks=BLOCKS), folder)
    soundfile.write(folder / "m.wav", np.zeros((int(cast.timeline.length * 48_000), 1), np.float32), 48_000)

    def video(name, stop_at=2.0, session=cast):
        noted = []

        def note(done):
            noted.append(done)
            if done > stop_at:
                raise Cancelled

        write_video(session, folder / "m.wav", folder / name, (), (), "720p", 25, progress=note)
        return len(noted)

    whole = video("a.mp4")
    assert not list((cache_folder() / "guide-video").iterdir())  # nothing stays of what was written
    with pytest.raises(Cancelled):
        video("b.mp4", 0.6)
    assert not list(folder.glob("*b.mp4*"))
    parts = sorted((cache_folder() / "guide-video").glob("*/*.mp4"))
    assert len(parts) == 2
    parts[1].rename(parts[1].with_name(parts[1].name[:6] + "0" * 16 + ".mp4"))  # as drawn by other code
    assert whole - 60 < video("b.mp4") < whole - 40  # one part of 50 frames was there
    for a, b in zip(*(frames_of(folder / name) for name in ("a.mp4", "b.mp4")), strict=True):
        assert np.abs(a.astype(int) - b).max() <= 2
    with pytest.raises(Cancelled):
        video("c.mp4", 0.6)
    other = cast_session(change(cast.timeline.session, title="Another"), folder)
    assert video("d.mp4", session=other) == whole  # what is another session's is not taken up


def frames_of(path):
    with av.open(str(path)) as video:
        return [frame.to_ndarray(format="gray") for frame in video.decode(video=0)]


def test_a_session_is_handed_over_from_the_window(qtbot, window, folder, monkeypatch, small):
    session = change(window.document.session, blocks=BLOCKS, target_length=None, opening=1, closing=1, end_bell=False)
    window.document.edit(session, "blocks")
    window.document.save(folder / "s.nafas")
    ready(qtbot, window)
    qtbot.keyClick(window, KEYS.Key_7, Qt.KeyboardModifier.ControlModifier)
    dialog = window.views.deliver
    dialog.purpose.setCurrentIndex(dialog.purpose.findData("video"))
    assert dialog.video.currentData() == "1080p"
    dialog.purpose.setCurrentIndex(dialog.purpose.findData("class"))
    assert dialog.video.currentData() is None
    assert (
        dialog.audio[".mp3"].isChecked() and not dialog.audio[".flac"].isChecked() and dialog.texts["sheet"].isChecked()
    )
    dialog.video.setCurrentIndex(dialog.video.findData("720p"))
    monkeypatch.setattr(deliver_view, "ask_folder", lambda *_: str(folder / "out"))
    qtbot.waitUntil(lambda: "changed first" in dialog.findings.text())  # the review says so before anything is written
    qtbot.mouseClick(dialog.start, LEFT)
    qtbot.waitUntil(lambda: not dialog.running, timeout=60_000)
    assert "change it in Review first" in dialog.outcome.text()  # it has no cautions
    dialog.anyway.setChecked(True)
    qtbot.mouseClick(dialog.start, LEFT)
    qtbot.waitUntil(lambda: dialog.made is not None and not dialog.running, timeout=120_000)
    names = {path.name.removeprefix(dialog.made.stem) for path in dialog.made.files}
    assert {".mp3", ".mp4", " sheet.pdf", " proof.pdf", " sheet.txt", " transcript.txt", " description.txt"} <= names
    dialog.show_findings(())
    assert not dialog.anyway.isChecked() and not dialog.anyway.isVisible()
    assert {path.name for path in (folder / "out").iterdir()} == {path.name for path in dialog.made.files}
    told = [dialog.list.item(row).text() for row in range(dialog.list.count())]
    assert "every cue is in its place in 2 files" in dialog.outcome.text() and any(
        text.startswith("must") for text in told
    )


def test_tags_and_a_cover_are_chosen_beside_it(qtbot, window, folder, monkeypatch):
    window.document.save(folder / "s.nafas")
    QImage(600, 600, QImage.Format.Format_RGB32).save(str(folder / "deck.png"))
    (folder / "bad.png").write_bytes(b"no picture")
    window.show_view("deliver")
    form = window.views.deliver.form

    qtbot.keyClicks(form.track.line, "3")
    qtbot.keyClick(form.track.line, KEYS.Key_Return)
    window.views.deliver.name.setText("{track} {title}")
    assert window.views.deliver.named.text().startswith("such as 03 ")
    for name, told in (("bad.png", "not JPEG or PNG"), ("deck.png", "small")):
        monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_, name=name: (str(folder / name), ""))
        qtbot.mouseClick(form.choose, LEFT)
        assert told in form.about.text()
    tags = window.document.session.tags
    assert tags.track == 3 and tags.cover.path == "deck.png"
    qtbot.mouseClick(form.none, LEFT)
    assert window.document.session.tags.cover is None


def test_the_command_hands_over_and_packs(folder, capsys, monkeypatch, small):
    session = change(load_session(window_session(folder)), voice={}, bed=None)
    save_session(session, folder / "s.nafas")
    made = main(
        ["deliver", str(folder / "s.nafas"), "-o", str(folder / "o"), "--for", "class", "--anyway", "--video", "720p"]
    )
    assert made == 0 and "proof of" in capsys.readouterr().out and list((folder / "o").glob("*.mp4"))
    assert main(["deliver", str(folder / "s.nafas"), "-o", str(folder / "p"), "--video", "huge"]) == 2
    assert main(["pack", str(folder / "s.nafas"), "-o", str(folder / "s.nafas-packed")]) == 0
    assert main(["unpack", str(folder / "s.nafas-packed"), "-o", str(folder / "back")]) == 0
    assert load_session(folder / "back" / "session.nafas") == session


def window_session(folder):
    session = change_block(Session(title="Waves", opening=1, closing=1, end_bell=False, blocks=BLOCKS), 0, rounds=1)
    save_session(session, folder / "w.nafas")
    return folder / "w.nafas"
