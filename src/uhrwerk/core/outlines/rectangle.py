"""A rectangle, with round corners if asked."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.field import Length, Numbers, Size, SizeOrNone
from uhrwerk.core.outlines.outline import Outline, OutlineHandle, Unfit, point
from uhrwerk.core.solids.recipe import Outline as Drawn
from uhrwerk.core.solids.recipe import rectangle


class Rectangle(Outline):
    """A rectangle whose middle is (x, y)."""

    title: ClassVar[str] = "Rectangle"

    kind: Literal["rectangle"] = "rectangle"
    length: Size = "40 mm"
    width: Size = "20 mm"
    corner: SizeOrNone = "0 mm"
    x: Length = "0 mm"
    y: Length = "0 mm"

    @staticmethod
    def handles(n: Numbers[Rectangle]) -> list[OutlineHandle]:
        return [
            point("middle", n.x, n.y), OutlineHandle("side", n.x + n.length / 2, n.y, (("length", "x", 2.0),)),
            OutlineHandle("end", n.x, n.y + n.width / 2, (("width", "y", 2.0),)),
        ]  # fmt: skip

    @staticmethod
    def moves(n: Numbers[Rectangle], edge: int) -> tuple[tuple[str, float], ...]:
        side = _side(n, edge)
        if side is None:
            return ()
        return (("length" if side % 2 else "width", 2.0),)  # its middle stays: both sides move

    @staticmethod
    def shifts(n: Numbers[Rectangle], edge: int) -> tuple[tuple[str, float], ...]:
        side = _side(n, edge)
        return () if side is None else ((("y", -1.0), ("x", 1.0), ("y", 1.0), ("x", -1.0))[side],)

    @staticmethod
    def outline_data(n: Numbers[Rectangle]) -> Drawn:
        if 2 * n.corner >= min(n.length, n.width):
            raise Unfit("its corners are rounder than its shorter side allows")
        a, b = n.length / 2, n.width / 2
        return rectangle(n.x - a, n.y - b, n.x + a, n.y + b, n.corner)


def _side(n: Numbers[Rectangle], edge: int) -> int | None:
    """Which side an edge is, from the lower one on, against the clock; None of a round corner."""
    if not n.corner:
        return edge - 1
    return (edge - 1) // 2 if edge % 2 else None
