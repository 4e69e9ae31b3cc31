"""References: a field that names another item of the document says so, and one walker finds them all.

So a check that what is named is there, and a removal with all that depends on it, need no list of kinds.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from typing import Annotated, Any, get_args

from pydantic import BaseModel

from uhrwerk.core.field.stated import Id


@dataclass(frozen=True)
class Ref:
    """Marks an id: in which collection of the document it is looked for, in the words of a refusal. `besides` are ids that
    need not be there."""

    collection: str
    what: str
    besides: tuple[str, ...] = ()


@dataclass(frozen=True)
class FaceOf:
    """Marks the name of a face of the part itself; `planes` where a base plane may stand in its place."""

    planes: bool = False


PlacedId = Annotated[Id, Ref("placed", "placed part")]
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
