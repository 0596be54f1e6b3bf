"""Blocks made on several cores a few ahead of where they are needed, in their order."""

import os
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from typing import TypeVar

_AHEAD = 3  # blocks
Block = TypeVar("Block")


def ahead(make: Callable[[int], Block], starts: Iterable[int]) -> Iterator[Block]:
    """What `make` gives for each start, in order; at most a few wait to be taken."""
    waiting: deque[Future[Block]] = deque()
    pool = ThreadPoolExecutor(max_workers=min(4, os.cpu_count() or 1))
    try:
        for start in starts:
            waiting.append(pool.submit(make, start))
            if len(waiting) > _AHEAD:
                yield waiting.popleft().result()
        while waiting:
            yield waiting.popleft().result()
    finally:
        pool.shutdown(wait=True, cancel_futures=True)
