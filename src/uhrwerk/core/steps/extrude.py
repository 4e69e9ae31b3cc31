"""Material added under an outline."""

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.field import Angle, Numbers, Size
from uhrwerk.core.outlines import OUTLINES, Outline, Rectangle, drawn
from uhrwerk.core.steps.step import Face, OnPlane, plane_of


class Extrude(OnPlane):
    """An outline drawn out square to its plane."""

    title: ClassVar[str] = "Extrude"
    about: ClassVar[str] = "adds what an outline sweeps"
    begins: ClassVar[bool] = True

    kind: Literal["extrude"] = "extrude"
    outline: Annotated[Outline, OUTLINES] = Field(default_factory=Rectangle)
    length: Size = "5 mm"
    both: bool = Field(default=False, title="To both sides")
    to: Face = Field(default="", title="Up to the face")
    taper: Angle = "0 deg"

    @staticmethod
    def made(n: Numbers) -> dict[str, Any]:
        return {
            "do": "add", "plane": plane_of(n), "outline": drawn(n.outline), "length": n.length, "both": n.both, "to": n.to,
            "taper": n.taper,
        }  # fmt: skip
