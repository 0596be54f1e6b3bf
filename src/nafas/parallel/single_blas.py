"""BLAS held to one thread while several of ours use it: its own would only fight ours for the cores.

The limit is the whole process's. Two measurements at once, each setting and restoring it by itself, would leave it at
one thread for good: here the first that begins sets it, and the last that ends restores it.
"""

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from threadpoolctl import threadpool_limits

_lock = threading.Lock()
_inside = 0
_limit: Any = None


@contextmanager
def single_blas() -> Iterator[None]:
    """One BLAS thread inside; from several threads at once, too."""
    global _inside, _limit
    with _lock:
        if not _inside:
            _limit = threadpool_limits(1, "blas")
        _inside += 1
    try:
        yield
    finally:
        with _lock:
            _inside -= 1
            if not _inside:
                _limit.restore_original_limits()
                _limit = None
