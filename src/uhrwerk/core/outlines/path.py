"""A path of lines and arcs that run on smoothly."""

from __future__ import annotations

from math import cos, hypot, pi, sin
from typing import Any, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.field import Angle, Id, Length, Model, Numbers, SizeOrNone
from uhrwerk.core.outlines.outline import Outline, OutlineHandle, Unfit, point
from uhrwerk.core.solids.recipe import Outline as Drawn
from uhrwerk.core.solids.recipe import path


class PathPiece(Model):
    """Straight on for `length`, then round an arc of `radius` through `turn` (to the left where it is above zero); a turn
    without a radius is a corner."""

    length: SizeOrNone = "20 mm"
    turn: Angle = "90 deg"
    radius: SizeOrNone = "0 mm"


def _square() -> dict[str, PathPiece]:
    return {k: PathPiece() for k in ("a", "b", "c", "d")}


class Path(Outline):
    """A closed path from (x, y) that sets out at the angle `heading`: straight runs, each with the turn after it."""

    title: ClassVar[str] = "Path of lines and arcs"

    kind: Literal["path"] = "path"
    x: Length = "0 mm"
    y: Length = "0 mm"
    heading: Angle = "0 deg"
    runs: dict[Id, PathPiece] = Field(default_factory=_square, min_length=1, max_length=200)

    @staticmethod
    def handles(n: Numbers[Path]) -> list[OutlineHandle]:
        return [point("start", n.x, n.y)]

    @staticmethod
    def outline_data(n: Numbers[Path]) -> Drawn:
        x, y, heading = n.x, n.y, n.heading
        steps: list[list[Any]] = []
        for run in n.runs.values():
            if run.length > 1e-9:
                x, y = x + run.length * cos(heading), y + run.length * sin(heading)
                steps.append(["line", [x, y]])
            if run.radius > 1e-9 and abs(run.turn) > 1e-9:
                if abs(run.turn) >= 2 * pi:
                    raise Unfit("an arc turns by a whole turn or more")
                side = 1.0 if run.turn > 0 else -1.0
                cx, cy = x - side * run.radius * sin(heading), y + side * run.radius * cos(heading)
                ends = []
                for part in (0.5, 1.0):
                    h = heading + part * run.turn
                    ends.append([cx + side * run.radius * sin(h), cy - side * run.radius * cos(h)])
                steps.append(["arc", *ends])
                x, y = ends[1]
            heading += run.turn
        gap = hypot(x - n.x, y - n.y)
        if gap > 1e-6:
            raise Unfit(f"it does not close: its end lies {gap * 1e3:.4g} mm from its start")
        if not steps:
            raise Unfit("it has no length")
        steps[-1][-1] = [n.x, n.y]
        return path((n.x, n.y), *steps)
