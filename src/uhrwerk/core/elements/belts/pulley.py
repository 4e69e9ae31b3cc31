"""Pulley for a flat, round or V belt: known by the diameter at which the belt runs."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from uhrwerk.core.elements.belts.wheel import drive, edges, on_shaft, rim
from uhrwerk.core.elements.drawn import DrawnDimension, across, along_x, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, Growth
from uhrwerk.core.field import Numbers, Size, SizeOrNone
from uhrwerk.core.solids import Datum, Recipe, circle


class Pulley(Element):
    """A smooth rim from z = 0, with flanges on both sides if asked; the belt runs at `diameter`."""

    title: ClassVar[str] = "Belt pulley"
    about: ClassVar[str] = "A smooth pulley for a flat, round or V belt, with flanges."
    group: ClassVar[str] = "Belts and chains"
    hint: ClassVar[str] = "diameter"

    kind: Literal["pulley"] = "pulley"
    diameter: Size = Field(default="40 mm", title="Diameter at which the belt runs")
    width: Size = Field(default="10 mm", title="Width of the rim")
    bore: SizeOrNone = "8 mm"
    sunk: SizeOrNone = Field(default="1 mm", title="Belt line over the rim")
    flange: SizeOrNone = Field(default="2 mm", title="Flange height over the rim")
    flange_width: Size = "1.5 mm"

    @staticmethod
    def faults(n: Numbers[Pulley]) -> list[tuple[str, str]]:
        if outer(n) <= 0:
            return [("sunk", "leaves no rim")]
        return [("bore", "is as wide as the rim")] if n.bore / 2 >= outer(n) else []

    @staticmethod
    def solid(n: Numbers[Pulley]) -> Recipe:
        return rim("pulley", circle(0, 0, outer(n)), outer(n), n, 1)

    @staticmethod
    def datums(n: Numbers[Pulley]) -> dict[str, Datum]:
        return on_shaft(n)

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        diameter = g.ask("diameter", "40 mm")

        def made(bore: str, other: bool) -> Pulley:
            return cls(bore=bore, diameter=g.ask("next_diameter", diameter) if other else diameter)

        asks = {"diameter": diameter, "next_diameter": g.ask("next_diameter", diameter)}
        return drive(g, "A belt to a shaft of its own in the plate", "Pulley", "belt", made, asks)

    @staticmethod
    def dimensions(n: Numbers[Pulley]) -> list[DrawnDimension]:
        out = [across("diameter", n.diameter), along_z("width", 0, n.width, outer(n)), *edges(n, outer(n))]
        if n.sunk:
            out.append(along_x("sunk", outer(n), outer(n) + n.sunk))
        return out + ([across("bore", n.bore)] if n.bore else [])

    @staticmethod
    def derived(n: Numbers[Pulley]) -> list[Derived]:
        return [("Rim diameter", 2 * outer(n), "length")]


def outer(n: Numbers[Pulley]) -> float:
    """Radius of the rim, m."""
    return float(n.diameter / 2 - n.sunk)
