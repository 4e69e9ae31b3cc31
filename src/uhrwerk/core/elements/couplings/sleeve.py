"""Rigid sleeve over two shafts in line."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from uhrwerk.core.elements.couplings.half import across as step
from uhrwerk.core.elements.drawn import DrawnDimension, across, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth
from uhrwerk.core.elements.pin import Pin
from uhrwerk.core.field import Numbers, Size, SizeOrNone
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe

#: a sleeve is so many times as wide and as long as its wider bore (common practice)
WIDE, LONG = 2.0, 3.0


class Sleeve(Element):
    """A tube from z = 0 with a bore for each shaft, which meet in its middle, and a hole for a set screw over each, along x."""

    title: ClassVar[str] = "Sleeve coupling"
    about: ClassVar[str] = "A rigid tube over the ends of two shafts, with set screw holes."
    group: ClassVar[str] = "Couplings"
    hint: ClassVar[str] = "bore"

    kind: Literal["sleeve"] = "sleeve"
    bore: Size = "10 mm"
    other_bore: Size = "10 mm"
    diameter: Size = "20 mm"
    length: Size = "30 mm"
    screw_hole: SizeOrNone = Field(default="3.3 mm", title="Set screw holes")

    @staticmethod
    def faults(n: Numbers[Sleeve]) -> list[tuple[str, str]]:
        problems = [(f, "is as wide as the sleeve") for f in ("bore", "other_bore") if getattr(n, f) >= n.diameter]
        if not problems and n.screw_hole >= min(n.length / 2, n.diameter):
            problems.append(("screw_hole", "is larger than its half of the sleeve"))
        return problems

    @staticmethod
    def solid(n: Numbers[Sleeve]) -> Recipe:
        half, r = n.length / 2, n.diameter / 2
        steps = [extrude(circle(0, 0, r), 0, half, [circle(0, 0, n.bore / 2)])]
        steps.append(extrude(circle(0, 0, r), half, n.length, [circle(0, 0, n.other_bore / 2)]))
        if n.screw_hole:
            for k, z in enumerate((half / 2, 1.5 * half)):
                steps.append(step("take", f"screw_{k + 1}", "yz", circle(0, z, n.screw_hole / 2), 0, 2 * r))
        return recipe({"sleeve": steps})

    @staticmethod
    def datums(n: Numbers[Sleeve]) -> dict[str, Datum]:
        half = n.length / 2
        return {
            "axis": axis(0, 0, 0, n.bore / 2, "bore", half), "other": axis(0, 0, half, n.other_bore / 2, "bore", half),
            "bottom": plane(0, 0, 0, up=False), "top": plane(0, 0, n.length),
        }  # fmt: skip

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        if not g.pin:
            return []
        own = g.diameter or g.text(2 * g.datum.radius)
        next_ = g.ask("next_shaft", own)
        wide = 2 * g.datum.radius
        sleeve = cls(bore=own, other_bore=next_, diameter=f"{WIDE:g} * max({own}, {next_})", length=g.text(LONG * wide))
        pieces = (
            GrownPart("Sleeve", sleeve, {"kind": "rigid", "offset": g.text(g.upper - LONG * wide / 2)}),
            GrownPart(
                "Next shaft", Pin(diameter=next_, length=g.text(4 * wide)), {"kind": "rigid"}, on="0", at="other"
            ),
        )
        return [Growth("A sleeve to the next shaft", pieces, asks={"next_shaft": next_})]

    @staticmethod
    def dimensions(n: Numbers[Sleeve]) -> list[DrawnDimension]:
        middle, half = n.length / 4, n.screw_hole / 2
        out = [
            across("diameter", n.diameter), across("bore", n.bore), across("other_bore", n.other_bore, way=0), along_z("length", 0, n.length, n.diameter / 2),
        ]  # fmt: skip
        return out + ([along_z("screw_hole", middle - half, middle + half, -n.diameter / 2)] if n.screw_hole else [])

    @staticmethod
    def derived(n: Numbers[Sleeve]) -> list[Derived]:
        return [("Wall", (n.diameter - max(n.bore, n.other_bore)) / 2, "length")]
