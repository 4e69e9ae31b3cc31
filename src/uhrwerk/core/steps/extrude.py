"""Material added under an outline."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.field import Angle, Numbers, Size
from uhrwerk.core.outlines import OUTLINES, Circle, Outline, Rectangle, outline_data, sides
from uhrwerk.core.steps.step import Face, OnPlane, StepOption, Under, plane_of


class Extrude(OnPlane):
    """An outline drawn out square to its plane."""

    title: ClassVar[str] = "Extrude"
    about: ClassVar[str] = "adds what an outline sweeps"
    begins: ClassVar[bool] = True

    kind: Literal["extrude"] = "extrude"
    outline: Annotated[Outline, OUTLINES] = Field(default_factory=Rectangle)
    length: Size = Field(default="5 mm", title="Height")
    both: bool = Field(default=False, title="To both sides")
    to: Face = Field(default="", title="Up to the face")
    taper: Angle = "0 deg"

    def idle(self) -> set[str]:
        return {"length", "both"} if self.to else set()

    @classmethod
    def offers(cls, face: Under) -> list[StepOption]:
        if face.kind != "plane":
            return []
        outline = Circle(diameter=face.size(0.3), x=face.at_x, y=face.at_y)
        return [
            StepOption(
                "A spigot",
                cls(name="Spigot", plane=face.name, outline=outline, length=face.size(0.1)),
                ("outline.diameter", "length"),
            )
        ]

    @staticmethod
    def moves(n: Numbers[Extrude], role: str) -> tuple[tuple[str, float], ...]:
        if role in ("end", "start") and not n.to:
            return (("length", 2.0),) if n.both else (("length", 1.0),) if role == "end" else ()
        return sides(n.outline, role, 1.0) if not n.taper else ()

    @staticmethod
    def recipe(n: Numbers[Extrude]) -> dict[str, Any]:
        return {
            "do": "add", "plane": plane_of(n), "outline": outline_data(n.outline), "length": n.length, "both": n.both, "to": n.to,
            "taper": n.taper,
        }  # fmt: skip
