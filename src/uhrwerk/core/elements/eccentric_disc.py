"""Disc with an eccentric pin: a crank in its plainest form."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.elements.drawn import DrawnDimension, across, along_x, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import GAP, Ground, GrownPart, Growth
from uhrwerk.core.elements.pin import Pin
from uhrwerk.core.field import Numbers, Size, SizeOrNone
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe


class EccentricDisc(Element):
    """A disc with a bore and a crank pin off its axis."""

    title: ClassVar[str] = "Disc with eccentric pin"
    about: ClassVar[str] = "A crank disc with a bore and a pin off its axis."
    group: ClassVar[str] = "Links and levers"
    hint: ClassVar[str] = "eccentricity"

    kind: Literal["eccentric_disc"] = "eccentric_disc"
    diameter: Size = "50 mm"
    thickness: Size = "6 mm"
    bore: SizeOrNone = "8 mm"
    eccentricity: Size = "18 mm"
    pin_diameter: Size = "6 mm"
    pin_height: Size = "10 mm"

    @staticmethod
    def faults(n: Numbers[EccentricDisc]) -> list[tuple[str, str]]:
        problems = []
        if n.eccentricity + n.pin_diameter / 2 > n.diameter / 2:
            problems.append(("eccentricity", "puts the pin beyond the edge of the disc"))
        if n.bore and n.eccentricity - n.pin_diameter / 2 < n.bore / 2:
            problems.append(("bore", "runs into the pin"))
        return problems

    @staticmethod
    def solid(n: Numbers[EccentricDisc]) -> Recipe:
        holes = [circle(0, 0, n.bore / 2)] if n.bore else []
        pin = extrude(circle(n.eccentricity, 0, n.pin_diameter / 2), n.thickness, n.thickness + n.pin_height)
        return recipe({"disc": [extrude(circle(0, 0, n.diameter / 2), 0, n.thickness, holes)], "pin": [pin]})

    @staticmethod
    def datums(n: Numbers[EccentricDisc]) -> dict[str, Datum]:
        middle = axis(0, 0, 0, n.bore / 2, "bore", n.thickness) if n.bore else axis(0, 0, 0)
        return {
            "axis": middle, "crank_pin": axis(n.eccentricity, 0, n.thickness, n.pin_diameter / 2, "pin", n.pin_height),
            "top": plane(0, 0, n.thickness), "bottom": plane(0, 0, 0, up=False),
        }  # fmt: skip

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        if not g.in_plate:
            return []
        radius, above = g.ask("eccentricity", "18 mm"), g.text(g.depth + GAP)
        shaft = Pin(diameter=g.running, length=f"{above} + 6 mm")
        disc = cls(eccentricity=radius, diameter=f"2 * ({radius}) + 14 mm", bore=shaft.diameter)
        return [Growth("A crank disc that turns in it", (
            GrownPart("Crank shaft", shaft, {"kind": "revolute", "offset": g.down}),
            GrownPart("Crank disc", disc, {"kind": "rigid", "offset": above}, on="0"),
        ), asks={"eccentricity": radius})]  # fmt: skip

    @staticmethod
    def dimensions(n: Numbers[EccentricDisc]) -> list[DrawnDimension]:
        top = n.thickness + n.pin_height
        out = [across("diameter", n.diameter), along_x("eccentricity", 0, n.eccentricity)]
        out += [across("bore", n.bore)] if n.bore else []
        out += [
            across("pin_diameter", n.pin_diameter, n.eccentricity),
            along_z("thickness", 0, n.thickness, n.diameter / 2),
        ]
        return [*out, along_z("pin_height", n.thickness, top, n.eccentricity)]

    @staticmethod
    def derived(n: Numbers[EccentricDisc]) -> list[Derived]:
        return [("Stroke of the pin", 2 * n.eccentricity, "length")]
