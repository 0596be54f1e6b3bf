"""What a delivery needs for drawings, in a process that has no window: a command, or a worker of a series."""

import os
from collections.abc import Callable
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from nafas.exchange.deliver import More


def drawn_alone(papers: bool, video: str | None, note: Callable[[str, float], None], grouped: bool = True) -> "More":
    """As `drawn`, with an application of its own; no screen is needed.

    Args:
        papers, video, grouped: as `drawn` takes them.
        note: called with a stage and 0.0 to 1.0.
    """
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from nafas.desk.application import application  # late: Qt asks for its platform when it is loaded
    from nafas.desk.deliver.drawn import drawn

    application()
    return drawn(papers, video, grouped=grouped, progress=note)
