"""An outline turned about an axis in its plane."""

from __future__ import annotations

from math import pi
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.field import Angle, Length, Numbers
from uhrwerk.core.outlines import OUTLINES, Outline, Rectangle, Unfit, outline_data
from uhrwerk.core.steps.step import OnPlane, plane_of


class Revolve(OnPlane):
    """An outline turned about the x or y of its plane, to add or to take away."""

    title: ClassVar[str] = "Revolve"
    about: ClassVar[str] = "adds or removes what an outline sweeps round an axis"
    begins: ClassVar[bool] = True

    kind: Literal["revolve"] = "revolve"
    outline: Annotated[Outline, OUTLINES] = Field(
        default_factory=lambda: Rectangle(length="20 mm", width="5 mm", y="10 mm")
    )
    axis: Literal["x", "y"] = "x"
    axis_offset: Length = "0 mm"
    angle: Angle = "360 deg"
    does: Literal["adds", "takes away"] = "adds"

    @staticmethod
    def recipe(n: Numbers[Revolve]) -> dict[str, Any]:
        if not 0 < n.angle <= 2 * pi + 1e-9:
            raise Unfit("its angle must be above zero and at most one turn")
        return {
            "do": "turn", "plane": plane_of(n), "outline": outline_data(n.outline), "axis": n.axis, "axis_offset": n.axis_offset,
            "angle": n.angle, "adds": n.does == "adds",
        }  # fmt: skip
