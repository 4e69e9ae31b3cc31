"""Carrier: a disc with equal pins round its axis, on which planets turn."""

from __future__ import annotations

from math import cos, pi, sin
from typing import Annotated, ClassVar, Literal

from uhrwerk.core.elements.drawn import DrawnDimension, across, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.field import Numbers, Size, SizeOrNone, Whole, whole
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe


class Carrier(Element):
    """A disc with equal pins round its axis, for planets."""

    title: ClassVar[str] = "Carrier"
    about: ClassVar[str] = "A disc with pins on a circle, for planets."
    group: ClassVar[str] = "Gears"
    hint: ClassVar[str] = "pin_circle"

    kind: Literal["carrier"] = "carrier"
    diameter: Size = "56 mm"
    thickness: Size = "4 mm"
    bore: SizeOrNone = "8 mm"
    pins: Annotated[Whole, whole(1, 24)] = "3"
    pin_circle: Size = "36 mm"
    pin_diameter: Size = "4 mm"
    pin_height: Size = "8 mm"

    @staticmethod
    def faults(n: Numbers[Carrier]) -> list[tuple[str, str]]:
        problems = []
        if n.pin_circle + n.pin_diameter > n.diameter:
            problems.append(("pin_circle", "puts the pins beyond the edge of the disc"))
        if n.bore and n.pin_circle - n.pin_diameter <= n.bore:
            problems.append(("bore", "runs into the pins"))
        if n.pins > 1 and n.pin_circle * sin(pi / n.pins) <= n.pin_diameter:
            problems.append(("pin_diameter", "makes the pins run into one another"))
        return problems

    @staticmethod
    def solid(n: Numbers[Carrier]) -> Recipe:
        holes = [circle(0, 0, n.bore / 2)] if n.bore else []
        bodies = {"disc": [extrude(circle(0, 0, n.diameter / 2), 0, n.thickness, holes)]}
        for k, (x, y) in enumerate(_pins(n), 1):
            bodies[f"pin_{k}"] = [extrude(circle(x, y, n.pin_diameter / 2), n.thickness, n.thickness + n.pin_height)]
        return recipe(bodies)

    @staticmethod
    def datums(n: Numbers[Carrier]) -> dict[str, Datum]:
        middle = axis(0, 0, 0, n.bore / 2, "bore", n.thickness) if n.bore else axis(0, 0, 0)
        named = {"axis": middle, "top": plane(0, 0, n.thickness), "bottom": plane(0, 0, 0, up=False)}
        pins = enumerate(_pins(n), 1)
        return named | {
            f"pin_{k}": axis(x, y, n.thickness, n.pin_diameter / 2, "pin", n.pin_height) for k, (x, y) in pins
        }

    @staticmethod
    def dimensions(n: Numbers[Carrier]) -> list[DrawnDimension]:
        out = [across("diameter", n.diameter), across("pin_circle", n.pin_circle, way=pi / 2)]
        out += [across("bore", n.bore)] if n.bore else []
        out += [
            across("pin_diameter", n.pin_diameter, n.pin_circle / 2),
            along_z("thickness", 0, n.thickness, n.diameter / 2),
        ]
        return [*out, along_z("pin_height", n.thickness, n.thickness + n.pin_height, n.pin_circle / 2)]

    @staticmethod
    def derived(n: Numbers[Carrier]) -> list[Derived]:
        return [("Angle between pins", 2 * pi / n.pins, "angle")]


def _pins(n: Numbers[Carrier]) -> list[tuple[float, float]]:
    r = n.pin_circle / 2
    return [(r * cos(2 * pi * k / n.pins), r * sin(2 * pi * k / n.pins)) for k in range(n.pins)]
