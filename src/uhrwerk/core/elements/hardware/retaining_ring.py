"""Retaining ring for shafts, DIN 471, with the groove that it asks for."""

from __future__ import annotations

from math import asin, cos
from typing import Annotated, ClassVar, Literal

from uhrwerk.core.elements.element import Derived, Element
from uhrwerk.core.elements.growth import Ground, GrownPart, Growth
from uhrwerk.core.elements.hardware.sizes import nearest, sizes, table
from uhrwerk.core.field import Numbers
from uhrwerk.core.outlines import Rectangle
from uhrwerk.core.solids import Datum, Recipe, axis, circle, cut_out, extrude, path, plane, recipe
from uhrwerk.core.steps import Revolve


class RetainingRing(Element):
    """A retaining ring as it sits in its groove, from z = 0 up, its gap towards x; the lugs beside it are drawn as blocks."""

    title: ClassVar[str] = "Retaining ring for a shaft"
    about: ClassVar[str] = "DIN 471, in its groove."
    group: ClassVar[str] = "Hardware"

    kind: Literal["retaining_ring"] = "retaining_ring"
    size: Annotated[str, sizes("rings")] = "12"

    @staticmethod
    def solid(n: Numbers[RetainingRing]) -> Recipe:
        t = table("rings")[n.size]
        r, outer = t["groove"] / 2, t["groove"] / 2 + t["wide"]
        half, lug = t["wide"] / 2, t["groove"] / 2 + t["lug"]  # half the gap, and how far the lugs reach
        steps = [extrude(circle(0, 0, outer), 0, t["thick"], [circle(0, 0, r)])]
        for side in (1, -1):
            low, high = sorted((side * half, side * (half + t["wide"])))
            near = r * cos(asin(max(abs(low), abs(high)) / r))
            inner = [[r * cos(asin(y / r)), y] for y in (low, high)]
            middle = r * cos(asin((low + high) / 2 / r))
            block = path(
                inner[0],
                ["line", [lug, low]],
                ["line", [lug, high]],
                ["line", inner[1]],
                ["arc", [middle, (low + high) / 2], inner[0]],
            )
            assert near > 0
            steps.append(extrude(block, 0, t["thick"]))
        gap = path(
            (0, -half), ["line", [2 * lug, -half]], ["line", [2 * lug, half]], ["line", [0, half]], ["line", [0, -half]]
        )
        return recipe({"ring": [*steps, cut_out(gap, -1e-3, t["thick"] + 1e-3)]})

    @staticmethod
    def datums(n: Numbers[RetainingRing]) -> dict[str, Datum]:
        t = table("rings")[n.size]
        return {
            "axis": axis(0, 0, 0, t["groove"] / 2, "bore", t["thick"]),
            "bottom": plane(0, 0, 0, up=False),
            "top": plane(0, 0, t["thick"]),
        }

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        size = nearest("rings", "shaft", 2 * g.datum.radius, 1e-5, g.unit) if g.pin else ""
        if not size or not g.along_z:
            return []
        t = table("rings")[size]
        at = g.ask("at", g.text(g.low + 0.75 * g.depth))
        ring = GrownPart(
            "Ring",
            cls.model_validate({"size": size}),
            {"kind": "rigid", "offset": g.text(-t["thick"] / 2)},
            at="$ring_groove.side_4",
        )
        up = f"$at + {g.text(float(g.datum.origin[2]) + t['thick'] / 2)}"
        deep = (t["shaft"] - t["groove"]) / 2 + 0.1e-3
        groove = Revolve(
            name="Ring groove", plane="xz", axis="y", does="takes away",
            outline=Rectangle(length=g.text(deep), width=g.text(t["slot"]), x=g.text(t["groove"] / 2 + deep / 2), y=up),
        )  # fmt: skip
        return [
            Growth(
                f"A retaining ring {size} in its groove", (ring,), asks={"at": at}, done=(groove,), shared={"at": at}
            )
        ]

    @staticmethod
    def derived(n: Numbers[RetainingRing]) -> list[Derived]:
        t = table("rings")[n.size]
        return [
            ("Groove diameter", t["groove"], "length"), ("Groove width", t["slot"], "length"), ("Thickness", t["thick"], "length"),
            ("Diameter over lugs", t["groove"] + 2 * t["lug"], "length"),
        ]  # fmt: skip
