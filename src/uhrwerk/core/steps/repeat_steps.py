"""Earlier steps repeated: round an axis, along a line, or behind a plane."""

from __future__ import annotations

from math import cos, pi, sin
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.field import Id, Kinds, Length, Model, Numbers, Whole, whole
from uhrwerk.core.field.ref import Face, Plane, StepId
from uhrwerk.core.outlines import Unfit
from uhrwerk.core.solids.datum import BASES
from uhrwerk.core.steps.step import BuildStep

#: three rows of four, m; or what the kernel makes one of: an angle about an axis, or a plane to mirror behind
Move = list[list[float]] | dict[str, Any]


class Round(Model):
    """Round an axis of the part, or its z through a point: so many in a whole turn, the first one counted."""

    title: ClassVar[str] = "Round an axis"

    kind: Literal["round"] = "round"
    count: Annotated[Whole, whole(2, 360)] = "4"
    x: Length = "0 mm"
    y: Length = "0 mm"
    axis: Face = Field(default="", title="About the axis of")

    def idle(self) -> set[str]:
        return {"x", "y"} if self.axis else set()

    @staticmethod
    def moves(n: Numbers[Round]) -> list[Move]:
        if n.axis:
            return [{"about": n.axis, "angle": 2 * pi * k / n.count} for k in range(1, n.count)]
        out: list[Move] = []
        for k in range(1, n.count):
            c, s = cos(2 * pi * k / n.count), sin(2 * pi * k / n.count)
            out.append([[c, -s, 0, n.x - c * n.x + s * n.y], [s, c, 0, n.y - s * n.x - c * n.y], [0, 0, 1, 0]])
        return out


class Along(Model):
    """Along a line: so many, the first one counted."""

    title: ClassVar[str] = "Along a line"

    kind: Literal["along"] = "along"
    count: Annotated[Whole, whole(2, 360)] = "3"
    x: Length = Field(default="10 mm", title="Step along x")
    y: Length = Field(default="0 mm", title="Step along y")
    z: Length = Field(default="0 mm", title="Step along z")

    @staticmethod
    def moves(n: Numbers[Along]) -> list[Move]:
        return [[[1, 0, 0, k * n.x], [0, 1, 0, k * n.y], [0, 0, 1, k * n.z]] for k in range(1, n.count)]


class Behind(Model):
    """Behind a plane of the part, or one of its flat faces."""

    title: ClassVar[str] = "Behind a plane"

    kind: Literal["behind"] = "behind"
    plane: Plane = "yz"
    offset: Length = "0 mm"

    @staticmethod
    def moves(n: Numbers[Behind]) -> list[Move]:
        if n.plane not in BASES:
            return [{"behind": n.plane, "offset": n.offset}]
        at = {"yz": 0, "xz": 1, "xy": 2}[n.plane]
        m = [[float(i == j) for j in range(3)] + [0.0] for i in range(3)]
        m[at][at], m[at][3] = -1.0, 2 * n.offset
        return [m]


HOW: Kinds[Any] = Kinds("way to repeat steps")
for _how in (Round, Along, Behind):
    HOW.register(_how)


class Which(Model):
    step: StepId = ""


class RepeatSteps(BuildStep):
    """Earlier steps that add or take away, done again."""

    title: ClassVar[str] = "Repeat steps"
    about: ClassVar[str] = "repeats earlier steps round an axis, along a line or behind a plane"

    kind: Literal["repeat"] = "repeat"
    steps: dict[Id, Which] = Field(default_factory=lambda: {"a": Which()}, max_length=50)
    how: Annotated[Any, HOW] = Field(default_factory=Round)

    def idle(self) -> set[str]:
        return {f"how.{field}" for field in self.how.idle()} if isinstance(self.how, Round) else set()

    @staticmethod
    def recipe(n: Numbers[RepeatSteps]) -> dict[str, Any]:
        steps = [w.step for w in n.steps.values()]
        if not steps or not all(steps):
            raise Unfit("choose a step to repeat")
        return {"do": "again", "of": steps, "moves": HOW[n.how.kind].moves(n.how)}
