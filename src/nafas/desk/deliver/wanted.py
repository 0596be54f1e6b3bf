"""What of every variant of a series is delivered for a purpose, drawings and all."""

from functools import partial

from nafas.desk.deliver.drawn_alone import drawn_alone
from nafas.errors import InputError
from nafas.exchange.deliver import PURPOSES, VIDEOS
from nafas.series.render import Wanted


def wanted_for(purpose: str, video: str | None = None, anyway: bool = False) -> Wanted:
    """For one of `PURPOSES`.

    Args:
        purpose: its key.
        video: the size of a guide video; None: as the purpose has it.
        anyway: with findings that must be mended.

    Raises:
        InputError: there is no such purpose.
    """
    if purpose not in PURPOSES:
        raise InputError(purpose, "is no purpose", f"use {', '.join(PURPOSES)}")
    audio, texts = PURPOSES[purpose]
    video = video or VIDEOS.get(purpose)
    papers = "sheet" in texts
    more = partial(drawn_alone, papers, video) if papers or video else None
    return Wanted(audio, texts, video, more, anyway)
