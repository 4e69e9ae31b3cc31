"""An end of a joint: a datum of a placed part, or a place beside it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field, SerializationInfo, SerializerFunctionWrapHandler, StringConstraints, model_serializer

from uhrwerk.core.field import Length, Model, PlacedId
from uhrwerk.core.quantity import Scope
from uhrwerk.core.solids import Datum

#: whether the two directions point the same way or opposite ways; nothing is guessed from where the parts happen to be
Side = Literal["same", "opposite"]


#: no way at all
HERE = "0 mm"
#: asks in the context of a dump for what is left at its default, too
EVERY_FIELD = "every field"
_FACE = r"[a-z][a-z0-9_]{0,39}(\.[a-z0-9_]{1,160}(\.[0-9]{1,3})?)?"
#: a datum that an element names, a face by the build step that made it and its role there, or an edge or a corner by its faces
DatumName = Annotated[str, StringConstraints(pattern=rf"^{_FACE}(\+{_FACE}){{0,7}}(:[0-9]{{1,3}})?$", max_length=640)]


class At(Model):
    """A datum of a placed part, or a place beside it: `x`, `y`, `z` from its origin, along its own axes."""

    placed: PlacedId
    datum: DatumName
    x: Length = Field(default=HERE, title="moved along x")
    y: Length = Field(default=HERE, title="moved along y")
    z: Length = Field(default=HERE, title="moved along z")

    @model_serializer(mode="wrap")
    def _short(self, whole: SerializerFunctionWrapHandler, info: SerializationInfo) -> dict[str, Any]:
        """What lies at the datum itself says no more than that, unless every field is required."""
        every = EVERY_FIELD in (info.context or {})
        return {k: v for k, v in whole(self).items() if every or v != HERE}

    def beside(self, datum: Datum, scope: Scope) -> Datum:
        """The place on a part whose datum is this."""
        if self.x == self.y == self.z == HERE:
            return datum
        return datum.moved(np.array([scope.value(v, "length") for v in (self.x, self.y, self.z)]))


def two_parts(a: At | str, b: At | str, what: str) -> Iterator[tuple[str, str]]:
    """The fault of whatever holds a part to itself."""
    one, other = (x if isinstance(x, str) else x.placed for x in (a, b))
    if one == other:
        yield "b" if isinstance(b, str) else "b.placed", f"{what} needs two different parts"
