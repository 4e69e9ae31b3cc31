"""What the stages of one evaluator share, passed in: the pool of kernel workers, and the datums of solids by recipe."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from threading import BoundedSemaphore

from uhrwerk.core.cache import Cache
from uhrwerk.core.solids import Datum, KernelPool

#: parts whose datums are kept
DATUMS = 300
#: files that are read at once
AT_ONCE = 2


@dataclass(frozen=True)
class Context:
    """`deviation`, m: how far triangles may be off the faces that datums are taken from; None for the usual ones. `reading` is held while a
    file is read."""

    kernel_pool: KernelPool
    datums: Cache[dict[str, Datum]] = field(default_factory=lambda: Cache(DATUMS))
    deviation: float | None = None
    reading: BoundedSemaphore = field(default_factory=lambda: BoundedSemaphore(AT_ONCE))

    def coarse(self, deviation: float) -> Context:
        """The same with coarser triangles: quicker to make, with the same faces."""
        return replace(self, deviation=deviation)


@contextmanager
def temporary_context() -> Iterator[Context]:
    """A context with a kernel pool of its own, which ends with it."""
    pool = KernelPool()
    try:
        yield Context(pool)
    finally:
        pool.close()
