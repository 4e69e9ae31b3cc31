"""Deep-groove ball bearing by its boundary dimensions, ISO 15."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth
from uhrwerk.core.elements.hardware.sizes import nearest, sizes, table
from uhrwerk.core.field import Numbers
from uhrwerk.core.solids import Datum, Recipe, axis, circle, extrude, plane, recipe


class BallBearing(Element):
    """A deep-groove ball bearing from z = 0 up; rings, balls and cage are drawn as one body."""

    title: ClassVar[str] = "Ball bearing"
    about: ClassVar[str] = "Deep groove, ISO 15."
    group: ClassVar[str] = "Hardware"

    kind: Literal["ball_bearing"] = "ball_bearing"
    size: Annotated[str, sizes("bearings")] = "6001"

    @staticmethod
    def solid(n: Numbers[BallBearing]) -> Recipe:
        t = table("bearings")[n.size]
        return recipe({"bearing": [extrude(circle(0, 0, t["outer"] / 2), 0, t["wide"], [circle(0, 0, t["bore"] / 2)])]})

    @staticmethod
    def datums(n: Numbers[BallBearing]) -> dict[str, Datum]:
        t = table("bearings")[n.size]
        return {
            "bore": axis(0, 0, 0, t["bore"] / 2, "bore", t["wide"]), "outside": axis(0, 0, 0, t["outer"] / 2, "pin", t["wide"]),
            "bottom": plane(0, 0, 0, up=False), "top": plane(0, 0, t["wide"]),
        }  # fmt: skip

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        size = nearest("bearings", "outer", 2 * g.datum.radius, 1e-5, g.unit) if g.bore else ""
        if size:
            part = GrownPart(
                "Bearing",
                cls.model_validate({"size": size}),
                {"kind": "rigid", "offset": g.text(g.upper - table("bearings")[size]["wide"])},
                by="outside",
            )
            return [Growth(f"A ball bearing {size} held in it", (part,))]
        size = nearest("bearings", "bore", 2 * g.datum.radius, 1e-5, g.unit) if g.pin else ""
        if not size:
            return []
        at = g.ask("at", g.text(g.low + g.depth / 2))
        on = GrownPart("Bearing", cls.model_validate({"size": size}), {"kind": "revolute", "offset": at}, by="bore")
        return [Growth(f"A ball bearing {size} that turns on it", (on,), asks={"at": at})]

    @staticmethod
    def derived(n: Numbers[BallBearing]) -> list[Derived]:
        t = table("bearings")[n.size]
        return [
            ("Outer diameter", t["outer"], "length"),
            ("Width", t["wide"], "length"),
            ("Corner", t["corner"], "length"),
        ]
