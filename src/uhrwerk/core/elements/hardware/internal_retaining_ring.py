"""Retaining ring for bores, DIN 472, with the groove that it asks for."""

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


class InternalRetainingRing(Element):
    """A retaining ring as it sits in its groove, from z = 0 up, its gap towards x; the lugs beside it are drawn as blocks."""

    title: ClassVar[str] = "Retaining ring for a bore"
    about: ClassVar[str] = "DIN 472, in its groove."
    group: ClassVar[str] = "Hardware"

    kind: Literal["internal_retaining_ring"] = "internal_retaining_ring"
    size: Annotated[str, sizes("internal_retaining_rings")] = "28"

    @staticmethod
    def solid(n: Numbers[InternalRetainingRing]) -> Recipe:
        t = table("internal_retaining_rings")[n.size]
        r, inner = t["groove"] / 2, t["groove"] / 2 - t["wide"]
        half, lug = t["wide"] / 2, t["groove"] / 2 - t["lug"]
        steps = [extrude(circle(0, 0, r), 0, t["thick"], [circle(0, 0, inner)])]
        for side in (1, -1):
            low, high = sorted((side * half, side * (half + t["wide"])))
            outer = [[r * cos(asin(y / r)), y] for y in (low, high)]
            middle = r * cos(asin((low + high) / 2 / r))
            block = path(
                [lug, low], ["line", outer[0]], ["arc", [middle, (low + high) / 2], outer[1]], ["line", [lug, high]],
                ["line", [lug, low]],
            )  # fmt: skip
            steps.append(extrude(block, 0, t["thick"]))
        gap = path(
            (0, -half), ["line", [2 * r, -half]], ["line", [2 * r, half]], ["line", [0, half]], ["line", [0, -half]]
        )
        return recipe({"ring": [*steps, cut_out(gap, -1e-3, t["thick"] + 1e-3)]})

    @staticmethod
    def datums(n: Numbers[InternalRetainingRing]) -> dict[str, Datum]:
        t = table("internal_retaining_rings")[n.size]
        return {
            "axis": axis(0, 0, 0, t["groove"] / 2, "pin", t["thick"]),
            "bottom": plane(0, 0, 0, up=False),
            "top": plane(0, 0, t["thick"]),
        }

    @classmethod
    def grows(cls, g: Ground) -> list[Growth]:
        size = (
            nearest("internal_retaining_rings", "bore", 2 * g.datum.radius, 1e-5, g.unit)
            if g.bore and g.upright
            else ""
        )
        if not size:
            return []
        t = table("internal_retaining_rings")[size]
        if g.depth < 2 * t["slot"]:
            return []
        at = g.ask("at", g.text(g.upper - g.depth / 4 - t["slot"] / 2))
        deep = (t["groove"] - t["bore"]) / 2 + 0.1e-3
        x, y, _ = g.datum.origin
        up = f"$at + {g.text(float(g.datum.origin[2]) + t['thick'] / 2)}"
        groove = Revolve(
            name="Ring groove", plane="xz", offset=g.text(-y), axis="y", axis_offset=g.text(x), does="takes away",
            outline=Rectangle(length=g.text(deep), width=g.text(t["slot"]), x=g.text(x + t["groove"] / 2 - deep / 2), y=up),
        )  # fmt: skip
        ring = GrownPart(
            "Ring",
            cls.model_validate({"size": size}),
            {"kind": "rigid", "offset": g.text(-t["thick"] / 2)},
            at="$ring_groove.side_2",
        )
        asks = {"at": at}
        return [Growth(f"A retaining ring {size} in its groove", (ring,), asks=asks, done=(groove,), shared=asks)]

    @staticmethod
    def derived(n: Numbers[InternalRetainingRing]) -> list[Derived]:
        t = table("internal_retaining_rings")[n.size]
        return [
            ("Groove diameter", t["groove"], "length"), ("Groove width", t["slot"], "length"), ("Thickness", t["thick"], "length"),
            ("Diameter within the lugs", t["groove"] - 2 * t["lug"], "length"),
        ]  # fmt: skip
