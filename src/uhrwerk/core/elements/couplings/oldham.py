"""Oldham coupling: two hubs with a groove across their faces, and a disc between with a tongue for each, square to one another.

The hubs turn equally; the disc's centre runs round a circle over both axes, twice a turn. Norton, Design of Machinery, section
3.10 (from memory).
"""

from __future__ import annotations

from math import sqrt
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from uhrwerk.core.elements.couplings.half import Flex, Half, capacity
from uhrwerk.core.elements.drawn import DrawnDimension, across, along_y, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth, Tie
from uhrwerk.core.elements.pin import Pin
from uhrwerk.core.field import Numbers, Size, SizeOrNone
from uhrwerk.core.solids import Datum, Recipe, axis, circle, cut_out, extrude, plane, recipe
from uhrwerk.core.solids.recipe import Outline, path

#: hubs are so many times as wide as their bore, and as long (common practice); an offset takes so much of the diameter at most
WIDE, LONG, OFFSET = 2.5, 1.2, 0.1


class OldhamHub(Half):
    """A hub from z = 0 with a groove along x across its upper face."""

    title: ClassVar[str] = "Oldham hub"
    about: ClassVar[str] = "Half of an Oldham coupling: a hub with a groove across its face."
    group: ClassVar[str] = "Couplings"
    hint: ClassVar[str] = "bore"

    kind: Literal["oldham_hub"] = "oldham_hub"
    bore: Size = "10 mm"
    diameter: Size = "25 mm"
    body: Size = Field(default="14 mm", title="Length of the hub")
    groove: Size = Field(default="6 mm", title="Width of the groove")
    depth: Size = Field(default="4 mm", title="Depth of the groove")
    gap: Size = Field(default="6.2 mm", title="Between the faces of both hubs")

    @staticmethod
    def faults(n: Numbers[OldhamHub]) -> list[tuple[str, str]]:
        problems = [("bore", "is as wide as the hub")] if n.bore >= n.diameter else []
        if n.groove >= n.diameter:
            problems.append(("groove", "is as wide as the hub"))
        if n.depth >= n.body:
            problems.append(("depth", "goes through the hub"))
        if not problems and n.groove < n.bore and n.bore**2 + n.groove**2 >= n.diameter**2:
            problems.append(("bore", "and groove together leave nothing of the face"))
        return problems

    @staticmethod
    def solid(n: Numbers[OldhamHub]) -> Recipe:
        steps = [extrude(circle(0, 0, n.diameter / 2), 0, n.body, [circle(0, 0, n.bore / 2)])]
        steps.append(cut_out(_band(n.diameter, n.groove, along_x=True), n.body - n.depth, n.body))
        return recipe({"hub": steps}, order={"hub": 2})

    @staticmethod
    def datums(n: Numbers[OldhamHub]) -> dict[str, Datum]:
        groove = Datum("axis", np.array([0.0, 0, n.body]), np.array([1.0, 0, 0]), np.array([0.0, 0, 1]))
        return {
            "axis": axis(0, 0, 0, n.bore / 2, "bore", n.body), "groove": groove, "face": plane(0, 0, n.body), "back": plane(0, 0, 0, up=False),
        }  # fmt: skip

    @staticmethod
    def takes(n: Numbers[OldhamHub]) -> Flex:
        return Flex(OFFSET * n.diameter, 0.0, 0.0)

    @staticmethod
    def apart(n: Numbers[OldhamHub]) -> float:
        return float(2 * n.body + n.gap)

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        if not g.pin:
            return []
        own = g.diameter or g.text(2 * g.datum.radius)
        next_ = g.ask("next_shaft", own)
        wide = max(2 * g.datum.radius, g.value(next_, "length"))
        hub = cls(
            bore=own,
            diameter=g.text(WIDE * wide),
            body=g.text(LONG * wide + 0.002),
            groove=g.text(wide / 2),
            depth=g.text(0.4 * wide),
            gap="6.2 mm",
        )
        disc = OldhamDisc(diameter=hub.diameter, tongue=hub.groove, depth=hub.depth, hole=g.text(0.6 * wide))
        low = g.upper - (LONG * wide + 0.002 - 0.4 * wide)  # the shaft ends at the groove
        shaft = Pin(diameter=next_, length=g.text(4 * wide))
        pieces = (
            GrownPart("Oldham hub", hub, {"kind": "rigid", "offset": g.text(max(g.low, low))}),
            GrownPart("Disc", disc, {"kind": "prismatic"}, by="lower", on="0", at="groove"),
            GrownPart("Oldham hub", hub.model_copy(update={"bore": next_}), {"kind": "prismatic"}, by="groove", on="1", at="upper"),
            GrownPart("Next shaft", shaft, {"kind": "rigid", "offset": f"{hub.body} - {hub.depth}", "flip": True}, on="2"),
        )  # fmt: skip
        ties = (Tie(("frame", g.under), ("3", "axis"), joint={"kind": "cylindrical"}),) if g.under else ()
        return [Growth("An Oldham coupling to the next shaft", pieces, ties, {"next_shaft": next_})]

    @staticmethod
    def dimensions(n: Numbers[OldhamHub]) -> list[DrawnDimension]:
        end, edge = n.body, n.diameter / 2
        return [
            across("diameter", n.diameter), across("bore", n.bore), along_y("groove", -n.groove / 2, n.groove / 2, edge),
            along_z("body", 0, end, edge), along_z("depth", end - n.depth, end, -edge), along_z("gap", end, end + n.gap, edge),
        ]  # fmt: skip

    @staticmethod
    def derived(n: Numbers[OldhamHub]) -> list[Derived]:
        return capacity(OldhamHub.takes(n))


