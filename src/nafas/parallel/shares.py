"""Parts of a programme worked on at once, on every core.

In a window's process by threads. They share one interpreter lock, and what is done here is so many short array
operations that two threads of it are hardly faster than one. A process of its own, which is what the command line has,
can be forked instead: it is as good as alone then, and two halves take little more than half the time.
"""

import os
import signal
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager, suppress
from threading import Event, Lock, local
from typing import Any, Generic, TypeVar, cast

from nafas.errors import Cancelled

Item = TypeVar("Item")
Result = TypeVar("Result")
Tell = Callable[[int], None]
"""Called with the frames that are done; raises `Cancelled` where the work is to stop."""

_may_fork = False


class PerWorker(Generic[Item]):
    """Something costly that no two workers may share: made for each when it is asked for first.

    Args:
        make: makes one.
    """

    def __init__(self, make: Callable[[], Item]) -> None:
        self._make, self._own = make, local()

    @property
    def mine(self) -> Item:
        """That of the worker who asks."""
        if not hasattr(self._own, "it"):
            self._own.it = self._make()
        return cast(Item, self._own.it)


def ignored(done: float) -> None:
    """Progress that nobody is shown."""


@contextmanager
def forking() -> Iterator[None]:
    """Inside, work is shared out to forked processes. Only for a program whose threads are all its own and hold no
    locks: the command line, never the window."""
    global _may_fork
    before, _may_fork = _may_fork, hasattr(os, "fork")
    try:
        yield
    finally:
        _may_fork = before


def may_fork() -> bool:
    """Whether this is inside `forking`."""
    return _may_fork


def in_shares(
    work: Callable[[Item, Tell], Result],
    items: Sequence[Item],
    total: int,
    progress: Callable[[float], None],
    fork: bool = True,
) -> list[Result]:
    """The result of each item, in order.

    Args:
        work: does one item, and tells of the frames it has done.
        items: what is to be done; they do not depend on each other.
        total: frames of all items.
        progress: called with 0.0 to 1.0, by one thread at a time; raises Cancelled to stop.
        fork: whether what `work` uses can be forked, and keeps nothing that the next one needs.

    Raises:
        Cancelled: when `progress` does.
    """
    workers = min(4, os.cpu_count() or 1, len(items))
    if _may_fork and fork and workers > 1:
        return _in_processes(work, items, total, progress, workers)
    return _in_threads(work, items, total, progress, max(1, workers))


def _in_threads(
    work: Callable[[Item, Tell], Result],
    items: Sequence[Item],
    total: int,
    progress: Callable[[float], None],
    workers: int,
) -> list[Result]:
    stop, lock = Event(), Lock()
    done = 0

    def tell(frames: int) -> None:
        nonlocal done
        if stop.is_set():
            raise Cancelled
        with lock:
            done += frames
            progress(done / total)

    def one(item: Item) -> Result:
        try:
            return work(item, tell)
        except BaseException:
            stop.set()
            raise

    with ThreadPoolExecutor(max_workers=workers) as pool:
        return list(pool.map(one, items))


def _in_processes(
    work: Callable[[Item, Tell], Result],
    items: Sequence[Item],
    total: int,
    progress: Callable[[float], None],
    workers: int,
) -> list[Result]:
    from multiprocessing import connection, get_context

    context = get_context("fork")
    processes: list[Any] = []
    pipes: list[Any] = []
    taken = context.Value("q", 0)
    for _ in range(workers):
        mine, theirs = context.Pipe(duplex=False)
        process = context.Process(target=_share, args=(work, items, taken, theirs), daemon=True)
        process.start()
        theirs.close()
        processes.append(process)
        pipes.append(mine)
    results: dict[int, Result] = {}
    done = 0
    try:
        while pipes:
            for pipe in connection.wait(pipes):
                try:
                    index, result, frames = cast(Any, pipe).recv()
                except EOFError:
                    pipes.remove(cast(Any, pipe))
                    continue
                if isinstance(result, BaseException):
                    raise result
                results[index] = result
                done += frames
                progress(min(1.0, done / total))
    finally:
        for process in processes:
            process.terminate()
        for process in processes:
            process.join()
    if len(results) < len(items):
        raise OSError("a process that took part in the work was ended from outside")
    return [results[index] for index in range(len(items))]


def _share(work: Callable[[Any, Tell], Any], items: Sequence[Any], taken: Any, out: Any) -> None:
    """One process's share of the items: again and again the next one that no process has taken."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl-C reaches all of them; the first one ends the others
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    text = 0

    def tell(frames: int) -> None:
        nonlocal text
        text += frames

    try:
        while True:
            with taken.get_lock():
                index = taken.value
                taken.value += 1
            if index >= len(items):
                return
            result = work(items[index], tell)
            out.send((index, result, text))
            text = 0
    except BaseException as error:
        with suppress(OSError):  # where the first process is gone, nobody is to be told
            out.send((-1, error, 0))
