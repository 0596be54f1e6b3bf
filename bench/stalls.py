"""An hour of use as a script, as fast as the window takes it: the longest that it did not listen, and at what.

What a person does in turn: reads and turns pages, chooses, types, undoes, changes views, plays and seeks, changes
sound, saves. Each step is a call as a click or a key makes it; between steps the window does what it has to do in the
background. A stall is a step, or one turn of the event loop, that takes long.
"""

import shutil
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

Show = Callable[..., None]
_ROUNDS = 40  # of the script: some 900 steps, what a brisk person does in an hour


def hour_of_use(show: Show) -> None:
    """Tell the longest stalls, each by what was being done."""
    from PySide6.QtWidgets import QApplication

    from nafas.demo import SESSION
    from nafas.desk.window import MainWindow

    worst: dict[str, list[float]] = {}
    folder = Path(tempfile.mkdtemp(prefix="nafas-stalls-"))
    window = MainWindow()
    window.resize(1280, 800)
    window.show()
    window.document.open(SESSION, as_copy=True)

    def listen(seconds: float, doing: str) -> None:
        until = time.perf_counter() + seconds
        while time.perf_counter() < until:
            began = time.perf_counter()
            QApplication.processEvents()
            worst.setdefault(f"after {doing}", []).append(time.perf_counter() - began)
            time.sleep(0.002)

    listen(4, "opening")
    worst.clear()  # the first paint has a figure of its own
    for turn in range(_ROUNDS):
        for doing, step in _steps(window, folder, turn):
            began = time.perf_counter()
            step()
            worst.setdefault(doing, []).append(time.perf_counter() - began)
            listen(0.25, doing)
    told = sorted(((max(times), doing) for doing, times in worst.items()), reverse=True)
    show(f"longest stall in {sum(map(len, worst.values()))} turns", f"{told[0][0] * 1e3:.0f} ms", "hold 50 ms")
    for seconds, doing in told[:8]:
        over = sum(each > 0.05 for each in worst[doing])
        show(f"  {doing}", f"{seconds * 1e3:.0f} ms, {over} over 50 ms")
    window.document.close()
    shutil.rmtree(folder)


def _steps(window, folder: Path, turn: int) -> "Iterator[tuple[str, Callable[[], object]]]":
    from nafas.score.selection import Chosen
    from nafas.script.edits.session_edits import change, change_block

    document, editing, player = window.document, window.editing, window.player
    blocks = len(document.session.blocks)
    bar = window.score.verticalScrollBar()
    yield "Score", lambda: window.show_view("score")
    yield "turning a page", lambda: bar.setValue((turn % 7) * bar.pageStep())
    yield "choosing a block", lambda: window.choose(Chosen(turn % blocks))
    yield "choosing a count", lambda: window.choose(Chosen(6, 1 + turn % 3, 1))
    yield "typing a title", lambda: document.edit(change(document.session, title=f"Between crossings {turn}"), "title")
    yield "more rounds", lambda: document.edit(change_block(document.session, 3, rounds=4 + turn % 5), "rounds")
    yield "undoing", window.undo
    yield "adding a block", lambda: editing.add("breath")
    yield "removing it", editing.remove
    yield "Plan", lambda: window.show_view("plan")
    yield "a length to fit", lambda: editing.set_target(600 + 7 * turn)
    yield "no length", lambda: editing.set_target(None)
    yield "Takes", lambda: window.show_view("takes")
    yield "choosing a line", lambda: window.views.takes.list.choose(turn % 12)
    yield "Sound", lambda: window.show_view("sound")
    yield "a louder bed", lambda: _bed(document, under_voice=10.0 + turn % 5)
    yield "hearing the bed alone", lambda: window.views.sound.play_bed()
    yield "stopping it", player.pause
    yield "playing", player.toggle
    yield "seeking", lambda: player.seek(float(20 * (turn % 15)))
    yield "pausing", player.pause
    yield "night colours", lambda: window.set_night(bool(turn % 2))
    yield "saving", lambda: document.save(folder / f"{turn}.nafas")


def _bed(document, **fields: object) -> None:
    from nafas.script.edits.session_edits import change

    bed = document.session.bed
    document.edit(change(document.session, bed=bed.model_copy(update=fields)), "bed")
