"""An imported solid: from a STEP file with its exact faces, or as triangles."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import StringConstraints

from uhrwerk.core.elements.element import Element
from uhrwerk.core.field import Numbers
from uhrwerk.core.solids import Datum, Recipe, recipe


class Imported(Element):
    """A solid of a file, kept by what is in it; the file itself may go. Build steps go on from there."""

    title: ClassVar[str] = "From a file"
    about: ClassVar[str] = "A solid that somebody sent: STEP, STL or 3MF."
    group: ClassVar[str] = "Parts of your own"
    datums_from_faces: ClassVar[bool] = True

    kind: Literal["imported"] = "imported"
    contents: Annotated[str, StringConstraints(pattern=r"^([0-9a-f]{32})?$")] = ""
    file: str = ""

    @staticmethod
    def solid(n: Numbers[Imported]) -> Recipe:
        return recipe({"part": [{"do": "imported", "contents": n.contents}]})

    @staticmethod
    def datums(n: Numbers[Imported]) -> dict[str, Datum]:
        return {}
