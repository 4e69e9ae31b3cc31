"""Housing: a box that is open on top, with even walls, a floor, and a bore in the floor if asked."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.elements.drawn import DrawnDimension, across, along_x, along_y, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.plain.faces import GROUP, box_faces
from uhrwerk.core.field import Numbers, Size, SizeOrNone
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe, rectangle, stood


class Housing(Element):
    """A box centred on the z axis, from z = 0 up, hollow from above."""

    title: ClassVar[str] = "Housing"
    about: ClassVar[str] = "A box open on top: walls, a floor, a bore in the floor if asked."
    group: ClassVar[str] = GROUP
    hint: ClassVar[str] = "length"

    kind: Literal["housing"] = "housing"
    length: Size = "80 mm"
    width: Size = "60 mm"
    height: Size = "40 mm"
    wall: Size = "4 mm"
    floor: Size = "5 mm"
    corner: SizeOrNone = "8 mm"
    bore: SizeOrNone = "0 mm"

    @staticmethod
    def faults(n: Numbers[Housing]) -> list[tuple[str, str]]:
        problems, small = [], min(n.length, n.width)
        if 2 * n.wall >= small:
            problems.append(("wall", "leaves no space inside"))
        if n.floor >= n.height:
            problems.append(("floor", "leaves no space inside"))
        if 2 * n.corner >= small:
            problems.append(("corner", "is too large for the housing"))
        if n.bore >= small - 2 * n.wall:
            problems.append(("bore", "reaches into the walls"))
        return problems

    @staticmethod
    def solid(n: Numbers[Housing]) -> Recipe:
        x, y, w = n.length / 2, n.width / 2, n.wall
        outer = rectangle(-x, -y, x, y, n.corner)
        inner = rectangle(-x + w, -y + w, x - w, y - w, max(n.corner - w, 0.0))
        bores = [circle(0, 0, n.bore / 2)] if n.bore else []
        return recipe({"housing": [extrude(outer, 0, n.floor, bores), stood(outer, n.floor, n.height, [inner])]})

    @staticmethod
    def datums(n: Numbers[Housing]) -> dict[str, Datum]:
        named = box_faces(n.length, n.width, n.height) | {"floor": plane(0, 0, n.floor)}
        return named | ({"bore": axis(0, 0, 0, n.bore / 2, "bore", n.floor)} if n.bore else {})

    @staticmethod
    def dimensions(n: Numbers[Housing]) -> list[DrawnDimension]:
        x, y = n.length / 2, n.width / 2
        out = [along_x("length", -x, x), along_y("width", -y, y), along_z("height", 0, n.height)]
        out += [along_x("corner", -x, -x + n.corner, y)] if n.corner else []
        out += [along_x("wall", -x, -x + n.wall), along_z("floor", 0, n.floor, x)]
        return out + ([across("bore", n.bore)] if n.bore else [])

    @staticmethod
    def derived(n: Numbers[Housing]) -> list[Derived]:
        return [("Inside length", n.length - 2 * n.wall, "length"), ("Inside width", n.width - 2 * n.wall, "length")]