class OldhamDisc(Element):
    """A disc from z = 0 with a tongue below along x and one above along y."""

    title: ClassVar[str] = "Oldham disc"
    about: ClassVar[str] = "The disc between the hubs of an Oldham coupling."
    group: ClassVar[str] = "Couplings"
    hint: ClassVar[str] = "diameter"

    kind: Literal["oldham_disc"] = "oldham_disc"
    diameter: Size = "25 mm"
    thickness: Size = "6 mm"
    tongue: Size = Field(default="6 mm", title="Width of the grooves")
    depth: Size = Field(default="4 mm", title="Depth of the grooves")
    play: Size = Field(default="0.1 mm", title="Play of a tongue, each side")
    hole: SizeOrNone = "6 mm"

    @staticmethod
    def faults(n: Numbers[OldhamDisc]) -> list[tuple[str, str]]:
        problems = [("tongue", "is as wide as the disc")] if n.tongue >= n.diameter else []
        if 2 * n.play >= n.tongue or n.play >= n.depth:
            problems.append(("play", "leaves no tongue"))
        if n.hole and n.hole >= n.diameter / 2:
            problems.append(("hole", "leaves too little of the disc"))
        return problems

    @staticmethod
    def solid(n: Numbers[OldhamDisc]) -> Recipe:
        wide, high = n.tongue - 2 * n.play, n.depth - n.play
        steps = [extrude(circle(0, 0, n.diameter / 2), 0, n.thickness)]
        steps.append(extrude(_band(n.diameter, wide, along_x=True), -high, 0))
        steps.append(extrude(_band(n.diameter, wide, along_x=False), n.thickness, n.thickness + high))
        if n.hole:
            steps.append(cut_out(circle(0, 0, n.hole / 2), -high, n.thickness + high))
        return recipe({"disc": steps}, order={"disc": 2})

    @staticmethod
    def datums(n: Numbers[OldhamDisc]) -> dict[str, Datum]:
        z = np.array([0.0, 0, 1])
        lower = Datum("axis", np.array([0.0, 0, -n.play]), np.array([1.0, 0, 0]), z)
        upper = Datum("axis", np.array([0.0, 0, n.thickness + n.play]), np.array([0.0, 1, 0]), -z)
        return {"lower": lower, "upper": upper, "top": plane(0, 0, n.thickness), "bottom": plane(0, 0, 0, up=False)}

    @staticmethod
    def dimensions(n: Numbers[OldhamDisc]) -> list[DrawnDimension]:
        out = [
            across("diameter", n.diameter), along_z("thickness", 0, n.thickness, n.diameter / 2), along_y("tongue", -n.tongue / 2, n.tongue / 2, n.diameter / 2),
            along_z("depth", -n.depth, 0, -n.diameter / 2),
        ]  # fmt: skip
        return out + ([across("hole", n.hole)] if n.hole else [])


def _band(diameter: float, width: float, along_x: bool) -> Outline:
    """What a band through the middle of a circle covers of it."""
    r, h = diameter / 2, width / 2
    far = sqrt(r**2 - h**2)

    def at(x: float, y: float) -> list[float]:
        return [x, y] if along_x else [-y, x]

    return path(
        at(-far, -h),
        ["line", at(far, -h)],
        ["arc", at(r, 0), at(far, h)],
        ["line", at(-far, h)],
        ["arc", at(-r, 0), at(-far, -h)],
    )
