"""Material removed under an outline."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.field import Angle, Numbers, Size
from uhrwerk.core.outlines import OUTLINES, Outline, Rectangle, outline_data, sides
from uhrwerk.core.steps.step import Face, OnPlane, StepOption, Under, plane_of


class Cut(OnPlane):
    """An outline cut into the part, against the normal of its plane."""

    title: ClassVar[str] = "Cut"
    about: ClassVar[str] = "removes what an outline sweeps"

    kind: Literal["cut"] = "cut"
    outline: Annotated[Outline, OUTLINES] = Field(default_factory=lambda: Rectangle(length="10 mm", width="5 mm"))
    depth: Size = "2 mm"
    through: bool = Field(default=False, title="Through all")
    both: bool = Field(default=False, title="To both sides")
    to: Face = Field(default="", title="Up to the face")
    taper: Angle = "0 deg"

    def idle(self) -> set[str]:
        return {"depth", "both", "to"} if self.through else {"depth", "both"} if self.to else set()

    @classmethod
    def offers(cls, face: Under) -> list[StepOption]:
        if face.kind != "plane":
            return []
        outline = Rectangle(length=face.size(0.4), width=face.size(0.2), x=face.at_x, y=face.at_y)
        step = cls(name="Cut", plane=face.name, outline=outline, depth=face.size(0.05))
        return [StepOption("A recess", step, ("outline.length", "outline.width", "depth"))]

    @staticmethod
    def moves(n: Numbers[Cut], role: str) -> tuple[tuple[str, float], ...]:
        if role == "end" and not (n.to or n.through or n.both):
            return (("depth", -1.0),)
        return sides(n.outline, role, -1.0) if not n.taper else ()

    @staticmethod
    def recipe(n: Numbers[Cut]) -> dict[str, Any]:
        return {
            "do": "take", "plane": plane_of(n), "outline": outline_data(n.outline), "length": n.depth, "through": n.through,
            "both": n.both, "to": n.to, "taper": n.taper,
        }  # fmt: skip
