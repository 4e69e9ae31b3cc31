"""Results by a key of exactly what they were made from: the least recently used are dropped first. Threads may share them."""

from __future__ import annotations

import ctypes
import threading
from collections.abc import Callable, Hashable
from contextlib import suppress
from functools import wraps
from typing import Generic, ParamSpec, TypeVar

from cachetools import LRUCache

T = TypeVar("T")
P = ParamSpec("P")


def released() -> None:
    """Gives pages of memory that nothing uses back to the system, where the allocator can (glibc): it keeps them else."""
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).malloc_trim(0)


class Cache(Generic[T]):
    """Results that together weigh no more than `most`; one that weighs more by itself takes the place of all others."""

    def __init__(self, most: int, weight: Callable[[T], int] = lambda _: 1) -> None:
        self._items: LRUCache[Hashable, T] = LRUCache(most, getsizeof=lambda item: min(most, weight(item)))
        self._lock = threading.Lock()

    def __len__(self) -> int:
        return len(self._items)

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """The result of a key, made where it is not there. Two threads may make it at once; both have the first one's."""
        item = self.peek(key)
        return self.put(key, make()) if item is None else item

    def peek(self, key: Hashable) -> T | None:
        """The result of a key, or None."""
        with self._lock:
            return self._items.get(key)

    def put(self, key: Hashable, item: T) -> T:
        """What stands under a key from now on: what stood there already, or `item`."""
        with self._lock:
            return self._items.setdefault(key, item)

    def clear(self) -> None:
        with self._lock:
            self._items.clear()


def cached(most: int, key: Callable[P, Hashable]) -> Callable[[Callable[P, T]], Callable[P, T]]:
    """Decorator of a pure function: its `most` last results by `key` of its arguments."""

    def of(function: Callable[P, T]) -> Callable[P, T]:
        results: Cache[T] = Cache(most)

        @wraps(function)
        def remembered(*args: P.args, **kwargs: P.kwargs) -> T:
            return results.get(key(*args, **kwargs), lambda: function(*args, **kwargs))

        return remembered

    return of
