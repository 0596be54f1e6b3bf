"""What the bench measures of sound: encoders next to the mix, tempo, another pace, and Play from anywhere."""

import time
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from pulse_bed import pulse_bed

if TYPE_CHECKING:
    from nafas.desk.window import MainWindow
    from nafas.sound.mix.mix import Mix

Show = Callable[..., None]
Best = Callable[..., float]


def encoding(folder: Path, mix: "Mix", show: Show, best: Best) -> None:
    """A master in three formats: in one pass, and in one pass each."""
    from nafas.sound import render

    names = [folder / f"m{ending}" for ending in (".flac", ".mp3", ".ogg")]
    together = best(lambda: render(mix, names[0], also=names[1:]), 1)
    apart = sum(best(lambda name=name: render(mix, name), 1) for name in names)
    seconds = mix.length / mix.rate
    show("  FLAC, MP3 and Ogg in one pass", f"{seconds / together:.0f} x real time")
    show("  against one after another", f"{apart / together:.1f} x faster")


def beds(folder: Path, show: Show, best: Best) -> None:
    from nafas.script.model.assets import Asset
    from nafas.script.model.beds import FileBed
    from nafas.sound.beat.onsets import RATE
    from nafas.sound.beat.tempo import find_tempo
    from nafas.sound.bed.file_bed import RecordedBed
    from nafas.sound.files.recording import Recording

    pulse_bed(folder / "bed.flac", 600)
    find_tempo(Recording(folder / "bed.flac", RATE), end=10)  # what is compiled at its first use is not measured
    began = time.perf_counter()
    found = find_tempo(Recording(folder / "bed.flac", RATE))
    seconds = time.perf_counter() - began
    off = abs(found.pulse.bpm / 62 - 1)
    show("tempo of a bed of 10 min", f"{600 / seconds:.0f} x real time, {off:.4%} off")
    for pace in (1.0, 60 / 62):
        bed = RecordedBed(folder / "bed.flac", FileBed(file=Asset(path="bed.flac"), pace=pace), 48_000)
        began = time.perf_counter()
        for at in range(0, 60 * 48_000, 65_536):
            bed.read(at, 65_536)
        first = time.perf_counter() - began
        again = best(lambda bed=bed: [bed.read(at, 65_536) for at in range(0, 60 * 48_000, 65_536)], 2)
        name = "as recorded" if pace == 1 else "3 % slower at its pitch"
        show(f"a recorded bed {name}: first, then", f"{60 / first:.0f}, {60 / again:.0f} x real time")


def playing(main: "MainWindow", settle: Callable[[], None], show: Show) -> None:
    """From Play to the first block handed to the card: straight on, over and over, slower and faster."""
    ways = (("straight on", None, 1.0), ("a round over and over", (100.0, 112.0), 1.0),
            ("at half speed", None, 0.5), ("half as fast again", None, 1.5))  # fmt: skip
    for name, loop, speed in ways:
        main.player.set_loop(loop)
        main.player.set_speed(speed)
        starts = []
        for place in (0.0, 100.0, 250.0, 340.0):
            main.player.seek(100.0 if loop else place)
            began = time.perf_counter()
            main.player.play()
            starts.append(time.perf_counter() - began)
            main.player.pause()
        show(f"Play to the first block, anywhere, {name}", f"{max(starts) * 1e3:.1f} ms", "hold 150 ms")
    main.player.set_loop(None)
    main.player.set_speed(1.0)
    settle()
