"""Measure what docs/figures.md reports: python bench/run.py [--quick]. Prints a table; nothing here is a test.

Needs no monitor. sox and ffmpeg are measured next to our own mixing where they are installed.
"""

import itertools
import json
import os
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))
sys.path.insert(0, str(Path(__file__).parents[1] / "tools"))
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["NAFAS_SILENT"] = "1"
os.environ["NAFAS_STATE"] = os.environ["NAFAS_RECORDS"] = os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp()

import load
import proof
import sound
import stalls
from sessions import counted_hour, forty_blocks, long_session, saved

from nafas.script.edits.session_edits import change_block
from nafas.suggest.length_fit import fit
from nafas.timing import compile_session, paced
from nafas.voice.beat.felt_beat import find_beat

QUICK = "--quick" in sys.argv


def show(what: str, value: str, hold: str = "") -> None:
    print(f"{what:<58} {value:>24}   {hold}", flush=True)


def best(work: Callable[[], object], turns: int = 7) -> float:
    times = []
    for _ in range(turns):
        began = time.perf_counter()
        work()
        times.append(time.perf_counter() - began)
    return min(times)


def compiling() -> None:
    from nafas.script import expansion as rounds
    from nafas.timing.bodies import set as set_body

    hour, pace = counted_hour(), paced()

    def fresh() -> None:
        set_body.set_body.cache_clear()  # type: ignore[attr-defined]
        set_body.openings_to_time.cache_clear()  # type: ignore[attr-defined]
        rounds.expand.cache_clear()  # type: ignore[attr-defined]
        assert len(compile_session(hour, pace).moments) > 3600

    turn = [0]

    def edit() -> None:
        turn[0] += 1
        assert compile_session(change_block(hour, 5, rounds=7 + turn[0] % 400), pace).moments

    compile_session(hour, pace)
    show("compile 60 min, 3,600 counts, every event", f"{best(fresh, 40) * 1e3:.1f} ms", "hold 20 ms")
    show("  after one edit", f"{best(edit, 40) * 1e3:.1f} ms", "hold 8 ms")


def fitting() -> None:
    session, pace = forty_blocks(), paced()
    length = compile_session(session, pace).length

    def find() -> None:
        found = fit(session, pace, length + 97)
        assert found.options[0].exact and len(found.options) == 10

    show("fit 40 blocks to a length: ten ways", f"{best(find, 9) * 1e3:.0f} ms")


