"""Names of the kernel's faces and edges, whichever way round they lie."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Any


class Names:
    """A name for each of some shapes; a shape and the same turned round are one. The first name given is kept by `add`."""

    def __init__(self, pairs: Iterable[tuple[Any, str]] = ()) -> None:
        self._of: dict[int, tuple[Any, str]] = {}
        for shape, name in pairs:
            self.add(shape, name)

    def add(self, shape: Any, name: str) -> None:
        self._of.setdefault(hash(shape), (shape, name))

    def get(self, shape: Any, default: str = "") -> str:
        return self._of.get(hash(shape), (None, default))[1]

    def __contains__(self, shape: Any) -> bool:
        return hash(shape) in self._of

    def __iter__(self) -> Iterator[tuple[Any, str]]:
        return iter(self._of.values())

    def __len__(self) -> int:
        return len(self._of)

    def followed(self, maker: Any, there: Iterable[Any]) -> Names:
        """The names after one of the kernel's operations: of what it kept, changed, or split. `there` is what is there then:
        of those the kernel need not be asked."""
        now, out = {hash(shape) for shape in there}, Names()
        for shape, name in self:
            for after in [shape] if hash(shape) in now else maker.Modified(shape):
                if hash(after) in now:
                    out.add(after, name)
        return out
