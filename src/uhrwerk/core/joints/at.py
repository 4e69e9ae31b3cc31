"""Where a joint takes hold: a datum of a placed part."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import StringConstraints

from uhrwerk.core.field import Model, PlacedId

#: whether the two directions point the same way or opposite ways; nothing is guessed from where the parts happen to be
Side = Literal["same", "opposite"]


#: a datum that an element names, or a face by the build step that made it and its role there
DatumName = Annotated[
    str, StringConstraints(pattern=r"^[a-z][a-z0-9_]{0,39}(\.[a-z0-9_]{1,160}(\.[0-9]{1,3})?)?$", max_length=210)
]


class At(Model):
    """A datum of a placed part."""

    placed: PlacedId
    datum: DatumName


def two_parts(a: At | str, b: At | str, what: str) -> Iterator[tuple[str, str]]:
    """The fault of whatever holds a part to itself."""
    one, other = (x if isinstance(x, str) else x.placed for x in (a, b))
    if one == other:
        yield "b" if isinstance(b, str) else "b.placed", f"{what} needs two different parts"
