"""Work on many things at once, each in a process of its own, as many as there are cores.

Threads would share one interpreter lock: two renders in threads take 0.92 of the time of one after the other, in
processes 0.68 (two cores, measured).
"""

import contextlib
import multiprocessing
import os
import queue
import signal
from collections.abc import Callable, Sequence
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from typing import Any

from nafas.errors import Cancelled, InputError
from nafas.log import begin_log, logger

Note = Callable[[str, float], None]
"""Called with a stage and 0.0 to 1.0; raises Cancelled where the work is to stop."""
_LOOKED = 0.1  # seconds between two looks at what the processes tell


@dataclass(frozen=True)
class Ended:
    """What became of one thing.

    Attributes:
        made: what the work gave; None where it came to nothing.
        trouble: why, for people; "" for no trouble.
        cancelled: it was stopped.
    """

    made: Any = None
    trouble: str = ""
    cancelled: bool = False

    @property
    def why(self) -> str:
        """Why nothing was made, for people."""
        return "Cancelled." if self.cancelled else self.trouble


_KILLED = Ended(trouble="its process was ended from outside, probably because memory ran out; do fewer at once")


def cores() -> int:
    """Processors that this process may use."""
    return len(os.sched_getaffinity(0))


def in_processes(
    work: Callable[[Any, Note], Any],
    items: Sequence[Any],
    at_once: int | None = None,
    text: Callable[[int, str, float], None] = lambda item, stage, done: None,
    stopped: Callable[[], bool] = lambda: False,
) -> list[Ended]:
    """Do `work` on every item; one that fails stops no other.

    Args:
        work: a function of a module, called with an item and what notes progress; what it gives and the items travel
            between processes.
        items: what is to be done.
        at_once: how many together; None: as many as there are cores. One is done in this process.
        text: called in this thread with an item's place, its stage and 0.0 to 1.0.
        stopped: asked now and then: whether all of it is to stop.

    Returns:
        list: what became of each, in the order of the items.
    """
    best = min(at_once or cores(), len(items))
    if best <= 1:
        return [_here(work, item, index, text, stopped) for index, item in enumerate(items)]
    ended: dict[int, Ended] = {}
    waiting = list(range(len(items)))
    while waiting:
        ended |= _pool(work, items, waiting, best, text, stopped)
        left = [index for index in waiting if index not in ended]
        # A process was ended from outside, and with it the pool. One of the first that are left was its work: these are
        # done alone, so that whichever it is ends no other.
        for index in left[:best]:
            alone = _pool(work, items, [index], 1, text, stopped)
            ended[index] = alone.get(index, _KILLED)
            text(index, "", 1.0)
        waiting = left[best:]
    return [ended[index] for index in range(len(items))]


def _pool(
    work: Callable[[Any, Note], Any],
    items: Sequence[Any],
    places: Sequence[int],
    count: int,
    text: Callable[[int, str, float], None],
    stopped: Callable[[], bool],
) -> dict[int, Ended]:
    """What became of the items in some places; those whose end is not known, because a process was ended, are left
    out."""
    context = multiprocessing.get_context("spawn")  # a window's process has threads that a fork would cut off
    notes, stop = context.Queue(), context.Event()
    ended: dict[int, Ended] = {}
    with ProcessPoolExecutor(count, context, _begin, (notes, stop)) as pool:
        waiting: dict[Any, int] = {}
        with contextlib.suppress(BrokenProcessPool):  # those that were not taken are left out
            for index in places:
                waiting[pool.submit(_there, work, items[index], index)] = index
        try:
            while waiting:
                _tell(notes, text)
                if stopped():
                    stop.set()
                for future in [future for future in waiting if future.done()]:
                    index = waiting.pop(future)
                    with contextlib.suppress(BrokenProcessPool):
                        ended[index] = future.result()
                        text(index, "", 1.0)
        except BaseException:
            stop.set()
            raise
    return ended


def _tell(notes: Any, text: Callable[[int, str, float], None]) -> None:
    with contextlib.suppress(queue.Empty):
        text(*notes.get(timeout=_LOOKED))
        while True:
            text(*notes.get_nowait())


def _here(
    work: Callable[[Any, Note], Any],
    item: Any,
    number: int,
    text: Callable[[int, str, float], None],
    stopped: Callable[[], bool],
) -> Ended:
    def note(stage: str, done: float) -> None:
        if stopped():
            raise Cancelled
        text(number, stage, done)

    ended = Ended(cancelled=True) if stopped() else _ended(work, item, note)
    text(number, "", 1.0)
    return ended


def _ended(work: Callable[[Any, Note], Any], item: Any, note: Note) -> Ended:
    try:
        return Ended(work(item, note))
    except Cancelled:
        return Ended(cancelled=True)
    except InputError as error:
        return Ended(trouble=str(error))
    except Exception as error:  # a fault of ours must not stop the rest, and must be seen
        logger.exception("one of many")
        return Ended(trouble=repr(error))


# -- in the other process

_notes: Any = None
_stop: Any = None


def _begin(notes: Any, stop: Any) -> None:
    """The one who asked is told, and stops what runs: an interrupt of the terminal reaches that one."""
    global _notes, _stop
    _notes, _stop = notes, stop
    notes.cancel_join_thread()  # what is still to be reported must not hold up the end of a process
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    begin_log()


def _there(work: Callable[[Any, Note], Any], item: Any, number: int) -> Ended:
    def note(stage: str, done: float) -> None:
        if _stop.is_set():
            raise Cancelled
        _notes.put((number, stage, done))

    return Ended(cancelled=True) if _stop.is_set() else _ended(work, item, note)
