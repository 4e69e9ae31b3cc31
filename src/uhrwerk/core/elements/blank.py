"""A blank part: only build steps make its solid."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.elements.element import Element
from uhrwerk.core.field import Numbers
from uhrwerk.core.solids import Datum, Recipe, recipe


class Blank(Element):
    """Nothing: what build steps begin from."""

    title: ClassVar[str] = "Blank part"
    about: ClassVar[str] = "An empty part: you build it step by step."
    group: ClassVar[str] = "Parts of your own"
    datums_from_faces: ClassVar[bool] = True

    kind: Literal["blank"] = "blank"

    @staticmethod
    def solid(n: Numbers[Blank]) -> Recipe:
        return recipe({"part": []})

    @staticmethod
    def datums(n: Numbers[Blank]) -> dict[str, Datum]:
        return {}
