"""What a delivery needs for drawings, in a process that has no window: a command, or a worker of a series."""

import os
from collections.abc import Callable
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from nafas.exchange.deliver import More


def drawn_alone(
    papers: bool,
    video: str | None,
    note: Callable[[str, float], None],
    rate: int = 30,
    grouped: bool = True,
    told: Callable[[str], None] = lambda words: None,
) -> "More":
    """As `drawn`, with an application of its own; no screen is needed.

    Args:
        papers, video, rate, grouped: as in `Drawings`.
        note: called with a stage and 0.0 to 1.0.
        told: as `drawn` takes it.

    Raises:
        InputError: there is no such size, or no such rate.
    """
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from nafas.desk.application import application  # late: Qt asks for its platform when it is loaded
    from nafas.desk.deliver.drawn import Drawings, drawn
    from nafas.desk.rehearse.guide_video import RATES, SIZES
    from nafas.errors import InputError

    if video is not None and video not in SIZES:
        raise InputError(f"a video of {video}", "is not made", f"use {', '.join(SIZES)}")
    if rate not in RATES:
        raise InputError(f"{rate} frames a second", "are not made", f"use {', '.join(map(str, RATES))}")
    application()
    return drawn(Drawings(papers, video, rate, grouped), note, told)
