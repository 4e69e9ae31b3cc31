"""Where a joint takes hold: a datum of a placed part."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from uhrwerk.core.field import Id, Model, PlacedId

#: whether the two directions point the same way or opposite ways; nothing is guessed from where the parts happen to be
Side = Literal["same", "opposite"]


class At(Model):
    """A datum of a placed part."""

    placed: PlacedId
    datum: Id


def two_parts(a: At | str, b: At | str, what: str) -> Iterator[tuple[str, str]]:
    """The fault of whatever holds a part to itself."""
    one, other = (x if isinstance(x, str) else x.placed for x in (a, b))
    if one == other:
        yield "b" if isinstance(b, str) else "b.placed", f"{what} needs two different parts"
