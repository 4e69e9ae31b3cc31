"""References: a field that names another item of the document says so, and one walker finds them all.

So a check that what is named is there, and a removal with all that depends on it, need no list of kinds.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from typing import Annotated, Any, get_args

from pydantic import BaseModel, StringConstraints

from uhrwerk.core.field.validation import Id


@dataclass(frozen=True)
class Ref:
    """Marks an id: in which collection of the document it is looked for, in the words of a refusal. `besides` are ids that
    need not be there."""

    collection: str
    what: str
    besides: tuple[str, ...] = ()


@dataclass(frozen=True)
class FaceOf:
    """Marks the name of a face; `planes` where a base plane may stand in its place, `beside` where it is one of the part that
    the field `part` beside it names."""

    planes: bool = False
    beside: bool = False


@dataclass(frozen=True)
class EarlierStep:
    """Marks the id of a build step of the same part that comes before this one."""


@dataclass(frozen=True)
class CornerOf:
    """Marks the id of a corner of the same outline."""


@dataclass(frozen=True)
class NumberOf:
    """Marks the path of a number in the part that the field `part` beside its list names."""


_FACE = r"[a-z][a-z0-9_]{0,39}\.[a-z0-9_]{1,160}(\.[0-9]{1,3})?"
#: a face by the step that made it and its role there; `Face` of the part itself, `FaceName` of the part that is named beside it
Face = Annotated[str, StringConstraints(pattern=rf"^({_FACE})?$"), FaceOf()]
FaceName = Annotated[str, StringConstraints(pattern=rf"^({_FACE})?$"), FaceOf(beside=True)]
#: where outlines lie: a base plane of the part, or a flat face of it
Plane = Annotated[str, StringConstraints(pattern=rf"^(xy|xz|yz|{_FACE})$"), FaceOf(planes=True)]
#: another part that this one is made from; empty: itself
Neighbour = Annotated[str, StringConstraints(pattern=r"^([a-z][a-z0-9_]{0,39})?$"), Ref("parts", "part", ("",))]
#: an earlier build step of the same part; empty: none is chosen yet
StepId = Annotated[str, StringConstraints(pattern=r"^([a-z][a-z0-9_]{0,39})?$"), EarlierStep()]
PlacedId = Annotated[Id, Ref("placed", "placed part")]
PairId = Annotated[Id, Ref("pairs", "pair")]
DriverId = Annotated[Id, Ref("drivers", "driver")]
CurveId = Annotated[Id, Ref("curves", "curve")]
PartId = Annotated[Id, Ref("parts", "part")]
MaterialId = Annotated[Id, Ref("materials", "material")]
#: a joint, or a relation that makes one
JointId = Annotated[Id, Ref("joints", "joint")]


@dataclass(frozen=True)
class Reference:
    """A reference found below a model: its path there, the id, its mark, and whether it stands in a list, which can lose it."""

    path: str
    id: str
    ref: Ref
    listed: bool


def references(model: Any, path: str = "") -> Iterator[Reference]:
    """Every reference below a model."""
    if not isinstance(model, BaseModel):
        if isinstance(model, dict | list | tuple):
            for key, item in model.items() if isinstance(model, dict) else enumerate(model):
                yield from references(item, f"{path}.{key}")
        return
    for name, mark in _marks(type(model)):
        at, item = f"{path}.{name}" if path else name, getattr(model, name)
        if mark is None:
            if not isinstance(item, str):
                yield from references(item, at)
        elif isinstance(item, list):
            yield from (Reference(f"{at}.{k}", one, mark, True) for k, one in enumerate(item))
        elif item is not None:
            yield Reference(at, item, mark, False)


def reference_of(model: type[BaseModel], field: str) -> Ref | None:
    """The mark of a field, if it refers to something."""
    return next(mark for name, mark in _marks(model) if name == field)


@cache
def _marks(model: type[BaseModel]) -> list[tuple[str, Ref | None]]:
    """The fields of a model, each with its mark."""
    return [
        (name, next((m for m in (*field.metadata, *_inner(field.annotation)) if isinstance(m, Ref)), None))
        for name, field in model.model_fields.items()
    ]


def _inner(annotation: Any) -> Iterator[Any]:
    """What marks the members of a list or of a choice between types."""
    for member in get_args(annotation):
        yield from getattr(member, "__metadata__", ())
        yield from _inner(member)
