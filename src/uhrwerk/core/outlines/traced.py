"""A closed line of straight pieces and arcs through corners, as drawings hold it."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.field import Id, Length, Model, Number, Numbers
from uhrwerk.core.outlines.outline import Outline, OutlineHandle, Unfit, point
from uhrwerk.core.solids.recipe import Outline as Drawn
from uhrwerk.core.solids.recipe import path


class Turn(Model):
    """A corner; `bulge` makes the way to the next one an arc: the tangent of a quarter of its angle, to the left where it is
    above zero."""

    x: Length = "0 mm"
    y: Length = "0 mm"
    bulge: Number = "0"


def _half_round() -> dict[str, Turn]:
    return {"a": Turn(), "b": Turn(x="20 mm", bulge="1"), "c": Turn(x="20 mm", y="10 mm"), "d": Turn(y="10 mm")}


class Traced(Outline):
    """Corners in their order, with straight pieces or arcs between them."""

    title: ClassVar[str] = "Corners and arcs"

    kind: Literal["traced"] = "traced"
    corners: dict[Id, Turn] = Field(default_factory=_half_round, min_length=2, max_length=8000)

    @staticmethod
    def handles(n: Numbers[Traced]) -> list[OutlineHandle]:
        if len(n.corners) > 60:  # from a drawing: too many to take hold of
            return []
        return [point(f"corner {k}", c.x, c.y, f"corners.{i}.") for k, (i, c) in enumerate(n.corners.items(), 1)]

    @staticmethod
    def outline_data(n: Numbers[Traced]) -> Drawn:
        corners = [(complex(c.x, c.y), c.bulge) for c in n.corners.values()]
        steps: list[list[Any]] = []
        for (a, bulge), (b, _) in zip(corners, [*corners[1:], corners[0]], strict=True):
            if abs(b - a) < 1e-9:
                raise Unfit("two of its corners lie on one another")
            if abs(bulge) > 50:
                raise Unfit("an arc turns by a whole turn or more")
            if abs(bulge) < 1e-9:
                steps.append(["line", [b.real, b.imag]])
            else:
                middle = (a + b) / 2 - 1j * (b - a) / 2 * bulge  # an arc to the left bulges to the right of its chord
                steps.append(["arc", [middle.real, middle.imag], [b.real, b.imag]])
        if len(corners) == 2 and all(abs(bulge) < 1e-9 for _, bulge in corners):
            raise Unfit("it encloses nothing")
        first = corners[0][0]
        return path((first.real, first.imag), *steps)
