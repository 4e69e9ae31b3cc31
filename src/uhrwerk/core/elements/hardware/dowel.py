"""Parallel pin, ISO 2338."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from uhrwerk.core.elements.drawn import DrawnDimension, along_z
from uhrwerk.core.elements.element import Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth
from uhrwerk.core.elements.hardware.sizes import nearest, sizes, table
from uhrwerk.core.field import Numbers, Size
from uhrwerk.core.solids import Datum, Recipe, axis, chamfer, circle, extrude, plane, recipe


class Dowel(Element):
    """A parallel pin from z = 0 up, both ends chamfered."""

    title: ClassVar[str] = "Dowel"
    about: ClassVar[str] = "ISO 2338, a parallel pin."
    group: ClassVar[str] = "Hardware"
    hint: ClassVar[str] = "length"

    kind: Literal["dowel"] = "dowel"
    size: Annotated[str, sizes("dowels")] = "4"
    length: Size = "16 mm"

    @staticmethod
    def faults(n: Numbers[Dowel]) -> list[tuple[str, str]]:
        least = 2 * table("dowels")[n.size]["chamfer"]
        return [] if n.length > least else [("length", f"must be above {least * 1e3:g} mm, both chamfers")]

    @staticmethod
    def solid(n: Numbers[Dowel]) -> Recipe:
        t = table("dowels")[n.size]
        size = min(t["chamfer"], 0.45 * t["d"])
        steps = [
            extrude(circle(0, 0, t["d"] / 2), 0, n.length),
            chamfer(size * 0.5, at_z=0.0),
            chamfer(size * 0.5, at_z=n.length),
        ]
        return recipe({"dowel": steps})

    @staticmethod
    def datums(n: Numbers[Dowel]) -> dict[str, Datum]:
        r = table("dowels")[n.size]["d"] / 2
        return {
            "axis": axis(0, 0, 0, r, "pin", n.length),
            "bottom": plane(0, 0, 0, up=False),
            "top": plane(0, 0, n.length),
        }

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        size = nearest("dowels", "d", 2 * g.datum.radius, 1e-5, g.unit) if g.bore else ""
        if not size:
            return []
        length = g.ask("length", g.text(g.depth + 2 * table("dowels")[size]["d"]))
        dowel = GrownPart(
            "Dowel",
            cls.model_validate({"size": size, "length": length}),
            {"kind": "rigid", "offset": g.text(g.upper - g.depth)},
        )
        return [Growth(f"A dowel {size} held in it", (dowel,), asks={"length": length})]

    @staticmethod
    def dimensions(n: Numbers[Dowel]) -> list[DrawnDimension]:
        return [along_z("length", 0, n.length, table("dowels")[n.size]["d"] / 2)]
