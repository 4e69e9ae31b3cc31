"""A free polygon through points."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from uhrwerk.core.field import Id, Length, Model, Numbers
from uhrwerk.core.outlines.outline import Outline, OutlineHandle, Unfit, point
from uhrwerk.core.solids.recipe import Outline as Drawn
from uhrwerk.core.solids.recipe import path


class Corner(Model):
    x: Length = "0 mm"
    y: Length = "0 mm"


def _triangle() -> dict[str, Corner]:
    return {"a": Corner(), "b": Corner(x="20 mm"), "c": Corner(x="20 mm", y="20 mm")}


class Points(Outline):
    """A polygon through its corners, in their order."""

    title: ClassVar[str] = "Polygon through points"

    kind: Literal["points"] = "points"
    corners: dict[Id, Corner] = Field(default_factory=_triangle, min_length=3, max_length=200)

    @staticmethod
    def handles(n: Numbers[Points]) -> list[OutlineHandle]:
        return [point(f"corner {k}", c.x, c.y, f"corners.{i}.") for k, (i, c) in enumerate(n.corners.items(), 1)]

    @staticmethod
    def outline_data(n: Numbers[Points]) -> Drawn:
        corners = [[c.x, c.y] for c in n.corners.values()]
        sides = list(zip(corners, [*corners[1:], corners[0]], strict=True))
        if any(a == b for a, b in sides) or any(
            _cross(*sides[i], *sides[j]) for i in range(len(sides)) for j in range(i + 2, len(sides))
        ):
            raise Unfit("its sides cross or meet one another")
        if abs(sum(a[0] * b[1] - a[1] * b[0] for a, b in sides)) < 1e-12:
            raise Unfit("its corners lie on one line")
        return path(corners[0], *(["line", c] for c in [*corners[1:], corners[0]]))


def _cross(a: list[float], b: list[float], c: list[float], d: list[float]) -> bool:
    """Whether two sides that are no neighbours cross."""

    def side(p: list[float], q: list[float], r: list[float]) -> float:
        return (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])

    return side(a, b, c) * side(a, b, d) < 0 and side(c, d, a) * side(c, d, b) < 0
