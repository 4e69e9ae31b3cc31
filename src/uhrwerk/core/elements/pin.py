"""Pin or shaft: a cylinder along z from z = 0, with a head below it and broken edges if asked."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.elements.drawn import DrawnDimension, along_z, through
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth
from uhrwerk.core.field import Numbers, Size, SizeOrNone
from uhrwerk.core.solids import Datum, Recipe, axis, chamfer, circle, extrude, plane, recipe


class Pin(Element):
    """A straight pin or shaft along z, from z = 0, with an optional head below and broken edges."""

    title: ClassVar[str] = "Pin or shaft"
    about: ClassVar[str] = "A straight pin or shaft, with a head and broken edges if asked."
    group: ClassVar[str] = "Shafts and pins"
    hint: ClassVar[str] = "diameter"

    kind: Literal["pin"] = "pin"
    diameter: Size = "5 mm"
    length: Size = "20 mm"
    head_diameter: SizeOrNone = "0 mm"
    head_height: SizeOrNone = "0 mm"
    chamfer: SizeOrNone = "0 mm"

    @staticmethod
    def faults(n: Numbers[Pin]) -> list[tuple[str, str]]:
        problems = []
        if bool(n.head_diameter) != bool(n.head_height):
            problems.append(("head_height", "and head diameter are given together or not at all"))
        if n.head_diameter and n.head_diameter <= n.diameter:
            problems.append(("head_diameter", "must be larger than the pin"))
        ends = [n.diameter / 2, n.length if n.head_height else n.length / 2]
        ends += [n.head_height, n.head_diameter / 2] if n.head_height else []
        if n.chamfer >= min(ends):
            problems.append(("chamfer", f"is too large for the ends: it must be below {1e3 * min(ends):.3f} mm"))
        return problems

    @staticmethod
    def solid(n: Numbers[Pin]) -> Recipe:
        steps = [extrude(circle(0, 0, n.diameter / 2), 0, n.length)]
        if n.head_height:
            steps.append(extrude(circle(0, 0, n.head_diameter / 2), -n.head_height, 0))
        if n.chamfer:
            steps += [chamfer(n.chamfer, at_z=n.length), chamfer(n.chamfer, at_z=-n.head_height)]
        return recipe({"pin": steps})

    @staticmethod
    def datums(n: Numbers[Pin]) -> dict[str, Datum]:
        named = {"axis": axis(0, 0, 0, n.diameter / 2, "pin", n.length), "top": plane(0, 0, n.length)}
        named["bottom"] = plane(0, 0, -n.head_height, up=False)
        if n.head_height:
            named["under_head"] = plane(0, 0, 0)
        return named

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        if g.face:
            high, wide = g.ask("length", "20 mm"), g.ask("diameter", "6 mm")
            post = GrownPart("Post", cls(diameter=wide, length=high), {"kind": "rigid", "flip": True}, by="bottom")
            return [Growth("A post on it", (post,), asks={"diameter": wide, "length": high})]
        if not g.bore:
            return []
        length = g.ask("length", g.text(g.depth + 0.015))
        turns = GrownPart("Shaft", cls(diameter=g.running, length=length), {"kind": "revolute", "offset": g.down})
        part = GrownPart(
            "Pin",
            cls(diameter=g.diameter or g.text(2 * g.datum.radius), length=length),
            {"kind": "rigid", "offset": g.down},
        )
        asks = {"length": length}
        return [Growth("A shaft that turns in it", (turns,), asks=asks), Growth("A pin held in it", (part,), asks=asks)]

    @staticmethod
    def dimensions(n: Numbers[Pin]) -> list[DrawnDimension]:
        out = [through("diameter", n.diameter, n.length / 2), along_z("length", 0, n.length, n.diameter / 2)]
        if n.head_height:
            out.append(through("head_diameter", n.head_diameter, -n.head_height / 2))
            out.append(along_z("head_height", -n.head_height, 0, n.head_diameter / 2))
        return out

    @staticmethod
    def derived(n: Numbers[Pin]) -> list[Derived]:
        return [("Overall length", n.length + n.head_height, "length")]
