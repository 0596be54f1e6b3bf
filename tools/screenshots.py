"""Make docs/screenshots/ from the demo and the library: python tools/screenshots.py [FOLDER]. Needs no monitor."""

import os
import shutil
import sys
import tempfile
import time
from pathlib import Path

# Qt's own screen has 800 x 800 pixels, and dialogs stay on it.
os.environ.setdefault("QT_QPA_PLATFORM", f"offscreen:configfile={Path(__file__).parent / 'screen.json'}")
os.environ["NAFAS_SILENT"] = "1"
os.environ["NAFAS_STATE"] = tempfile.mkdtemp()
os.environ["NAFAS_LIBRARY"] = tempfile.mkdtemp()
os.environ["NAFAS_RECORDS"] = tempfile.mkdtemp()
os.environ["HOME"] = tempfile.mkdtemp()  # shown as ~
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp()

sys.path.insert(0, str(Path(__file__).parent))

from PySide6.QtGui import QColor, QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget

from nafas.demo import SESSION
from nafas.desk.application import application
from nafas.desk.audio.microphones import Practice
from nafas.desk.window import MainWindow
from nafas.ledger.entries import FileNote, Kind, add
from nafas.library.own import shipped
from nafas.rehearsal.breathing import Breath
from nafas.rehearsal.places import mark_at
from nafas.score.selection import Chosen
from nafas.script import Session, load_session, save_session
from nafas.script.edits.session_edits import change, change_block, insert_blocks
from nafas.script.model.assets import Asset
from nafas.script.model.marks import Felt
from nafas.script.model.session import Tags
from nafas.series.plan import Series, Variant, save_series
from nafas.state.recent_files import note_recent
from nafas.tasks.render import RenderRequest, produce
from nafas.voice import TakeBook
from nafas.voice.takebook.writing import copy_book, write_index

SCRIPT = """Night watch

Good evening, deck crew. Sit down, well away from the rail. [pause 5]
If you feel light-headed, stop, and breathe naturally.

THE LONG EXHALE

Inhale, two, three, four. Exhale, two, three, four, five, six.
Inhale, two, three, four. Exhale, two, three, four, five, six.
Repeat eight times.
Continue for one minute in silence.

(music fades out)
Good. [softly] Let it go.
Breathe naturally for one minute.

- Inhale for 4 counts
- Hold for 2
- Exhale for 8
- Repeat 4 times

Thank you. Safe crossing.
"""


def settle(seconds: float = 0.3) -> None:
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        application().processEvents()
        time.sleep(0.01)


def take(widget: QWidget, folder: Path, name: str) -> None:
    settle(0.9)  # what was looked at in the background is counted at the views by then
    widget.grab().save(str(folder / f"{name}.png"))


def ready(window: MainWindow) -> None:
    def done() -> bool:
        mix = window.preparation.mix
        read = not window.preparation.unread
        return read and mix is not None and mix.cast.timeline.session is window.document.session

    while not done():
        settle(0.1)


def patterns(*names: str) -> Session:
    """A session of the demo's crew with some patterns of the library, in the demo's voice."""
    by_name = {kept.entry.name: kept.entry.block for kept in shipped() if kept.entry.block is not None}
    blocks = [by_name[name] for name in names]
    return insert_blocks(Session(title="Between crossings, a draft"), 0, blocks)


def typed(window: MainWindow, folder: Path) -> None:
    """A line in plain words, and how it is read."""
    window.document.open(SESSION, as_copy=True)
    ready(window)
    window.show_view("score")
    entry = window.masthead.entry
    entry.line.setFocus()
    QTest.keyClicks(entry.line, "box for three minutes, slower")
    take(window, folder, "typed")
    entry.line.clear()
    entry.list.show_rows([])


def script(window: MainWindow, folder: Path) -> None:
    """A written script next to the page that it makes."""
    window.document.open(SESSION, as_copy=True)
    ready(window)
    window.scripts.show(SCRIPT, "night-watch.txt")
    dialog = window.scripts.dialog
    cursor = dialog.text.textCursor()
    cursor.setPosition(dialog.text.document().findBlockByNumber(8).position())
    dialog.text.setTextCursor(cursor)
    take(dialog, folder, "script")
    dialog.close()


def score(window: MainWindow, folder: Path) -> None:
    window.document.open(SESSION, as_copy=True)
    ready(window)
    window.choose(Chosen(6, 3, 2))
    window.player.seek(float(window.preparation.timeline.blocks[6].start) + 33.3)
    take(window, folder, "score-set")
    window.menus.night.setChecked(True)
    take(window, folder, "score-night")
    window.menus.night.setChecked(False)
    window.player.seek(0.0)


