"""What of a delivery is drawn: the timed sheet and the proof on paper, the guide video."""

from collections.abc import Callable, Sequence
from pathlib import Path

from nafas.desk.paper.proof_page import print_proof
from nafas.desk.paper.session_sheet import print_sheet
from nafas.desk.rehearse.guide_video import write_video
from nafas.exchange.captions import captions_of
from nafas.exchange.cover import put_cover
from nafas.exchange.deliver import Delivered, More


def drawn(
    papers: bool,
    video: str | None,
    rate: int = 30,
    grouped: bool = True,
    progress: Callable[[str, float], None] = lambda stage, done: None,
) -> More:
    """What `deliver` is to make beside its own files. A QGuiApplication must be there.

    Args:
        papers: the timed sheet and the proof as PDF.
        video: one of `guide_video.SIZES`, or None for no video.
        rate: its frames a second.
        grouped: its captions have a phase's counts together.
        progress: called with a stage and 0.0 to 1.0; raises Cancelled to stop.
    """

    def make(made: Delivered, where: Path) -> Sequence[Path]:
        files: list[Path] = []
        if papers:
            progress("paper", 0.0)
            files.append(where / f"{made.stem} sheet.pdf")
            print_sheet(made.cast.timeline, files[-1])
            for proof in made.proofs[:1]:
                files.append(where / f"{made.stem} proof.pdf")
                print_proof(proof, files[-1])
        if video is not None:
            path = where / f"{made.stem}.mp4"
            write_video(
                made.cast, made.sound, path, made.chapters, captions_of(made.cast, grouped), video, rate,
                progress=lambda done: progress("video", done),
            )  # fmt: skip
            if made.cover is not None:
                put_cover(path, made.cover)
            files.append(path)
        return files

    return make
