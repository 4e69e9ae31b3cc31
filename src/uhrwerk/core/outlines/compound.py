"""Sums and differences of outlines."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.field import Id, Numbers
from uhrwerk.core.outlines.circle import Circle
from uhrwerk.core.outlines.outline import OUTLINES, Outline, OutlineHandle, nested_handles, outline_data
from uhrwerk.core.outlines.rectangle import Rectangle
from uhrwerk.core.solids.recipe import Outline as Drawn


def _members() -> dict[str, Outline]:
    return {"a": Rectangle(), "b": Circle(x="20 mm", diameter="20 mm")}


class Several(Outline):
    """An outline made of others."""

    @staticmethod
    def handles(n: Numbers) -> list[OutlineHandle]:
        return [replace(h, name=f"{i} {h.name}") for i, one in n.of.items() for h in nested_handles(f"of.{i}", one)]

    of: dict[Id, Annotated[Outline, OUTLINES]] = Field(default_factory=_members, min_length=1, max_length=50)


class Sum(Several):
    """All of several outlines that overlap, as one."""

    title: ClassVar[str] = "Sum of outlines"

    kind: Literal["sum"] = "sum"

    @staticmethod
    def outline_data(n: Numbers[Sum]) -> Drawn:
        return {"sum": [outline_data(one) for one in n.of.values()]}


class Difference(Several):
    """The first of several outlines, without the others."""

    title: ClassVar[str] = "Difference of outlines"

    kind: Literal["difference"] = "difference"

    @staticmethod
    def outline_data(n: Numbers[Difference]) -> Drawn:
        return {"less": [outline_data(one) for one in n.of.values()]}
