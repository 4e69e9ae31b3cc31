"""What is kept: results by a hash of exactly what they were made from, the longest unused dropped first."""

from __future__ import annotations

import ctypes
import threading
from collections import OrderedDict
from collections.abc import Callable
from contextlib import suppress
from typing import Generic, TypeVar

T = TypeVar("T")


def released() -> None:
    """Gives pages of memory that nothing uses back to the system, where the allocator can (glibc): it keeps them else."""
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).malloc_trim(0)


class Cache(Generic[T]):
    """Results by key, which together weigh no more than `most`. May be shared by threads."""

    def __init__(self, most: int, weight: Callable[[T], int] = lambda _: 1) -> None:
        self.most, self.weight, self.total = most, weight, 0
        self.items: OrderedDict[str, T] = OrderedDict()
        self.lock = threading.Lock()

    def get(self, name: str, make: Callable[[], T]) -> T:
        item = self.peek(name)
        return self.put(name, make()) if item is None else item

    def peek(self, name: str) -> T | None:
        """What is kept under a name, or None."""
        with self.lock:
            if name not in self.items:
                return None
            self.items.move_to_end(name)
            return self.items[name]

    def put(self, name: str, item: T) -> T:
        with self.lock:
            if name not in self.items:
                self.total += self.weight(item)
            self.items[name] = item
            while self.total > self.most and len(self.items) > 1:
                self.total -= self.weight(self.items.popitem(last=False)[1])
        return item
