"""Hexagon nut, ISO 4032."""

from __future__ import annotations

from math import cos, pi, sin
from typing import Annotated, ClassVar, Literal

from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.hardware.sizes import sizes, table
from uhrwerk.core.field import Numbers
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, path, plane, recipe


class HexNut(Element):
    """A hexagon nut on z = 0; its thread is drawn plain, as that of screws."""

    title: ClassVar[str] = "Hexagon nut"
    about: ClassVar[str] = "ISO 4032."
    group: ClassVar[str] = "Hardware"

    kind: Literal["hex_nut"] = "hex_nut"
    size: Annotated[str, sizes("nuts")] = "M5"

    @staticmethod
    def solid(n: Numbers[HexNut]) -> Recipe:
        t = table("nuts")[n.size]
        r = t["flats"] / 2 / cos(pi / 6)
        corners = [[r * cos(k * pi / 3), r * sin(k * pi / 3)] for k in range(6)]
        hexagon = path(corners[0], *(["line", c] for c in [*corners[1:], corners[0]]))
        return recipe({"nut": [extrude(hexagon, 0, t["high"], [circle(0, 0, t["core"] / 2)])]})

    @staticmethod
    def datums(n: Numbers[HexNut]) -> dict[str, Datum]:
        t = table("nuts")[n.size]
        return {
            "axis": axis(0, 0, 0, t["core"] / 2, "bore", t["high"]),
            "bottom": plane(0, 0, 0, up=False),
            "top": plane(0, 0, t["high"]),
        }

    @staticmethod
    def derived(n: Numbers[HexNut]) -> list[Derived]:
        t = table("nuts")[n.size]
        return [("Across flats", t["flats"], "length"), ("Height", t["high"], "length")]