def language(window: MainWindow, folder: Path) -> None:
    """A set that climbs from step to step."""
    window.document.start(patterns("Square, growing"))
    ready(window)
    window.choose(Chosen(0, 5, 2))
    window.score.verticalScrollBar().setValue(0)
    take(window, folder, "score-steps")


def plan(window: MainWindow, folder: Path) -> None:
    window.document.open(SESSION, as_copy=True)
    session = change(window.document.session, target_length=600)
    window.document.edit(change_block(session, 6, locked=True), "plan")
    ready(window)
    window.choose(Chosen(3))
    window.show_view("plan")
    window.views.plan.repertoire.choose("outline", "A longer way out")
    take(window, folder, "plan")
    window.show_view("score")


def takes(window: MainWindow, folder: Path) -> None:
    """The demo's own takes, with a set counted too fast for some and one take nobody has listened to yet."""
    with tempfile.TemporaryDirectory() as made:
        copy_book(TakeBook(SESSION.parent / "takes"), Path(made) / "takes")
        index = TakeBook(Path(made) / "takes").index
        told = tuple(t.replace(confidence=0.31) if t.file == "exhale-b.flac" else t for t in index.takes)
        write_index(Path(made) / "takes", index.model_copy(update={"takes": told}))
        save_session(change_block(load_session(SESSION), 3, count_length="0.5"), Path(made) / "between-crossings.nafas")
        window.document.open(Path(made) / "between-crossings.nafas")
        ready(window)
        window.show_view("takes")
        room = window.views.takes_room()
        room.list.show_filter(1)
        settle(0.5)
        take(window, folder, "takes")
        room.list.choose([s.line.text for s in room.shelf.statuses].index("four"))
        settle(0.5)
        take(window, folder, "takes-fit")
        room.list.choose([s.line.text for s in room.shelf.statuses].index("Notice your natural breath."))
        room.record()
        booth = room.recording
        assert booth is not None
        booth._microphone = Practice(seed=5)
        booth.begin()
        while booth.stage in ("counting", "listening"):
            settle(0.05)
        take(booth, folder, "record")
        booth.close()
        window.show_view("score")
        window.document.open(SESSION, as_copy=True)


def sound(window: MainWindow, folder: Path) -> None:
    window.document.open(SESSION, as_copy=True)
    ready(window)
    window.show_view("sound")
    view = window.views.sound
    while view.measuring.findings is None or view.measuring.findings.mix is not window.preparation.mix:
        settle(0.1)
    window.player.seek(100.0)
    take(window, folder, "sound")


def render(window: MainWindow, folder: Path) -> None:
    window.document.open(SESSION, as_copy=True)
    ready(window)
    with tempfile.TemporaryDirectory() as made:
        os.environ["HOME"] = made
        window.outputs.render()
        dialog = window.outputs.render_dialog
        assert dialog is not None
        dialog.target.setText("between-crossings.flac")
        here = Path.cwd()
        os.chdir(made)
        dialog.begin()
        while dialog.running:
            settle(0.1)
        os.chdir(here)
        take(dialog, folder, "render")


def review(window: MainWindow, folder: Path) -> None:
    """The demo with some promises broken on the way; and its own master put to the test."""
    window.document.open(SESSION, as_copy=True)
    ready(window)
    session = window.document.session
    place = {block.id: number for number, block in enumerate(session.blocks)}
    words = "We breathe in for four counts, and out for seven. Nine rounds. This heals the lungs."
    session = change_block(session, place["how-long-exhale"], paragraphs=(words,))
    session = change_block(session, place["quiet"], seconds=140)
    window.document.edit(session, "write")
    ready(window)
    window.show_view("review")
    view = window.views.review
    assert view is not None
    while view.reviewed is None or view.reviewed.review.waiting or view.reviewed.subject.session is not session:
        settle(0.1)
    take(window, folder, "review")
    with tempfile.TemporaryDirectory() as made:
        master = Path(made) / "between-crossings.wav"
        produce(RenderRequest(load_session(SESSION), SESSION.parent, master, with_proof=False))
        window.document.open(SESSION, as_copy=True)
        ready(window)
        dialog = window.outputs.review_recording()
        dialog.review(master)
        while dialog.running:
            settle(0.1)
        take(dialog, folder, "audit")
        dialog.reject()


