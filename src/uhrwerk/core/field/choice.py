"""A text that is one of a table's names, such as the size of a screw."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal, get_args, get_origin

from pydantic import GetCoreSchemaHandler
from pydantic.fields import FieldInfo
from pydantic_core import CoreSchema, core_schema


@dataclass(frozen=True)
class OneOf:
    """Marks a text field that takes one of these names, in the order in which they are offered."""

    names: tuple[str, ...]

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.literal_schema(list(self.names))


def choices(field: FieldInfo) -> tuple[str, ...]:
    """What a field may be chosen from, as it is written; nothing where it is no choice."""
    if get_origin(field.annotation) is Literal:
        return tuple(str(x) for x in get_args(field.annotation))
    return next((m.names for m in field.metadata if isinstance(m, OneOf)), ())


__all__ = ["OneOf", "choices"]
