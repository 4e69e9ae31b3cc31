"""Edges rounded or bevelled."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.field import Numbers, Size
from uhrwerk.core.outlines import Unfit
from uhrwerk.core.steps.step import BuildStep, Face, StepOption, Under


class Edges(BuildStep):
    """Edges rounded or bevelled: all that stand out, those of a face, or those between two faces."""

    title: ClassVar[str] = "Edges"
    about: ClassVar[str] = "rounds or chamfers edges"

    kind: Literal["edges"] = "edges"
    how: Literal["round", "bevel"] = "round"
    size: Size = "1 mm"
    which: Literal["outer", "of a face", "between two faces"] = "outer"
    a: Face = Field(default="", title="Face")
    b: Face = Field(default="", title="Other face")

    def idle(self) -> set[str]:
        return {"outer": {"a", "b"}, "of a face": {"b"}, "between two faces": set()}[self.which]

    @classmethod
    def offers(cls, face: Under) -> list[StepOption]:
        size = face.size(0.01)
        return [
            StepOption("Round its edges", cls(name="Round", which="of a face", a=face.name, size=size), ("size",)),
            StepOption(
                "Chamfer its edges",
                cls(name="Bevel", how="bevel", which="of a face", a=face.name, size=size),
                ("size",),
            ),
        ]

    @staticmethod
    def recipe(n: Numbers[Edges]) -> dict[str, Any]:
        if n.which != "outer" and not n.a:
            raise Unfit("choose the face whose edges are meant")
        if n.which == "between two faces" and not n.b:
            raise Unfit("choose its second face")
        return {"do": "edges", "how": n.how, "size": n.size, "which": n.which, "a": n.a, "b": n.b}
