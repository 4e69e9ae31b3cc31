"""An outline that runs at an even distance outside or inside another."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.field import Length, Numbers
from uhrwerk.core.outlines.outline import OUTLINES, Outline, OutlineHandle, nested_handles, outline_data
from uhrwerk.core.outlines.rectangle import Rectangle
from uhrwerk.core.solids.recipe import Outline as Drawn


class Offset(Outline):
    """Another outline, so much larger all round; smaller where the distance is below zero. Corners stay sharp."""

    title: ClassVar[str] = "Offset of an outline"

    kind: Literal["offset"] = "offset"
    of: Annotated[Outline, OUTLINES] = Field(default_factory=Rectangle)
    by: Length = "2 mm"

    @staticmethod
    def handles(n: Numbers[Offset]) -> list[OutlineHandle]:
        return nested_handles("of", n.of)

    @staticmethod
    def outline_data(n: Numbers[Offset]) -> Drawn:
        return {"offset": outline_data(n.of), "by": n.by}
