"""A part hollowed out."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.field import Id, Model, Numbers, Size
from uhrwerk.core.outlines import Unfit
from uhrwerk.core.steps.step import BuildStep, Face, StepOption, Under

#: parts of more faces are not offered to be hollowed: the kernel may not come to an end with them
INTRICATE = 40


class Opening(Model):
    face: Face = ""


class Hollow(BuildStep):
    """Hollow with a wall of one thickness, open where faces are left out."""

    title: ClassVar[str] = "Hollow"
    about: ClassVar[str] = "leaves a wall round the inside"

    kind: Literal["hollow"] = "hollow"
    wall: Size = "2 mm"
    open: dict[Id, Opening] = Field(default_factory=lambda: {"a": Opening()}, max_length=50)

    @classmethod
    def offers(cls, face: Under) -> list[StepOption]:
        if face.kind != "plane" or face.faces > INTRICATE:
            return []
        return [
            StepOption(
                "Hollow it, open here",
                cls(name="Hollow", open={"a": Opening(face=face.name)}, wall=face.size(0.04)),
                ("wall",),
            )
        ]

    @staticmethod
    def recipe(n: Numbers[Hollow]) -> dict[str, Any]:
        faces = [o.face for o in n.open.values()]
        if not faces or not all(faces):
            raise Unfit("choose a face to open")
        return {"do": "hollow", "wall": n.wall, "open": faces}
