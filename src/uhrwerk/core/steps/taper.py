"""Faces tilted."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.field import Angle, Id, Model, Numbers
from uhrwerk.core.outlines import Unfit
from uhrwerk.core.steps.step import BuildStep, Face


class Leant(Model):
    face: Face = ""


class Taper(BuildStep):
    """Faces leant inward by an angle, away from a flat face that stays as it is."""

    title: ClassVar[str] = "Taper"
    about: ClassVar[str] = "tilts faces by an angle"

    kind: Literal["taper"] = "taper"
    from_face: Face = Field(default="", title="From the face")
    faces: dict[Id, Leant] = Field(default_factory=lambda: {"a": Leant()}, max_length=50)
    angle: Angle = "2 deg"

    @staticmethod
    def recipe(n: Numbers[Taper]) -> dict[str, Any]:
        faces = [f.face for f in n.faces.values()]
        if not n.from_face or not faces or not all(faces):
            raise Unfit("choose the face that stays and those to tilt")
        if not 1e-6 < abs(n.angle) < 1.0:
            raise Unfit("its angle must be above zero and below 57 degrees")
        return {"do": "draft", "neutral": n.from_face, "faces": faces, "angle": n.angle}
