"""Earlier steps repeated: round an axis, along a line, or behind a plane."""

from __future__ import annotations

from math import cos, pi, sin
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.field import Id, Kinds, Length, Model, Numbers
from uhrwerk.core.outlines import Unfit
from uhrwerk.core.steps.step import BuildStep

Move = list[list[float]]


class Round(Model):
    """Round the part's z through a point: so many in a whole turn, the first one counted."""

    title: ClassVar[str] = "Round an axis"

    kind: Literal["round"] = "round"
    count: int = Field(default=4, ge=2, le=360)
    x: Length = "0 mm"
    y: Length = "0 mm"

    @staticmethod
    def moves(n: Numbers[Round]) -> list[Move]:
        out = []
        for k in range(1, n.count):
            c, s = cos(2 * pi * k / n.count), sin(2 * pi * k / n.count)
            out.append([[c, -s, 0, n.x - c * n.x + s * n.y], [s, c, 0, n.y - s * n.x - c * n.y], [0, 0, 1, 0]])
        return out


class Along(Model):
    """Along a line: so many, the first one counted."""

    title: ClassVar[str] = "Along a line"

    kind: Literal["along"] = "along"
    count: int = Field(default=3, ge=2, le=360)
    x: Length = Field(default="10 mm", title="Step along x")
    y: Length = Field(default="0 mm", title="Step along y")
    z: Length = Field(default="0 mm", title="Step along z")

    @staticmethod
    def moves(n: Numbers[Along]) -> list[Move]:
        return [[[1, 0, 0, k * n.x], [0, 1, 0, k * n.y], [0, 0, 1, k * n.z]] for k in range(1, n.count)]


class Behind(Model):
    """Behind a plane of the part."""

    title: ClassVar[str] = "Behind a plane"

    kind: Literal["behind"] = "behind"
    plane: Literal["yz", "xz", "xy"] = "yz"
    offset: Length = "0 mm"

    @staticmethod
    def moves(n: Numbers[Behind]) -> list[Move]:
        at = {"yz": 0, "xz": 1, "xy": 2}[n.plane]
        m: Move = [[float(i == j) for j in range(3)] + [0.0] for i in range(3)]
        m[at][at], m[at][3] = -1.0, 2 * n.offset
        return [m]


HOW: Kinds[Any] = Kinds("ways to do it again")
for _how in (Round, Along, Behind):
    HOW.register(_how)


class Which(Model):
    step: str = Field(default="", max_length=40)


class Again(BuildStep):
    """Earlier steps that add or take away, done again."""

    title: ClassVar[str] = "Repeat steps"
    about: ClassVar[str] = "repeats earlier steps round an axis, along a line or behind a plane"

    kind: Literal["again"] = "again"
    steps: dict[Id, Which] = Field(default_factory=lambda: {"a": Which()}, max_length=50)
    how: Annotated[Any, HOW] = Field(default_factory=Round)

    @staticmethod
    def recipe(n: Numbers[Again]) -> dict[str, Any]:
        steps = [w.step for w in n.steps.values()]
        if not steps or not all(steps):
            raise Unfit("it has no step yet that is done again")
        return {"do": "again", "of": steps, "moves": HOW[n.how.kind].moves(n.how)}
