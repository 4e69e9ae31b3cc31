"""Counterweight: a sector on one side of a ring on a shaft."""

from __future__ import annotations

from math import cos, pi, sin
from typing import ClassVar, Literal

from pydantic import Field

from uhrwerk.core.elements.drawn import DrawnDimension, across, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth
from uhrwerk.core.field import Angle, Numbers, Size
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, path, plane, recipe


class Counterweight(Element):
    """A ring with a sector whose middle lies on x; both as thick."""

    title: ClassVar[str] = "Counterweight"
    about: ClassVar[str] = "A sector on one side of a ring, to balance what turns with it."
    group: ClassVar[str] = "Shafts and pins"
    hint: ClassVar[str] = "radius"

    kind: Literal["counterweight"] = "counterweight"
    bore: Size = "8 mm"
    ring: Size = Field(default="16 mm", title="Ring diameter")
    radius: Size = Field(default="24 mm", title="Radius of the sector")
    span: Angle = Field(default="120 deg", title="Angle of the sector")
    thickness: Size = "8 mm"

    @staticmethod
    def faults(n: Numbers[Counterweight]) -> list[tuple[str, str]]:
        problems = []
        if n.ring <= n.bore:
            problems.append(("ring", "is no wider than the bore"))
        if n.radius <= n.ring / 2:
            problems.append(("radius", "does not reach beyond the ring"))
        if not 0.05 < n.span < 2 * pi - 0.05:
            problems.append(("span", "must lie between 3 and 357 deg"))
        return problems

    @staticmethod
    def solid(n: Numbers[Counterweight]) -> Recipe:
        r, h = n.ring / 2, n.span / 2

        def at(radius: float, angle: float) -> list[float]:
            return [radius * cos(angle), radius * sin(angle)]

        outline = path(
            at(n.radius, -h), ["arc", at(n.radius, 0), at(n.radius, h)], ["line", at(r, h)],
            ["arc", at(r, pi), at(r, -h)], ["line", at(n.radius, -h)],
        )  # fmt: skip
        return recipe({"weight": [extrude(outline, 0, n.thickness, [circle(0, 0, n.bore / 2)])]})

    @staticmethod
    def datums(n: Numbers[Counterweight]) -> dict[str, Datum]:
        return {
            "axis": axis(0, 0, 0, n.bore / 2, "bore", n.thickness),
            "top": plane(0, 0, n.thickness), "bottom": plane(0, 0, 0, up=False),
        }  # fmt: skip

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        if not (g.pin and g.datum.radius):
            return []
        d = 2 * g.datum.radius
        radius = g.ask("radius", g.text(3 * d))
        element = cls(bore=g.diameter or g.text(d), ring=g.text(2 * d), radius=radius, thickness=g.text(d))
        offset = g.below_upper(d + 1e-3)
        piece = GrownPart("Counterweight", element, {"kind": "rigid", "offset": offset}, by="axis")
        return [Growth("A counterweight held on it", (piece,), asks={"radius": radius})]

    @staticmethod
    def dimensions(n: Numbers[Counterweight]) -> list[DrawnDimension]:
        return [
            across("bore", n.bore), across("ring", n.ring, way=3 * pi / 4),
            DrawnDimension("radius", (0.0, 0.0, 0.0), (n.radius, 0.0, 0.0)), along_z("thickness", 0, n.thickness, n.radius),
        ]  # fmt: skip

    @staticmethod
    def derived(n: Numbers[Counterweight]) -> list[Derived]:
        return [("Chord of the sector", 2 * n.radius * sin(min(n.span, pi) / 2), "length")]
