"""Cylinder or tube: round, along z, with a bore if asked and its outer edges bevelled if asked."""

from __future__ import annotations

from typing import ClassVar, Literal

from uhrwerk.core.elements.drawn import DrawnDimension, across, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth
from uhrwerk.core.elements.plain.faces import GROUP, middle_planes
from uhrwerk.core.field import Numbers, Size, SizeOrNone
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe


class Tube(Element):
    """A cylinder about the z axis, from z = 0 up."""

    title: ClassVar[str] = "Cylinder or tube"
    about: ClassVar[str] = "A round bar or disc; with a bore it is a tube or a ring."
    group: ClassVar[str] = GROUP
    hint: ClassVar[str] = "diameter"

    kind: Literal["tube"] = "tube"
    diameter: Size = "20 mm"
    bore: SizeOrNone = "0 mm"
    length: Size = "40 mm"

    @staticmethod
    def faults(n: Numbers[Tube]) -> list[tuple[str, str]]:
        return [("bore", "leaves no wall")] if n.bore >= n.diameter else []

    @staticmethod
    def solid(n: Numbers[Tube]) -> Recipe:
        holes = [circle(0, 0, n.bore / 2)] if n.bore else []
        return recipe({"tube": [extrude(circle(0, 0, n.diameter / 2), 0, n.length, holes)]})

    @staticmethod
    def datums(n: Numbers[Tube]) -> dict[str, Datum]:
        named = {
            "outside": axis(0, 0, 0, n.diameter / 2, "pin", n.length),
            "top": plane(0, 0, n.length), "bottom": plane(0, 0, 0, up=False), **middle_planes(n.length / 2),
        }  # fmt: skip
        return named | ({"bore": axis(0, 0, 0, n.bore / 2, "bore", n.length)} if n.bore else {})

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        """A cylinder on a face, in the middle of that; a wheel on a pin."""
        if g.face:
            asks = {k: g.ask(k, text) for k, text in (("diameter", "16 mm"), ("length", "20 mm"))}
            column = GrownPart(
                "Cylinder",
                cls(diameter=asks["diameter"], length=asks["length"]),
                {"kind": "rigid", "flip": True},
                by="bottom",
            )
            return [Growth("A cylinder on it", (column,), asks=asks)]
        return [cls._wheel(g)] if g.pin and g.datum.radius else []

    @classmethod
    def _wheel(cls, g: Ground) -> Growth:
        """A disc that turns on the pin, as wide as that is thick, at its upper end."""
        wide = 2 * g.datum.radius
        length = g.ask("length", g.text(wide))
        at = g.ask("at", g.below_upper(g.value(length, "length")))
        asks = {"diameter": g.ask("diameter", g.text(4 * wide)), "length": length, "at": at}
        disc = cls(diameter=asks["diameter"], bore=g.running, length=length)
        wheel = GrownPart("Wheel", disc, {"kind": "revolute", "offset": at}, by="bore")
        return Growth("A wheel that turns on it", (wheel,), asks=asks)

    @staticmethod
    def dimensions(n: Numbers[Tube]) -> list[DrawnDimension]:
        out = [across("diameter", n.diameter), along_z("length", 0, n.length)]
        return out + ([across("bore", n.bore, way=-0.8)] if n.bore else [])

    @staticmethod
    def derived(n: Numbers[Tube]) -> list[Derived]:
        return [("Wall", (n.diameter - n.bore) / 2, "length")] if n.bore else []
