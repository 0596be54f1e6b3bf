"""What of a delivery is drawn: the timed sheet and the proof on paper, the guide video."""

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from nafas.desk.paper.proof_page import print_proof
from nafas.desk.paper.session_sheet import print_sheet
from nafas.desk.rehearse.guide_video import write_video
from nafas.exchange.captions import captions_of
from nafas.exchange.cover import put_cover
from nafas.exchange.deliver import Delivered, More
from nafas.timing.clock import clock


@dataclass(frozen=True)
class Drawings:
    """What is wanted of it.

    Attributes:
        papers: the timed sheet and the proof as PDF.
        video: one of `guide_video.SIZES`, or None for no video.
        rate: its frames a second.
        grouped: its captions have a phase's counts together.
    """

    papers: bool
    video: str | None = None
    rate: int = 30
    grouped: bool = True


def drawn(
    wanted: Drawings,
    progress: Callable[[str, float], None] = lambda stage, done: None,
    told: Callable[[str], None] = lambda words: None,
) -> More:
    """What `deliver` is to make beside its own files. A QGuiApplication must be there.

    Args:
        wanted: of it.
        progress: called with a stage and 0.0 to 1.0; raises Cancelled to stop.
        told: called with what is to be known of it afterwards, for people.
    """

    def make(made: Delivered, where: Path) -> Sequence[Path]:
        files: list[Path] = []
        if wanted.papers:
            progress("paper", 0.0)
            files.append(where / f"{made.stem} sheet.pdf")
            print_sheet(made.cast.timeline, files[-1])
            for proof in made.proofs[:1]:
                files.append(where / f"{made.stem} proof.pdf")
                print_proof(proof, files[-1])
        if wanted.video is not None:
            path, began = where / f"{made.stem}.mp4", time.monotonic()
            write_video(
                made.cast, made.sound, path, made.chapters, captions_of(made.cast, wanted.grouped), wanted.video,
                wanted.rate, progress=lambda done: progress("video", done),
            )  # fmt: skip
            if made.cover is not None:
                put_cover(path, made.cover)
            files.append(path)
            took, lasts = time.monotonic() - began, float(made.cast.timeline.length)
            told(f"The guide video took {clock(took)}, {lasts / max(took, 0.1):.1f} x real time.")
        return files

    return make
