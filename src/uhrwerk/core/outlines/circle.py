"""A circle."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.field import Length, Numbers, Size
from uhrwerk.core.outlines.outline import Outline, OutlineHandle, point
from uhrwerk.core.solids.recipe import Outline as Drawn
from uhrwerk.core.solids.recipe import circle


class Circle(Outline):
    """A circle of a diameter round (x, y)."""

    title: ClassVar[str] = "Circle"

    kind: Literal["circle"] = "circle"
    diameter: Size = "10 mm"
    x: Length = "0 mm"
    y: Length = "0 mm"

    @staticmethod
    def handles(n: Numbers[Circle]) -> list[OutlineHandle]:
        return [point("middle", n.x, n.y), OutlineHandle("rim", n.x + n.diameter / 2, n.y, (("diameter", "x", 2.0),))]

    @staticmethod
    def moves(n: Numbers[Circle], edge: int) -> tuple[tuple[str, float], ...]:
        return (("diameter", 2.0),)

    @staticmethod
    def outline_data(n: Numbers[Circle]) -> Drawn:
        return circle(n.x, n.y, n.diameter / 2)
