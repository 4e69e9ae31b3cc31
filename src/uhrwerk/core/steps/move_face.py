"""A face moved."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from uhrwerk.core.field import Length, Numbers
from uhrwerk.core.outlines import Unfit
from uhrwerk.core.steps.step import BuildStep, Face, StepOption, Under


class MoveFace(BuildStep):
    """A flat face moved along its normal, or a round one along its radius: outward where `by` is above zero."""

    title: ClassVar[str] = "Move face"
    about: ClassVar[str] = "moves a flat or round face"

    kind: Literal["move_face"] = "move_face"
    face: Face = ""
    by: Length = "1 mm"

    @classmethod
    def offers(cls, face: Under) -> list[StepOption]:
        if not face.whole:
            return []
        title = "It moved" if face.kind == "plane" else "Make it wider" if face.bore else "Make it thicker"
        by = "-0.5 mm" if face.bore else face.size(0.05)
        return [StepOption(title, cls(name="Moved", face=face.name, by=by), ("by",))]

    @staticmethod
    def recipe(n: Numbers[MoveFace]) -> dict[str, Any]:
        if not n.face:
            raise Unfit("choose its face")
        if abs(n.by) < 1e-9:
            raise Unfit("it moves the face by nothing")
        return {"do": "move_face", "face": n.face, "by": n.by}