def cutting(folder: Path) -> None:
    import soundfile

    from nafas.demo import SESSION
    from nafas.script import load_session
    from nafas.voice.call_sheet import call_sheet
    from nafas.voice.engines.cache import CachedEngine
    from nafas.voice.engines.espeak import Espeak
    from nafas.voice.recording.practice import RATE, Manners, practice_recording
    from nafas.voice.segmentation.segment import segment
    from nafas.voice.segmentation.source import Source

    engine = CachedEngine(Espeak())
    lines = call_sheet([compile_session(load_session(SESSION), paced())])
    made = practice_recording(engine, [line.text for line in lines], Manners(voice="en-us", snr=20), 1, takes=8)
    soundfile.write(folder / "reading.wav", made.samples, RATE)
    segment(Source(folder / "reading.wav"), lines[:3], engine)  # what is read once and imported once
    began = time.perf_counter()
    found = segment(Source(folder / "reading.wav"), lines, engine)
    seconds = time.perf_counter() - began
    length = len(made.samples) / RATE
    show(
        f"cut up {length / 60:.0f} min, {len(found.cuts)} takes", f"{length / seconds:.0f} x real time, {seconds:.1f} s"
    )
    clip = Source(folder / "reading.wav").read(int(found.cuts[0].start * RATE), RATE // 2)
    show("felt beats", f"{1 / best(lambda: find_beat(clip, RATE), 20):.0f} a second")


def counting() -> None:
    """Felt intervals of one to eight at 1 s, measured again in the sum: beats on the grid, and file starts on it."""
    from nafas.demo import FOLDER
    from nafas.voice import TakeBook
    from nafas.voice.audition import RATE, on_grid
    from nafas.voice.beat.felt_beat import felt_beat

    book = TakeBook(FOLDER / "takes")
    words = ("one", "two", "three", "four", "five", "six", "seven", "eight")
    for take in range(2):
        clips = [book.clip(book.takes(word, "en")[take]) for word in words]
        spreads = []
        for by_beat in (True, False):
            sound = on_grid(clips, 1.0, click=False, by_beat=by_beat)
            parts = [int((0.35 + n) * RATE) for n in range(8)]
            beats = [p / RATE + felt_beat(sound[p : p + int(0.95 * RATE)], RATE) for p in parts]
            gaps = [b - a for a, b in itertools.pairwise(beats)]
            spreads.append(f"{statistics.pstdev(gaps) * 1e3:.1f}")
        show(
            f"felt intervals of one to eight, takes {'ab'[take]}: on beats, on file starts",
            f"s.d. {spreads[0]}, {spreads[1]} ms",
        )


def fitting_lines() -> None:
    """What the Takes view works out when a line is chosen that does not fit, in ten minutes of counts."""
    from nafas.demo import FOLDER, SESSION
    from nafas.script import load_session
    from nafas.suggest.line_remedies import remedies
    from nafas.voice import Narrator, cast_timeline
    from nafas.voice.line_status import worst_misfits

    session = change_block(load_session(SESSION), 3, count_length="0.5", rounds=60)
    narrator = Narrator(session.voice, session.language, FOLDER)
    cast = cast_timeline(compile_session(session, narrator.spoken_length), narrator)
    worst = worst_misfits(cast)[0]
    show("remedies of a line that does not fit", f"{best(lambda: remedies(cast, worst, narrator), 3) * 1e3:.0f} ms")


def rendered(minutes: int, folder: Path, *more: str) -> dict:
    path = saved(long_session(minutes), folder)
    command = [sys.executable, "-m", "nafas", "render", str(path), "-o", str(folder / "m.wav"), "--json", *more]
    return json.loads(subprocess.run(command, capture_output=True, text=True, check=True).stdout)


def rendering(folder: Path) -> None:
    thirty = min((rendered(30, folder, "--no-proof") for _ in range(3)), key=lambda r: -r["real_time_factor"])
    show(
        "master 30 min WAV with loudness and true peak", f"{thirty['real_time_factor']:.0f} x real time", "from session"
    )
    show("  peak memory", f"{thirty['peak_memory_mb']:.0f} MB", "hold 250 MB")
    mixing(folder)
    proven = rendered(30, folder)
    show("  proof of its cues", f"{proven['cues']} cues, {proven['proof_seconds']:.1f} s")
    worst, mean = proven["worst_beat_error_samples"], proven["mean_beat_error_samples"]
    show("  beat error in samples, worst and mean", f"{worst:.3f}, {mean:.3f}", "hold 0.5")
    if not QUICK:
        three = rendered(180, folder, "--no-proof")
        show("master 3 h", f"{three['real_time_factor']:.0f} x real time")
        show("  peak memory", f"{three['peak_memory_mb']:.0f} MB", "hold 250 MB")


def mixing(folder: Path) -> None:
    """The mix alone, from clips in memory to a measured master file; then the same sum by sox and ffmpeg."""
    from nafas.demo import FOLDER
    from nafas.parallel.shares import forking
    from nafas.sound import build_mix, render
    from nafas.voice import cast_timeline, session_narrator

    session = long_session(30)
    narrator = session_narrator(session, FOLDER)
    mix = build_mix(cast_timeline(compile_session(session, narrator.spoken_length), narrator))
    seconds = mix.length / mix.rate
    with forking():  # as the command line does
        ours = best(lambda: render(mix, folder / "m.wav"), 3)
    show("  mix, measure, gain, write alone", f"{seconds / ours:.0f} x real time")
    sound.encoding(folder, mix, show, best)
    if not (shutil.which("sox") and shutil.which("ffmpeg")):
        show("  sox and ffmpeg", "not installed here")
        return
    render(mix, folder / "m.wav", folder / "stems")
    stems = [str(folder / "stems" / f"{name}.wav") for name in ("voice", "chimes", "bed")]
    mixed = str(folder / "sox.wav")

    def others() -> None:
        subprocess.run(["sox", "-m", *stems, mixed], check=True, capture_output=True)
        meter = ["ffmpeg", "-nostats", "-i", mixed, "-af", "ebur128=peak=true", "-f", "null", "-"]
        subprocess.run(meter, check=True, capture_output=True)

    whole = saved(session, folder)
    command = [sys.executable, "-m", "nafas", "render", str(whole), "-o", str(folder / "m.wav"), "--json"]
    all_of_it = best(lambda: subprocess.run(command, check=True, capture_output=True), 3)
    show("  nafas render whole: start, mix, master, proof", f"{seconds / all_of_it:.0f} x real time", "hold 400 x")
    theirs = best(others, 2)
    show("  sox sums the stems, then ffmpeg ebur128 measures", f"{seconds / theirs:.0f} x real time")
    show("  our mix and master against theirs", f"{theirs / ours:.1f} x faster")
    show("  the whole of nafas render against theirs", f"{theirs / all_of_it:.1f} x faster", "hold 4 x")
    shutil.rmtree(folder / "stems")


def starting() -> None:
    def run(*command: str) -> float:
        return statistics.median(
            best(lambda: subprocess.run([sys.executable, *command], capture_output=True, check=True), 1)
            for _ in range(9)
        )

    show(
        "nafas --version beyond a bare interpreter",
        f"{run('-m', 'nafas', '--version') - run('-c', ''):.3f} s",
        "hold 0.15 s",
    )
    paint = (
        "import time, os; began = time.perf_counter()\n"
        "from nafas.desk.application import application; from nafas.desk.window import MainWindow\n"
        "from nafas.demo import SESSION\n"
        "app = application(); w = MainWindow(); w.document.open(SESSION, as_copy=True); w.show()\n"
        "w.repaint(); app.processEvents(); print(time.perf_counter() - began, flush=True); os._exit(0)"
    )
    times = [
        float(subprocess.run([sys.executable, "-c", paint], capture_output=True, text=True, check=True).stdout)
        for _ in range(5)
    ]
    show("window to first paint, demo open", f"{statistics.median(times):.2f} s", "hold 1.2 s")


def window() -> None:
    from PySide6.QtGui import QPixmap
    from PySide6.QtWidgets import QApplication

    from nafas.demo import SESSION
    from nafas.desk.application import application
    from nafas.desk.window import MainWindow
    from nafas.script import BreathSet, Session

    app = application()
    main = MainWindow()
    main.show()

    def settle() -> None:
        while main.preparation.mix is None or main.preparation.mix.cast.timeline.session is not main.document.session:
            QApplication.processEvents()
            time.sleep(0.01)

    main.document.open(SESSION, as_copy=True)
    settle()
    sound.playing(main, settle, show)
    sets = tuple(
        BreathSet.model_validate({"id": f"s{n}", "pattern": "4-2-8", "rounds": 500, "count_length": 1})
        for n in range(2)
    )
    main.document.edit(Session(title="1,000 rounds", blocks=sets), "bench")
    settle()
    view, frames = main.score, []
    picture = QPixmap(view.viewport().size())
    for step, what in ((view.viewport().height(), "turning a page"), (76, "scrolling")):
        frames.clear()
        for turn in range(60):
            ahead = time.perf_counter() + 0.08  # nobody turns pages faster; meanwhile the next one is drawn
            while time.perf_counter() < ahead:
                QApplication.processEvents()
            view.verticalScrollBar().setValue(turn * step)
            began = time.perf_counter()
            view.viewport().render(picture)
            frames.append(time.perf_counter() - began)
        spread = f"{statistics.median(frames) * 1e3:.1f}, {max(frames[1:]) * 1e3:.1f} ms"
        show(f"score of 1,000 rounds, {what} (median, worst)", spread, "hold 8 ms a frame")
    main.document.open(SESSION, as_copy=True)
    settle()
    began = time.perf_counter()
    main.show_view("takes")
    QApplication.processEvents()
    show("Takes view, opened for the first time", f"{(time.perf_counter() - began) * 1e3:.0f} ms")
    lines = []
    for place in range(10):
        began = time.perf_counter()
        main.views.takes.list.choose(place)
        main.grab()
        lines.append(time.perf_counter() - began)
    show("Takes view, another line and its takes drawn (median)", f"{statistics.median(lines) * 1e3:.0f} ms")
    app.processEvents()


if __name__ == "__main__":
    print(f"{os.cpu_count()} cores, Python {sys.version.split()[0]}")
    if "--window" not in sys.argv:
        compiling()
        fitting()
        with tempfile.TemporaryDirectory() as made:
            cutting(Path(made))
            counting()
            fitting_lines()
            rendering(Path(made))
            sound.beds(Path(made), show, best)
            proof.accuracy(Path(made), show)
            proof.codecs(Path(made), show)
            proof.voices(Path(made), show)
            load.talk_memory(Path(made), show, QUICK)
    starting()
    window()
    load.edits(show)
    stalls.hour_of_use(show)
    sys.stdout.flush()
    os._exit(0)
