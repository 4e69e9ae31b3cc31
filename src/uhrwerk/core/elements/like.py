"""A part like another: its element and build steps, mirrored or not, some numbers changed."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from uhrwerk.core.elements.element import Element
from uhrwerk.core.field import Id, Model, ShownAsWritten
from uhrwerk.core.field.ref import Neighbour, NumberOf
from uhrwerk.core.solids import Datum, Recipe, recipe


class ChangedNumber(Model):
    """Another number in the original: its path there, such as `element.distance` or `steps.mount.diameter`."""

    path: Annotated[str, NumberOf()] = Field(default="", max_length=200, title="Number")
    formula: Annotated[str, ShownAsWritten()] = Field(default="", max_length=400)


class Like(Element):
    """What another part is, from then on too: a hinge's other leaf, a left-hand bracket. Build steps of its own come after."""

    title: ClassVar[str] = "Like another part"
    about: ClassVar[str] = "Follows another part: mirrored or not, some numbers changed."
    group: ClassVar[str] = "Parts of your own"
    datums_from_faces: ClassVar[bool] = True
    blanks: ClassVar[dict[str, Model]] = {"changes": ChangedNumber()}

    kind: Literal["like"] = "like"
    part: Neighbour = ""
    mirrored: bool = False
    changes: dict[Id, ChangedNumber] = Field(default_factory=dict, max_length=100)

    @staticmethod
    def solid(n: object) -> Recipe:
        return recipe({"part": []})  # told by the part that it is like

    @staticmethod
    def datums(n: object) -> dict[str, Datum]:
        return {}
