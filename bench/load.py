"""Long talk and many rounds: memory that must stay flat, and edits that must not grow with the session.

Each figure is the ratio to a small session in the same run, or megabytes.
"""

import json
import os
import random
import subprocess
import sys
import time
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from statistics import median

from nafas.script import BreathSet, Session, Talk, save_session
from nafas.script.edits.session_edits import change_block

Show = Callable[..., None]
_WORDS = (
    "deck rail lantern harbour wind rope anchor crew watch tide hull mast light stern bow quiet breath slow steady calm"
).split()


def long_talk(hours: float) -> Session:
    """So many hours of talk, no two sentences alike, read by the stand-in."""
    rng, paragraphs = random.Random(1), []
    for number in range(round(hours * 60 * 105 / 15)):
        paragraphs.append(f"{' '.join(rng.choice(_WORDS) for _ in range(14)).capitalize()} {number}.")
    blocks = [
        Talk(id=f"t-{at}", paragraphs=tuple(paragraphs[at : at + 30]), paragraph_pause=1)
        for at in range(0, len(paragraphs), 30)
    ]
    return Session(title="A long talk", blocks=tuple(blocks))


def many_rounds(rounds: int, each: int = 25) -> Session:
    """Sets of quick rounds, within four hours however many."""
    sets = (
        BreathSet.model_validate({"id": f"s-{n}", "pattern": "1-1", "rounds": each, "count_length": Fraction(1, 2)})
        for n in range(rounds // each)
    )
    return Session(title=f"{rounds} rounds", blocks=tuple(sets))


def talk_memory(folder: Path, show: Show, quick: bool) -> None:
    """A whole render with its proof, in a process of its own."""
    for hours in (0.3, 0.8) if quick else (0.3, 2.6):
        path = folder / "talk.nafas"
        save_session(long_talk(hours), path)
        command = [sys.executable, "-m", "nafas", "render", str(path), "-o", str(folder / "talk.flac"), "--json"]
        made = json.loads(subprocess.run(command, capture_output=True, text=True, check=True).stdout)
        assert made["cues_not_found"] == []
        value = f"{made['peak_memory_mb']:.0f} MB, {made['real_time_factor']:.0f} x"
        show(f"render of {made['duration'] / 3600:.1f} h of talk with its proof", value, "flat")


def edits(show: Show) -> None:
    """A title changed, until it is painted, in the window: 7,000 rounds against 100, on the page and in Plan."""
    from PySide6.QtWidgets import QApplication

    from nafas.desk.application import application
    from nafas.desk.window import MainWindow
    from nafas.score.selection import Chosen

    application()
    sys.setswitchinterval(0.0005)  # as the program does
    main = MainWindow()
    main.show()

    def settle() -> None:
        while main.preparation.mix is None or main.preparation.mix.cast.timeline.session is not main.document.session:
            QApplication.processEvents()
            time.sleep(0.01)

    for view, hold in (("score", "hold 50 ms"), ("plan", "hold 300 ms")):
        took = {}
        for rounds in (100, 7000):
            main.document.start(many_rounds(rounds))
            main.show_view(view)
            settle()
            main.choose(Chosen(3))
            QApplication.processEvents()
            times = []
            for turn in range(7):
                new = change_block(main.document.session, 3, title=f"set {turn}")
                began = time.perf_counter()
                main.document.edit(new, "title")
                edited = time.perf_counter()
                QApplication.processEvents()
                times.append((edited - began, time.perf_counter() - began))
                settle()
            took[rounds] = [median(column) for column in zip(*times)]
        ratio = took[7000][1] / took[100][1]
        value = f"{took[7000][0] * 1e3:.0f}, {took[7000][1] * 1e3:.0f} ms; {ratio:.1f} x 100 rounds"
        show(f"edit in 7,000 rounds, {view}: taken, painted", value, hold)
    main.document._history.mark_saved()
    main.close()


if __name__ == "__main__":
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    os.environ["NAFAS_SILENT"] = "1"
    edits(lambda what, value, hold="": print(f"{what:<58} {value:>24}   {hold}", flush=True))
    os._exit(0)
