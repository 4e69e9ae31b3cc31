"""The image of an outline behind a line of its plane."""

from __future__ import annotations

from math import cos, sin
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.field import Angle, Length, Numbers
from uhrwerk.core.outlines.outline import OUTLINES, Outline, OutlineHandle, Unfit, nested_handles, outline_data
from uhrwerk.core.outlines.rectangle import Rectangle
from uhrwerk.core.solids.recipe import COMBINED
from uhrwerk.core.solids.recipe import Outline as Drawn


class Mirrored(Outline):
    """Another outline behind a line through (x, y) at an angle from the plane's x; with the outline itself, as one, if asked."""

    title: ClassVar[str] = "Mirrored outline"

    kind: Literal["mirrored"] = "mirrored"
    of: Annotated[Outline, OUTLINES] = Field(default_factory=lambda: Rectangle(x="20 mm"))
    x: Length = Field(default="0 mm", title="Line through x")
    y: Length = Field(default="0 mm", title="Line through y")
    angle: Angle = Field(default="90 deg", title="Angle of the line")
    both: bool = Field(default=False, title="With the outline itself")

    @staticmethod
    def handles(n: Numbers[Mirrored]) -> list[OutlineHandle]:
        return [
            *nested_handles("of", n.of),
            OutlineHandle("line", n.x, n.y, (("x", "x", 1.0), ("y", "y", 1.0))),
        ]

    @staticmethod
    def outline_data(n: Numbers[Mirrored]) -> Drawn:
        one = outline_data(n.of)
        image = _image(one, n.x, n.y, n.angle)
        return {"sum": [one, image]} if n.both else image


def _image(one: Drawn, x: float, y: float, angle: float) -> Drawn:
    """An outline behind the line through (x, y), m, at an angle, rad."""
    c, s = cos(2 * angle), sin(2 * angle)

    def behind(p: list[float]) -> list[float]:
        u, v = p[0] - x, p[1] - y
        return [x + c * u + s * v, y + s * u - c * v]

    def moved(step: list[Any]) -> list[Any]:
        if step[0] in ("line", "arc"):
            return [step[0], *(behind(p) for p in step[1:])]
        return [*step[:-1], [behind(p) for p in step[-1]]]

    if "circle" in one:
        return {"circle": [*behind(one["circle"][:2]), one["circle"][2]]}
    if "path" in one:
        return {"start": behind(one["start"]), "path": [moved(step) for step in one["path"]]}
    if "offset" in one:
        return one | {"offset": _image(one["offset"], x, y, angle)}
    for how in COMBINED:
        if how in one:
            return {how: [_image(member, x, y, angle) for member in one[how]]}
    raise Unfit("the edge of a face cannot be mirrored as an outline: mirror the step that it makes")
