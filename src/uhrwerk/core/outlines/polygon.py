"""A regular polygon."""

from __future__ import annotations

from math import cos, pi, sin
from typing import Annotated, ClassVar, Literal

from uhrwerk.core.field import Angle, Length, Numbers, Size, Whole, whole
from uhrwerk.core.outlines.outline import Outline, OutlineHandle, point
from uhrwerk.core.solids.recipe import Outline as Drawn
from uhrwerk.core.solids.recipe import path


class Polygon(Outline):
    """A regular polygon by its width across flats, its middle at (x, y), a flat square to x where `turn` is zero."""

    title: ClassVar[str] = "Regular polygon"

    kind: Literal["polygon"] = "polygon"
    sides: Annotated[Whole, whole(3, 60)] = "6"
    across_flats: Size = "10 mm"
    x: Length = "0 mm"
    y: Length = "0 mm"
    turn: Angle = "0 deg"

    @staticmethod
    def handles(n: Numbers[Polygon]) -> list[OutlineHandle]:
        c, s = cos(n.turn), sin(n.turn)
        flat = n.across_flats / 2
        return [
            point("middle", n.x, n.y),
            OutlineHandle(
                "flat", n.x + c * flat, n.y + s * flat, (("across_flats", "x", 2 * c), ("across_flats", "y", 2 * s))
            ),
        ]

    @staticmethod
    def outline_data(n: Numbers[Polygon]) -> Drawn:
        half = pi / n.sides
        r = n.across_flats / 2 / cos(half)
        corners = [
            [n.x + r * cos(n.turn + (2 * k - 1) * half), n.y + r * sin(n.turn + (2 * k - 1) * half)]
            for k in range(n.sides)
        ]
        return path(corners[0], *(["line", c] for c in [*corners[1:], corners[0]]))