def rehearse(window: MainWindow, folder: Path) -> None:
    """Breathing along in the second round, two places marked; the prompter in the middle of a performance."""
    with tempfile.TemporaryDirectory() as made:
        home = Path(made) / "demo"
        shutil.copytree(SESSION.parent, home)
        window.document.open(home / SESSION.name)
        ready(window)
        window.show_view("rehearse")
        view = window.views.rehearse
        assert view is not None
        begin = float(window.preparation.timeline.blocks[3].start)
        marks = [
            mark_at(window.preparation.timeline, begin + at, felt)
            for at, felt in ((7.3, Felt.BREATH), (2.1, Felt.LOVELY))
        ]
        window.document.mark(tuple(marks))
        now = begin + 17.4
        view.side.along.setCurrentIndex(view.side.along.findData("two"))
        breaths = (Breath(True, begin + 10.1, begin + 14.2), Breath(False, begin + 14.2, now))
        view.canvas.show_time(now, breaths)
        window.ribbon.set_playhead(now)
        window.masthead.show_place(now)
        take(window, folder, "rehearse")
        dialog = window.outputs.perform()
        assert dialog is not None
        dialog.start.setCurrentIndex(3)
        dialog.prompter.show_time(now)
        take(dialog, folder, "prompter")
        dialog.reject()
        window.document.mark(())
        window.document.open(SESSION, as_copy=True)
        window.show_view("score")


def handing_over(window: MainWindow, folder: Path) -> None:
    """Before any session is open; what is handed over, what the ledger keeps, and a series."""
    home = Path.home() / "ferry"
    shutil.copytree(SESSION.parent, home)
    for name in ("first watch", "after the crossing"):
        shutil.copy(SESSION, home / f"{name}.nafas")
        note_recent(home / f"{name}.nafas")
    window.document.open(home / SESSION.name)
    ready(window)
    cover = QImage(1600, 1600, QImage.Format.Format_RGB32)
    cover.fill(QColor("#1b5e63"))
    cover.save(str(home / "cover.png"))
    now = window.document.session
    tags = Tags(artist="The deck crew", album="Between crossings", track=1, cover=Asset(path="cover.png"))
    window.document.edit(change(now, tags=tags), "tags")
    ready(window)
    window.show_view("deliver")
    take(window, folder, "deliver")
    longer = change_block(change(now, count_length="1.05"), 3, rounds=10)
    files = [home / f"Between crossings{ending}" for ending in (".flac", ".mp3")]
    for path in files:
        path.write_bytes(b"sound")
    add(Kind.RENDER, longer, [FileNote(files[0], 401.0, -16.0, -1.2, True)])
    add(Kind.REHEARSAL, longer, data={"before": "restless", "after": "settled"})
    stand = ["should: Quiet: The voice is 11 LU over the bed"]
    made = add(Kind.DELIVERY, now, [FileNote(p, 359.0, -16.0, -1.2, True) for p in files], data={"let_stand": stand})
    add(Kind.PUBLICATION, words="Harbour radio, the night programme", about=made, title=now.title)
    add(Kind.NOTE, words="The crew wants the long exhale slower", about=made, title=now.title)
    window.show_view("ledger")
    ledger = window.views.ledger
    assert ledger is not None
    ledger.list.setCurrentItem(ledger.list.topLevelItem(2))
    take(window, folder, "ledger")
    rows = (
        Variant(name="six minutes"), Variant(name="ten minutes, slow", length=600, count_length="1.1"),
        Variant(name="on your own", guidance="chimes", bed=3, title="Between crossings, on your own"),
        Variant(name="en la cubierta", language="es", title="Entre travesías"),
        Variant(name="more of the long exhale", rounds={"long-exhale": 12}),
        Variant(name="for a loudspeaker", loudness=-18),
    )  # fmt: skip
    series = home / "crossings.nafas-series"
    save_series(Series(session=SESSION.name, title="Between crossings", variants=rows), series)
    dialog = window.outputs.show_series()
    dialog.load(series)
    while len(dialog.variants) < len(rows):
        settle(0.1)
    dialog.view.selectRow(3)
    take(dialog, folder, "series")
    dialog.reject()
    window.document.open(SESSION, as_copy=True)
    window.show_view("welcome")
    take(window, folder, "welcome")
    window.show_view("score")


def main(folder: Path) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    app = application()
    window = MainWindow()
    window.show()
    for part in (typed, script, score, language, plan, takes, sound, rehearse, review, handing_over, render):
        part(window, folder)
    app.quit()


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else Path(__file__).parents[1] / "docs" / "screenshots")
    os._exit(0)
