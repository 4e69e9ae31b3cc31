"""Plain washer, ISO 7089."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.hardware.sizes import sizes, table
from uhrwerk.core.field import Numbers
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe


class Washer(Element):
    """A plain washer on z = 0."""

    title: ClassVar[str] = "Washer"
    about: ClassVar[str] = "ISO 7089, plain."
    group: ClassVar[str] = "Hardware"

    kind: Literal["washer"] = "washer"
    size: Annotated[str, sizes("washers")] = "M5"

    @staticmethod
    def solid(n: Numbers[Washer]) -> Recipe:
        t = table("washers")[n.size]
        return recipe(
            {"washer": [extrude(circle(0, 0, t["outer"] / 2), 0, t["thick"], [circle(0, 0, t["inner"] / 2)])]}
        )

    @staticmethod
    def datums(n: Numbers[Washer]) -> dict[str, Datum]:
        t = table("washers")[n.size]
        return {
            "axis": axis(0, 0, 0, t["inner"] / 2, "bore", t["thick"]),
            "bottom": plane(0, 0, 0, up=False),
            "top": plane(0, 0, t["thick"]),
        }

    @staticmethod
    def derived(n: Numbers[Washer]) -> list[Derived]:
        t = table("washers")[n.size]
        return [("Outer diameter", t["outer"], "length"), ("Thickness", t["thick"], "length")]
