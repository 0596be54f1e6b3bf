"""What of a delivery is drawn: the timed sheet and the proof on paper, the guide video."""

import time
from pathlib import Path
from typing import TYPE_CHECKING

from nafas.exchange.captions import captions_of
from nafas.exchange.cover import put_cover
from nafas.tasks.progress import Note
from nafas.timing.clock import clock

if TYPE_CHECKING:
    from nafas.tasks.delivery import DeliveryResult


def draw(
    made: "DeliveryResult", where: Path, papers: bool, video: str | None, fps: int, grouped: bool, note: Note
) -> tuple[list[Path], tuple[str, ...]]:
    """Draw what goes with a delivery; no screen is needed.

    Args:
        made: the delivery as far as it is.
        where: the folder of the files.
        papers: the timed sheet and the master's proof as PDF.
        video: the size of a guide video, or None.
        fps: its frames a second.
        grouped: its captions have a phase's counts together.
        note: called with a stage and 0.0 to 1.0; raises Cancelled to stop.

    Returns:
        The files, and what is to be known of them.
    """
    files: list[Path] = []
    if not papers and video is None:
        return files, ()
    from nafas.drawing.application import ensure_application  # late: Qt is not needed for anything else

    ensure_application()
    if papers:
        from nafas.drawing.paper.proof_page import print_proof
        from nafas.drawing.paper.session_sheet import print_sheet

        note("paper", 0.0)
        files.append(where / f"{made.stem} sheet.pdf")
        print_sheet(made.cast.timeline, files[-1])
        for proof in made.proofs[:1]:
            files.append(where / f"{made.stem} proof.pdf")
            print_proof(proof, files[-1])
    if video is None:
        return files, ()
    from nafas.drawing.guide.video import write_video

    path, began = where / f"{made.stem}.mp4", time.monotonic()
    captions = captions_of(made.cast, grouped)
    progress = lambda done: note("video", done)  # noqa: E731
    write_video(made.cast, made.sound, path, made.chapters, captions, video, fps, progress=progress)
    if made.cover is not None:
        put_cover(path, made.cover)
    took, lasts = time.monotonic() - began, float(made.cast.timeline.length)
    return [*files, path], (f"The guide video took {clock(took)}, {lasts / max(took, 0.1):.1f} x real time.",)
