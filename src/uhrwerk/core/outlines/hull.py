"""The hull of circles: the line that a band drawn tight round them takes."""

from __future__ import annotations

from math import acos, atan2, cos, hypot, pi, sin
from typing import Any, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.field import Id, Length, Model, Numbers, Size
from uhrwerk.core.outlines.outline import Outline, OutlineHandle, Unfit, point
from uhrwerk.core.solids.recipe import Outline as Drawn
from uhrwerk.core.solids.recipe import circle, path


class Disc(Model):
    diameter: Size = "10 mm"
    x: Length = "0 mm"
    y: Length = "0 mm"


def _two() -> dict[str, Disc]:
    return {"a": Disc(diameter="20 mm"), "b": Disc(x="40 mm")}


class Hull(Outline):
    """The hull of circles, such as a lever's with two bosses.

    In each direction the hull reaches as far as the farthest circle (its support function); the circle that is farthest
    changes at common tangents only. Schneider, Convex Bodies, 1.7. From memory.
    """

    title: ClassVar[str] = "Hull of circles"

    kind: Literal["hull"] = "hull"
    circles: dict[Id, Disc] = Field(default_factory=_two, min_length=1, max_length=50)

    @staticmethod
    def handles(n: Numbers[Hull]) -> list[OutlineHandle]:
        out = []
        for k, (i, c) in enumerate(n.circles.items(), 1):
            rim = OutlineHandle(f"rim {k}", c.x + c.diameter / 2, c.y, ((f"circles.{i}.diameter", "x", 2.0),))
            out += [point(f"middle {k}", c.x, c.y, f"circles.{i}."), rim]
        return out

    @staticmethod
    def outline_data(n: Numbers[Hull]) -> Drawn:
        discs = [(c.x, c.y, c.diameter / 2) for c in n.circles.values()]
        arcs = _arcs(discs)
        if len(arcs) == 1:
            return circle(*discs[arcs[0][0]])
        steps: list[list[Any]] = []
        first: list[float] | None = None
        for k, low, high in arcs:
            start, mid, end = (_on(discs[k], a) for a in (low, (low + high) / 2, high))
            if first is None:
                first = start
            else:
                steps.append(["line", start])
            steps.append(["arc", mid, end])
        assert first is not None
        return path(first, *steps, ["line", first])


def _on(disc: tuple[float, float, float], angle: float) -> list[float]:
    x, y, r = disc
    return [x + r * cos(angle), y + r * sin(angle)]


def _arcs(discs: list[tuple[float, float, float]]) -> list[tuple[int, float, float]]:
    """Which circle is farthest from which direction to which, rad, once round."""
    turns = set()
    for i, (x, y, r) in enumerate(discs):
        for u, v, s in discs[i + 1 :]:
            apart = hypot(u - x, v - y)
            if apart > abs(r - s):
                toward, lean = atan2(v - y, u - x), acos((r - s) / apart)
                turns |= {(toward + lean) % (2 * pi), (toward - lean) % (2 * pi)}
    if not turns:
        return [(max(range(len(discs)), key=lambda k: discs[k][2]), 0.0, 2 * pi)]
    bounds = sorted(turns)
    arcs: list[tuple[int, float, float]] = []
    for low, high in zip(bounds, [*bounds[1:], bounds[0] + 2 * pi], strict=True):
        if high - low < 1e-12:
            continue
        mid = (low + high) / 2
        far = max(range(len(discs)), key=lambda k: discs[k][0] * cos(mid) + discs[k][1] * sin(mid) + discs[k][2])
        if arcs and arcs[-1][0] == far:
            arcs[-1] = (far, arcs[-1][1], high)
        else:
            arcs.append((far, low, high))
    if len(arcs) > 1 and arcs[0][0] == arcs[-1][0]:
        k, low, _ = arcs.pop()
        arcs[0] = (k, low - 2 * pi, arcs[0][2])
    if len(arcs) == 1 and len(discs) > 1:
        return [(arcs[0][0], 0.0, 2 * pi)]
    if not arcs:
        raise Unfit("its circles lie on one another")
    return arcs
