"""Arc link: a band along an arc with a hole at each end, and an arc slot between them if asked."""

from __future__ import annotations

from math import cos, pi, sin
from typing import ClassVar, Literal

from uhrwerk.core.elements.drawn import DrawnDimension, across, along_x, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.field import Angle, Numbers, Size
from uhrwerk.core.solids import Datum, Recipe, arc_band, axis, circle, extrude, plane, recipe, slot


class ArcLink(Element):
    """A link along an arc round the origin, with a hole at each end, and a slot along the arc if asked."""

    title: ClassVar[str] = "Arc link"
    about: ClassVar[str] = "A link along an arc with end holes and, optionally, an arc slot."
    group: ClassVar[str] = "Links and levers"
    hint: ClassVar[str] = "radius"

    kind: Literal["arc_link"] = "arc_link"
    radius: Size = "60 mm"
    span: Angle = "90 deg"
    width: Size = "16 mm"
    thickness: Size = "5 mm"
    bore: Size = "5 mm"
    slot: Angle = "0 deg"
    slot_width: Size = "6.1 mm"

    @staticmethod
    def faults(n: Numbers[ArcLink]) -> list[tuple[str, str]]:
        problems = []
        if n.width >= 2 * n.radius:
            problems.append(("width", "is too large for the radius"))
        if not 0.05 < n.span < 2 * pi - n.width / n.radius:
            problems.append(("span", "must leave the ends apart"))
        if n.bore >= n.width:
            problems.append(("bore", "is as wide as the link"))
        if n.slot and n.slot_width >= n.width:
            problems.append(("slot_width", "is as wide as the link"))
        if n.slot and n.slot < 0:
            problems.append(("slot", "must not be negative"))
        if n.slot and (n.span - n.slot) / 2 * n.radius <= (n.slot_width + n.bore) / 2:
            problems.append(("slot", "runs into the end holes"))
        return problems

    @staticmethod
    def solid(n: Numbers[ArcLink]) -> Recipe:
        holes = [circle(x, y, n.bore / 2) for x, y in _ends(n)]
        if n.slot:
            holes.append(arc_band(n.radius, n.slot_width, -n.slot / 2, n.slot / 2))
        return recipe({"link": [extrude(arc_band(n.radius, n.width, -n.span / 2, n.span / 2), 0, n.thickness, holes)]})

    @staticmethod
    def datums(n: Numbers[ArcLink]) -> dict[str, Datum]:
        named = {f"hole_{k}": axis(x, y, 0, n.bore / 2, "bore", n.thickness) for k, (x, y) in enumerate(_ends(n), 1)}
        named |= {
            "centre": axis(0, 0, 0),
            "top": plane(n.radius, 0, n.thickness),
            "bottom": plane(n.radius, 0, 0, up=False),
        }
        if n.slot:
            named["slot"] = slot(0, 0, 0, n.slot * n.radius, n.radius)
        return named

    @staticmethod
    def dimensions(n: Numbers[ArcLink]) -> list[DrawnDimension]:
        r, h, s = n.radius, n.width / 2, n.slot_width / 2
        out = [along_x("radius", 0, r), along_x("width", r - h, r + h), along_z("thickness", 0, n.thickness, r)]
        out += [along_x("slot_width", r - s, r + s)] if n.slot else []
        return [*out, across("bore", n.bore, *_ends(n)[0])]

    @staticmethod
    def derived(n: Numbers[ArcLink]) -> list[Derived]:
        return [("Hole to hole", 2 * n.radius * sin(n.span / 2), "length")]


def _ends(n: Numbers[ArcLink]) -> list[tuple[float, float]]:
    return [(n.radius * cos(a), n.radius * sin(a)) for a in (-n.span / 2, n.span / 2)]
