"""Plain bush, ISO 4379."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from uhrwerk.core.elements.drawn import DrawnDimension, along_z
from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth
from uhrwerk.core.elements.hardware.sizes import nearest, sizes, table
from uhrwerk.core.field import Numbers, Size
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe


class Bush(Element):
    """A plain bush from z = 0 up."""

    title: ClassVar[str] = "Plain bush"
    about: ClassVar[str] = "ISO 4379, of copper alloy, form C."
    group: ClassVar[str] = "Hardware"
    hint: ClassVar[str] = "length"

    kind: Literal["bush"] = "bush"
    size: Annotated[str, sizes("bushes")] = "10"
    length: Size = "10 mm"

    @staticmethod
    def solid(n: Numbers[Bush]) -> Recipe:
        t = table("bushes")[n.size]
        return recipe({"bush": [extrude(circle(0, 0, t["outer"] / 2), 0, n.length, [circle(0, 0, t["inner"] / 2)])]})

    @staticmethod
    def datums(n: Numbers[Bush]) -> dict[str, Datum]:
        t = table("bushes")[n.size]
        return {
            "bore": axis(0, 0, 0, t["inner"] / 2, "bore", n.length), "outside": axis(0, 0, 0, t["outer"] / 2, "pin", n.length),
            "bottom": plane(0, 0, 0, up=False), "top": plane(0, 0, n.length),
        }  # fmt: skip

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        size = nearest("bushes", "outer", 2 * g.datum.radius, 1e-5, g.unit) if g.bore else ""
        if not size:
            return []
        length = g.ask("length", g.text(g.depth))
        bush = GrownPart(
            "Bush",
            cls.model_validate({"size": size, "length": length}),
            {"kind": "rigid", "offset": g.text(g.low)},
            by="outside",
        )
        return [Growth(f"A plain bush {size} held in it", (bush,), asks={"length": length})]

    @staticmethod
    def dimensions(n: Numbers[Bush]) -> list[DrawnDimension]:
        return [along_z("length", 0, n.length, table("bushes")[n.size]["outer"] / 2)]

    @staticmethod
    def derived(n: Numbers[Bush]) -> list[Derived]:
        return [("Outer diameter", table("bushes")[n.size]["outer"], "length")]
