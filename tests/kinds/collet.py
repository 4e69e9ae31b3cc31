"""A made-up element: a collet."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.elements import ELEMENTS, Derived, Element
from uhrwerk.core.field import Numbers, Size
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe


class Collet(Element):
    """A collet along z, from z = 0."""

    title: ClassVar[str] = "Collet"
    about: ClassVar[str] = "A sleeve to run in."
    hint: ClassVar[str] = "bore"

    kind: Literal["collet"] = "collet"
    bore: Size = "6 mm"
    outside: Size = "9 mm"
    length: Size = "10 mm"
    open_end: bool = True

    @staticmethod
    def faults(n: Numbers) -> list[tuple[str, str]]:
        return [] if n.bore < n.outside else [("bore", "is as wide as the collet")]

    @staticmethod
    def solid(n: Numbers) -> Recipe:
        return recipe({"collet": [extrude(circle(0, 0, n.outside / 2), 0, n.length, [circle(0, 0, n.bore / 2)])]})

    @staticmethod
    def datums(n: Numbers) -> dict[str, Datum]:
        return {"axis": axis(0, 0, 0, n.bore / 2, "bore", n.length), "top": plane(0, 0, n.length)}

    @staticmethod
    def derived(n: Numbers) -> list[Derived]:
        return [("Wall", (n.outside - n.bore) / 2, "length")]


def register() -> None:
    ELEMENTS.register(Collet)
