"""A slot: two half circles and the lines between them."""

from __future__ import annotations

from math import cos, sin
from typing import ClassVar, Literal

from uhrwerk.core.field import Angle, Length, Numbers, Size
from uhrwerk.core.outlines.outline import Outline, OutlineHandle, point
from uhrwerk.core.solids.recipe import Outline as Drawn
from uhrwerk.core.solids.recipe import bar


class Slot(Outline):
    """A slot whose end centres stand `length` apart, its middle at (x, y)."""

    title: ClassVar[str] = "Slot"

    kind: Literal["slot"] = "slot"
    length: Size = "20 mm"
    width: Size = "6 mm"
    x: Length = "0 mm"
    y: Length = "0 mm"
    turn: Angle = "0 deg"

    @staticmethod
    def handles(n: Numbers[Slot]) -> list[OutlineHandle]:
        c, s = cos(n.turn), sin(n.turn)
        return [
            point("middle", n.x, n.y),
            OutlineHandle(
                "end", n.x + c * n.length / 2, n.y + s * n.length / 2, (("length", "x", 2 * c), ("length", "y", 2 * s))
            ),
            OutlineHandle(
                "side", n.x - s * n.width / 2, n.y + c * n.width / 2, (("width", "x", -2 * s), ("width", "y", 2 * c))
            ),
        ]

    @staticmethod
    def outline_data(n: Numbers[Slot]) -> Drawn:
        dx, dy = n.length / 2 * cos(n.turn), n.length / 2 * sin(n.turn)
        return bar(n.x - dx, n.y - dy, n.x + dx, n.y + dy, n.width)
