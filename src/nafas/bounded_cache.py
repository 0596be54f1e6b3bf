"""Results kept while they are few: a cache that states how many bytes it may hold."""

from collections.abc import Callable
from threading import Lock
from typing import Any, ParamSpec, TypeVar

from cachetools import LRUCache, cached

Arguments = ParamSpec("Arguments")
Result = TypeVar("Result")


def bounded_cache(
    size: int, size_of: Callable[[Any], int]
) -> Callable[[Callable[Arguments, Result]], Callable[Arguments, Result]]:
    """Keep what a function gave for the arguments used last, from any thread.

    Args:
        size: bytes of all that is kept; what is larger by itself is not kept.
        size_of: about how many bytes a result takes.
    """

    def decorate(function: Callable[Arguments, Result]) -> Callable[Arguments, Result]:
        return cached(LRUCache(maxsize=size, getsizeof=size_of), lock=Lock())(function)

    return decorate
